import { CARD, catalogue, FIELDS, NUMBER_TAG, STAGES, TAGS } from '../testing/definitions.ts';
import { type StoredEntry } from './effect.ts';
import { countedWords, effectWords } from './words.ts';

/** A row of the ledger; what is left out is null in it. */
type Row = Omit<StoredEntry, 'definitionId'> & Partial<Pick<StoredEntry, 'definitionId'>>;
const wordsOf = (row: Row): string => effectWords({ definitionId: null, ...row }, catalogue);

const [one] = TAGS;
const [heard, suited] = STAGES;
const numberField = FIELDS.find((field) => (field.body as { type: string }).type === 'number');

describe('an effect in words', () => {
  it.each<[Row, string]>([
    [{ kind: 'contact', verb: 'added' }, 'The contact was added'],
    [{ kind: 'setting', verb: 'bundle run once', after: { name: 'Greet' } }, 'The bundle Greet was run by hand'],
    [{ kind: 'setting', verb: 'rule run once', after: { name: 'Quiet ones' } }, 'The rule Quiet ones was run once'],
    [{ kind: 'setting', verb: 'file watched no more', after: { name: 'Guild' } }, 'The file Guild is watched no more'],
    [{ kind: 'tag', verb: 'added', definitionId: one?.id }, 'Tag fam.one added'],
    [{ kind: 'tag', verb: 'added', definitionId: NUMBER_TAG.id, after: { value: 6_500_000 } }, 'Tag fam.hours added, 6.5'],
    [{ kind: 'tag', verb: 'reason removed', definitionId: one?.id }, 'One reason less for tag fam.one'],
    [{ kind: 'consent', verb: 'set', channel: 'email', after: 'withdrawn' }, 'Consent to email: withdrawn'],
    [{ kind: 'band', verb: 'crossed', definitionId: CARD.id, before: 'low', after: 'mid' }, 'Liking: low → in the middle'],
    [{ kind: 'membership', verb: 'joined', definitionId: 41 }, 'Came into Some people'],
    [{ kind: 'membership', verb: 'left', definitionId: 41 }, 'Left Some people'],
    [
      { kind: 'stage', verb: 'set', definitionId: suited?.id, before: { stage: null }, after: { stage: suited?.id, skipped: [heard?.id] } },
      'Stage: none → suited, skipped heard of us',
    ],
    [{ kind: 'stage', verb: 'cleared', before: { stage: heard?.id } }, 'Stage: heard of us → none'],
    [{ kind: 'owner', verb: 'set', after: 'ines@test.example' }, 'Owner: ines@test.example'],
    [{ kind: 'kept', verb: 'as it is', after: 'owner' }, 'The owner stays: there is one already'],
    [{ kind: 'kept', verb: 'as it is', definitionId: heard?.id, after: 'stage' }, 'The stage stays: heard of us is not ahead'],
    [{ kind: 'asked', verb: 'sent', after: { to: 'company' } }, 'Asked its company for a change'],
    [{ kind: 'setting', verb: 'changed', definitionId: CARD.id }, 'Liking was changed'],
    [{ kind: 'setting', verb: 'made', definitionId: 99_999 }, 'What has gone since was made'],
    [{ kind: 'setting', verb: 'key made', after: { name: 'till' } }, 'The key till was made'],
    [{ kind: 'setting', verb: 'key renamed', after: { name: 'shop', before: 'till' } }, 'The key till is called shop now'],
    [{ kind: 'setting', verb: 'key restored', after: { name: 'till' } }, 'The key till was let in again'],
    [{ kind: 'setting', verb: 'key revoked', after: { id: 3 } }, 'A key was revoked'],
    [{ kind: 'setting', verb: 'sign-in failed', after: { email: null, from: '10.0.0.1' } }, 'A sign-in failed, from 10.0.0.1'],
    [{ kind: 'setting', verb: 'sign-in failed', after: { email: 'a@b.example' } }, 'A sign-in as a@b.example failed'],
    [
      { kind: 'setting', verb: 'role changed', after: { email: 'a@b.example', from: 'viewer', to: 'admin' } },
      'The role of a@b.example changed from viewer to admin',
    ],
    [
      { kind: 'setting', verb: 'team changed', after: { email: 'a@b.example', from: null, to: 'North', seesTeam: true } },
      'a@b.example is in the team North and sees the contacts of all of it',
    ],
    [
      { kind: 'setting', verb: 'team changed', after: { email: 'a@b.example', from: 'North', to: null, seesTeam: false } },
      'a@b.example is in no team',
    ],
    [{ kind: 'setting', verb: 'answers exported', after: { name: 'Quiz' } }, 'The answers to Quiz were exported as CSV'],
    [{ kind: 'setting', verb: 'members exported', after: { name: 'Keen', format: 'CSV' } }, 'The members of Keen were exported as CSV'],
    [{ kind: 'setting', verb: 'workspace changed' }, 'Workspace changed'],
  ])('%#: %j', (entry, words) => {
    expect(wordsOf(entry)).toBe(words);
  });

  it('says of a rule that did not run again why', () => {
    const refused = (after: string) => wordsOf({ kind: 'firing', verb: 'refused', after });
    expect(refused('limit')).toContain('it has run as often as it may');
    expect(refused('pause')).toContain('its pause is not over');
  });

  it('shows a value of a field as its type is shown', () => {
    const set = { kind: 'field', verb: 'set', definitionId: numberField?.id, after: 2_500_000 };
    expect(wordsOf(set)).toBe(`${numberField?.name} set to 2.5`);
  });

  it('says something of every kind and verb, and begins it with a capital', () => {
    expect(wordsOf({ kind: 'thing', verb: 'unheard of' })).toBe('Thing unheard of');
  });
});

describe('many effects in words', () => {
  it.each([
    ['task made', 1, 'task made'],
    ['task made', 62, 'tasks made'],
    ['kept as it is', 160, 'owners or stages left as they are'],
    ['membership joined', 1, 'comes into an audience'],
    ['membership joined', 3, 'come into audiences'],
    ['something else', 2, 'something else'],
  ])('%s, %i', (name, count, words) => {
    expect(countedWords(name, count)).toBe(words);
  });
});
