import { fold, likeness, PERHAPS_ONE, type Likeable } from '@eager-sieve/core';
import { type Duplicates } from '@eager-sieve/contracts';
import fc from 'fast-check';
import { TestServer } from './harness';

interface Made {
  readonly email: string;
  readonly given: string;
  readonly family: string;
  readonly phone: string | undefined;
  readonly company: number | undefined;
}
const made: fc.Arbitrary<Omit<Made, 'email'> & { readonly local: string; readonly place: string }> = fc.record({
  local: fc.constantFrom('anna.brandt', 'annabrandt', 'anna_brandt+shop', 'bo', 'b.o', 'cid+a', 'cid', '-', 'dee'),
  place: fc.constantFrom('a.example', 'b.example'),
  given: fc.constantFrom('Anna', 'Bo', 'Åsa'),
  family: fc.constantFrom('', 'Brandt', 'Falk'),
  phone: fc.constantFrom(undefined, '+46 70 123 45 67', '0701234567', '046-70123456', '12 34'),
  company: fc.constantFrom(undefined, 0, 1),
});

describe('contacts that may be one person', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start();
    await server
      .call('put', '/api/v1/companies')
      .send({ companies: [0, 1].map((n) => ({ outsideId: `firm-${n}`, name: `Firm ${n}` })) })
      .expect(200);
  });
  afterAll(() => server.stop());

  const list = async (): Promise<Duplicates> => (await server.call('get', '/api/app/duplicates').expect(200)).body as Duplicates;
  const put = async (people: readonly Made[]): Promise<readonly string[]> => {
    const { body } = await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: people.map(({ email, given, family, phone, company }) => ({
          email,
          fields: { 'given-name': given, ...(family ? { 'family-name': family } : {}), ...(phone ? { phone } : {}) },
          ...(company === undefined ? {} : { company: `firm-${company}` }),
        })),
      })
      .expect(200);
    await server.idle();
    return body.results.map((result: { contact: string }) => result.contact);
  };
  const clear = async (uids: readonly string[]): Promise<void> => {
    for (const uid of uids) await server.call('delete', `/api/v1/contacts/${uid}`).expect(204);
  };

  it('are exactly the pairs that are alike enough, whoever there is', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(made, { minLength: 2, maxLength: 9, selector: ({ local, place }) => `${local}@${place}` }),
        async (drawn) => {
          const people = drawn.map(({ local, place, ...rest }): Made => ({ ...rest, email: `${local}@${place}` }));
          const uids = await put(people);
          const likeable = ({ email, given, family, phone, company }: Made): Likeable => ({
            name: fold(`${given} ${family}`.trim()),
            email,
            phone: phone && fold(phone),
            company,
          });
          const expected: string[] = [];
          people.forEach((a, i) =>
            people.forEach((b, j) => {
              const { points } = likeness(likeable(a), likeable(b));
              if (i < j && points >= PERHAPS_ONE) expected.push(`${[uids[i], uids[j]].sort().join(' ')} ${points}`);
            }),
          );
          const found = await list();
          const said = found.pairs.map(
            ({ contacts, points }) =>
              `${contacts
                .map(({ id }) => id)
                .sort()
                .join(' ')} ${points}`,
          );
          await clear(uids);
          expect(said.sort()).toEqual(expected.sort());
          expect(found.all).toBe(expected.length);
        },
      ),
      { numRuns: 25 },
    );
  });

  it('are merged, kept apart, and found again when they are parted', async () => {
    const uids = await put([
      { email: 'eve.ravn@a.example', given: 'Eve', family: 'Ravn', phone: '0701234567', company: undefined },
      { email: 'everavn@a.example', given: 'Eve', family: 'Ravn', phone: undefined, company: undefined },
      { email: 'other@b.example', given: 'Kai', family: 'Ravn', phone: '+46 70 123 45 67', company: undefined },
    ]);
    const first = await list();
    expect(first).toMatchObject({ all: 2, certain: 1 });
    expect(first.pairs.map(({ points, alike, isCertain }) => ({ points, alike, isCertain }))).toEqual([
      { points: 90, alike: ['mailbox', 'name'], isCertain: true },
      { points: 45, alike: ['phone'], isCertain: false },
    ]);
    expect(first.pairs[0]?.contacts.map(({ email }) => email)).toEqual(['eve.ravn@a.example', 'everavn@a.example']);

    await server.call('post', '/api/app/duplicates/apart').send({ a: uids[2], b: uids[0] }).expect(204);
    expect((await list()).all).toBe(1);
    await server.call('post', '/api/app/duplicates/apart').send({ a: uids[0], b: uids[0] }).expect(422);

    const { body: merged } = await server.call('post', `/api/v1/contacts/${uids[0]}/merge`).send({ other: uids[1] }).expect(200);
    expect((await list()).all).toBe(0);
    await server.call('post', `/api/v1/merges/${merged.merge}/take-back`).expect(204);
    await server.idle();
    expect((await list()).all).toBe(1);
    await clear([uids[2] ?? '']);
    expect(await server.database.query('select 1 from contact_apart')).toEqual([]);
    await clear(uids.slice(0, 2));
  });

  it('are not made of what many share', async () => {
    const uids = await put(
      Array.from({ length: 13 }, (_, n) => ({
        email: `s${n}@c.example`,
        given: `P${n}`,
        family: 'Ravn',
        phone: '0812345678',
        company: undefined,
      })),
    );
    expect((await list()).all).toBe(0);
    await clear(uids);
  });
});
