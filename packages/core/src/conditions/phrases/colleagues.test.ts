import { Catalogue, read, readPhrase, type Condition } from '../../index.ts';
import { DEFINITIONS, WORKSPACE } from '../../testing/definitions.ts';

const catalogue = new Catalogue(WORKSPACE, DEFINITIONS).withColleagues([
  { email: 'ada@test.example', name: 'Ada Marsh', isMe: true },
  { email: 'b.reed@test.example', name: 'Bo Reed', isMe: false },
]);
const meant = (text: string): Condition | undefined =>
  readPhrase(text, catalogue).readings.find(({ unread }) => unread.length === 0)?.condition;
const ADA = { kind: 'owner', op: 'is', value: 'ada@test.example' };
const BO = { kind: 'owner', op: 'is', value: 'b.reed@test.example' };

describe('people with access', () => {
  it.each([
    ['owner is me', ADA],
    ['owned by me', ADA],
    ['contacts I look after', ADA],
    ['mine', ADA],
    ['my people', ADA],
    ['owner Ada Marsh', ADA],
    ['owner Bo', BO],
    ['owned by b.reed@test.example', BO],
    ['looked after by Bo Reed', BO],
    ['owner is me or Bo', { kind: 'owner', op: 'is one of', value: ['ada@test.example', 'b.reed@test.example'] }],
    ['contacts I own', ADA],
    ['regulars I look after', { match: 'all', of: [{ kind: 'stage', op: 'is', value: 37 }, ADA] }],
    ['contacts I look after who are regulars', { match: 'all', of: [ADA, { kind: 'stage', op: 'is', value: 37 }] }],
    ['contacts I own and who are regulars', { match: 'all', of: [ADA, { kind: 'stage', op: 'is', value: 37 }] }],
    ['my regulars', { match: 'all', of: [ADA, { kind: 'stage', op: 'is', value: 37 }] }],
    ['show me regulars owned by Bo', { match: 'all', of: [{ kind: 'stage', op: 'is', value: 37 }, BO] }],
  ])('are spoken of by name, and as oneself: %s', (text, condition) => {
    expect(meant(text)).toEqual(condition);
  });

  it('are nobody where nobody goes by that name', () => {
    expect(meant('owner is Caro')).toBeUndefined();
    expect(readPhrase('owner is me', new Catalogue(WORKSPACE, DEFINITIONS)).readings).toEqual([]);
  });

  it('are the only ones who can be owners, where it is known who has access', () => {
    const known = catalogue.withPeople(new Set(catalogue.colleagues.map(({ email }) => email)));
    expect(read('owner is caro', known).leaf.ok).toBe(false);
    expect(read('owner is Bo', known).leaf).toMatchObject({ ok: true, value: BO });
    expect(read('owner is b.reed@test.example', known).leaf).toMatchObject({ ok: true, value: BO });
  });

  it('change nothing of what is said in the first person of something else', () => {
    expect(meant('opened my newsletter')).toMatchObject({ kind: 'signal' });
  });
});
