import { type ContactView, type MergeAnswer } from '@eager-sieve/contracts';
import { StandingClock } from '../src/engine/clock';
import { event, TestServer } from './harness';
import { SET_UP } from './world';

const START = Date.UTC(2026, 10, 25, 9, 0);
const LISTED = {
  ...SET_UP,
  ladder: [
    { key: 'heard', name: 'heard of us' },
    { key: 'customer', name: 'customer' },
  ],
  audiences: [...SET_UP.audiences, { key: 'guests', name: 'Guests', kind: 'fixed' }],
  pipelines: [{ key: 'deals', name: 'Deals', stages: [{ key: 'open', name: 'open' }] }],
};

describe('contacts that are one person', () => {
  let server: TestServer;
  let clock: StandingClock;
  beforeEach(async () => {
    clock = new StandingClock(START);
    server = await TestServer.start({ clock });
    await server.define(LISTED);
  });
  afterEach(() => server.stop());

  const contact = async (email: string): Promise<ContactView> =>
    (await server.call('get', `/api/v1/contacts/${email}`).expect(200)).body as ContactView;
  const verified = async (): Promise<void> => expect((await server.verify(clock)).byKind).toEqual({});
  const furnish = async (): Promise<void> => {
    await server
      .call('put', '/api/v1/contacts')
      .send({
        contacts: [
          { email: 'pia@test.example', fields: { years: 3 }, consent: { email: 'withdrawn' }, stage: 'heard' },
          {
            email: 'pia@work.example',
            fields: { city: 'Saltwick' },
            tags: { 'snag.price': true },
            stage: 'customer',
            lists: { guests: true },
          },
        ],
      })
      .expect(200);
    await server
      .call('put', '/api/v1/deals')
      .send({ deals: [{ outsideId: 'd1', contact: 'pia@work.example', amount: '10.00' }] })
      .expect(200);
    await server.signals(
      event('order.placed', 'pia@test.example', { order: '1' }),
      event('order.placed', 'pia@work.example', { order: '2' }),
      event('form.answered', 'pia@work.example', { form: 'find', answers: { stops: 'price', consent: true } }),
    );
  };
  /** Everything but since when: going back and forth is a movement. */
  const known = ({ fields, tags, stage, audiences, scores, consent, deals }: ContactView): unknown => ({
    fields: fields.map((field) => [field.key, field.value]),
    tags: tags.map((tag) => [tag.key, tag.reasons.length]),
    stage: stage?.key,
    audiences: audiences.map((audience) => audience.key).sort(),
    scores: scores.map((score) => [score.key, score.points, score.band]),
    consent: consent.map((each) => [each.channel, each.state]),
    deals: deals.map((deal) => deal.outsideId),
  });

  it('are merged with everything that is known of either, and what comes for the other comes here', async () => {
    await furnish();
    const other = await contact('pia@work.example');
    const { contact: into } = (
      await server.call('post', '/api/v1/contacts/pia@test.example/merge').send({ other: 'pia@work.example' }).expect(200)
    ).body as MergeAnswer;
    await server.idle();
    const pia = await contact(into);
    expect(pia.fields).toEqual(
      expect.arrayContaining([
        expect.objectContaining({ key: 'years', value: 3 }),
        expect.objectContaining({ key: 'city', value: 'Saltwick' }),
      ]),
    );
    expect(pia.tags.map((tag) => tag.key)).toContain('snag.price');
    expect(pia.stage).toMatchObject({ key: 'customer' });
    expect(pia.audiences.map((audience) => audience.key)).toContain('guests');
    expect(pia.deals).toHaveLength(1);
    // Both orders, and the tag.
    expect(pia.scores[0]).toMatchObject({ points: 50 });
    expect(pia.merges).toMatchObject([{ email: 'pia@work.example' }]);
    await verified();
    expect((await contact('pia@work.example')).id).toBe(pia.id);
    await server.signals(event('message.opened', 'pia@work.example'));
    expect((await contact('pia@test.example')).scores[0]).toMatchObject({ points: 55 });
    await server.call('post', `/api/v1/contacts/${into}/merge`).send({ other: other.id }).expect(409);
    const { body } = await server.call('post', '/api/v1/audiences/count').send({ condition: { match: 'all', of: [] } });
    expect(body.count).toBe(1);
    await verified();
  });

  it('are parted again, each as it was, with what has happened since where it was worked', async () => {
    await furnish();
    const [one, two] = [known(await contact('pia@test.example')), known(await contact('pia@work.example'))];
    const { merge } = (await server.call('post', '/api/v1/contacts/pia@test.example/merge').send({ other: 'pia@work.example' }).expect(200))
      .body as MergeAnswer;
    await server.idle();
    await server.call('post', `/api/v1/merges/${merge}/take-back`).expect(204);
    await server.idle();
    expect(known(await contact('pia@test.example'))).toEqual(one);
    expect(known(await contact('pia@work.example'))).toEqual(two);
    await verified();
    await server.signals(event('order.placed', 'pia@work.example', { order: '3' }));
    expect((await contact('pia@work.example')).scores[0]).toMatchObject({ points: 50 });
    expect((await contact('pia@test.example')).scores[0]).toMatchObject({ points: 20 });
    await server.call('post', `/api/v1/merges/${merge}/take-back`).expect(409);
    await verified();
  });

  it('are erased with those that were merged into them, and nothing about them is left but that it was done', async () => {
    await furnish();
    await server.call('post', '/api/v1/contacts/pia@test.example/merge').send({ other: 'pia@work.example' }).expect(200);
    await server.idle();
    await server.call('delete', '/api/v1/contacts/pia@test.example').expect(204);
    await server.call('get', '/api/v1/contacts/pia@test.example').expect(404);
    await server.call('get', '/api/v1/contacts/pia@work.example').expect(404);
    const tables = await server.database.query<{ name: string }>(
      `select table_name as name from information_schema.tables where table_schema = 'public' and table_type = 'BASE TABLE'`,
    );
    for (const { name } of tables) {
      const [{ n } = { n: 0 }] = await server.database.query<{ n: number }>(
        `select count(*) as n from "${name}" t where t::text ilike '%saltwick%' or t::text ilike '%pia@%'`,
      );
      expect([name, n]).toEqual([name, 0]);
    }
    const erased = await server.database.query(`select verb from ledger where kind = 'contact' and verb = 'erased'`);
    expect(erased).toHaveLength(1);
    await verified();
    await server.signals(event('order.placed', 'pia@test.example', { order: '9' }));
    expect((await contact('pia@test.example')).scores[0]).toMatchObject({ points: 20 });
    await verified();
  });
});
