import { saidOfThem } from '../conditions/describe/said/sentences.ts';
import { readFact, showFact } from '../contacts/facts.ts';
import { contactsWords } from '../rules/action-kinds.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type DefinitionKind } from '../settings/definitions.ts';
import { definitionKinds } from '../settings/kind-words.ts';
import { writeTagValue } from '../tags/values.ts';
import { type EffectKind, type EffectName, type EntryOf, type KeptValue, type LedgerEntry, type StoredEntry } from './effect.ts';

/** What words need beside the entry itself. */
export interface Telling {
  readonly catalogue: Catalogue;
  /** the definition that it is about, by name; of a tag by key */
  readonly name: string;
}

interface EffectWords<Name extends EffectName> {
  /** one of them as a sentence, at the time or looked back on: “Tag snag.price added” */
  readonly words: (entry: EntryOf<Name>, telling: Telling) => string;
  /** in the few words of a list: “+ snag.price”; left out, the sentence */
  readonly brief?: (entry: EntryOf<Name>, telling: Telling) => string;
  /** so many of them: of one, and of many */
  readonly counted: readonly [one: string, many: string];
}

/** The kinds of definitions that an effect can be about, by its kind; `setting` effects are about the workspace. */
const THINGS: Readonly<Record<EffectKind | 'setting', readonly DefinitionKind[]>> = {
  tag: ['tag'],
  past: ['tag'],
  field: ['field'],
  band: ['scorecard'],
  membership: ['audience'],
  pin: ['audience'],
  firing: ['rule'],
  stage: ['stage'],
  points: ['scorecard'],
  deal: ['pipeline'],
  asked: ['routing', 'audience', 'tag', 'field', 'stage'],
  kept: ['stage', 'routing'],
  signal: ['signalType'],
  setting: definitionKinds,
  contact: [],
  company: [],
  consent: [],
  owner: [],
  task: [],
  notice: [],
};

/** Effects with personal values. These are stored apart, and deleted when a contact is erased. */
export const isPersonal = ({ kind }: { readonly kind: string }): boolean => kind === 'field';

/** The definition that an effect is about. */
export function thingOf(
  entry: Pick<StoredEntry, 'kind' | 'definitionId'>,
  catalogue: Catalogue,
): { readonly kind: DefinitionKind; readonly key: string; readonly name: string } | undefined {
  if (entry.definitionId === null || entry.definitionId === undefined) return undefined;
  for (const kind of THINGS[entry.kind as EffectKind] ?? []) {
    const found = catalogue.get(kind, entry.definitionId);
    if (found) return { kind, key: found.key, name: found.name };
  }
  return undefined;
}

const stageName = (catalogue: Catalogue, id: number | null | undefined): string =>
  id === null || id === undefined ? 'none' : (catalogue.get('stage', id)?.name ?? 'a stage that is gone');
const bandName = (catalogue: Catalogue, card: number | undefined, band: string): string =>
  catalogue.body('scorecard', card ?? -1)?.bands.find((each) => each.key === band)?.name ?? band;

/** A value of a field as people read it, by its type. */
export function keptValueWords(catalogue: Catalogue, field: number | undefined, value: KeptValue): string {
  if (value === null) return 'nothing';
  const body = catalogue.body('field', field ?? -1);
  if (!body) return String(value);
  if (typeof value !== 'string') return showFact(body, value);
  const read = readFact(body, value, catalogue.workspace);
  return read.ok && read.value ? showFact(body, read.value.fact, read.value.shown) : value;
}

/** What a tag carries, as people read it. */
export function tagValueWords(catalogue: Catalogue, tag: number | undefined, value: number | null): string {
  return value === null ? 'no value' : String(writeTagValue(catalogue.body('tag', tag ?? -1)?.value ?? 'number', value));
}

const pinned = (pin: { readonly in: boolean } | null | undefined): string => (pin?.in ? 'into' : 'out of');
const fieldSet = ({ definitionId, after }: EntryOf<'field set' | 'field increased'>, { catalogue }: Telling): string =>
  keptValueWords(catalogue, definitionId, after);
const NOT_AGAIN: Readonly<Record<'limit' | 'pause', string>> = { limit: 'it has run as often as it may', pause: 'its pause is not over' };

/** What a company's contacts are asked for. */
function askedOfContacts({ does, on, owner, parts }: EntryOf<'asked sent'>['after'], name: string, catalogue: Catalogue): string {
  const said = contactsWords(parts, catalogue);
  const whom = `${said.charAt(0).toUpperCase()}${said.slice(1)}`;
  switch (does) {
    case 'tag':
      return `${whom} ${on ? 'get' : 'lose'} the tag ${name}`;
    case 'field':
      return `${whom} get another value of ${name}`;
    case 'stage':
      return `${whom} are brought to ${name}`;
    case 'owner':
      return `${whom} are given to ${owner ?? 'nobody'}`;
    case undefined:
      return `${whom} are ${on ? 'put on' : 'taken off'} ${name}`;
  }
}

/** How each effect is told. */
export const EFFECTS: { readonly [Name in EffectName]: EffectWords<Name> } = {
  'contact added': { words: () => 'The contact was added', counted: ['contact added', 'contacts added'] },
  'contact merged': { words: () => 'Another contact was merged into this one', counted: ['contact merged', 'contacts merged'] },
  'company added': { words: () => 'The company was added', counted: ['company added', 'companies added'] },
  'company set': { words: () => 'Put into a company', counted: ['put into a company', 'put into companies'] },
  'company cleared': { words: () => 'Taken out of the company', counted: ['taken out of a company', 'taken out of companies'] },
  'tag added': {
    words: ({ definitionId, after }, { name, catalogue }) =>
      `Tag ${name} added${typeof after?.value === 'number' ? `, ${tagValueWords(catalogue, definitionId, after.value)}` : ''}`,
    brief: (_entry, { name }) => `+ ${name}`,
    counted: ['tag added', 'tags added'],
  },
  'tag reason added': {
    words: (_entry, { name }) => `One more reason for tag ${name}`,
    brief: (_entry, { name }) => `+ ${name} (one more reason)`,
    counted: ['reason added to a tag', 'reasons added to tags'],
  },
  'tag reason removed': {
    words: (_entry, { name }) => `One reason less for tag ${name}`,
    brief: (_entry, { name }) => `− ${name} (one reason fewer)`,
    counted: ['reason taken from a tag', 'reasons taken from tags'],
  },
  'tag valued': {
    words: ({ definitionId, before, after }, { name, catalogue }) =>
      `Tag ${name}: ${tagValueWords(catalogue, definitionId, before.value)} → ${tagValueWords(catalogue, definitionId, after.value)}`,
    brief: (_entry, { name }) => `+ ${name}`,
    counted: ['tag given another value', 'tags given another value'],
  },
  'tag removed': {
    words: (_entry, { name }) => `Tag ${name} removed`,
    brief: (_entry, { name }) => `− ${name}`,
    counted: ['tag removed', 'tags removed'],
  },
  'past taken over': {
    words: (_entry, { name }) => `What they had before counts as tag ${name}`,
    brief: (_entry, { name }) => `${name} before`,
    counted: ['former tag taken over', 'former tags taken over'],
  },
  'past taken back': {
    words: (_entry, { name }) => `What they had before counts as tag ${name} no more`,
    brief: (_entry, { name }) => `${name} before no more`,
    counted: ['former tag given back', 'former tags given back'],
  },
  'field set': {
    words: (entry, telling) => `${telling.name} set to ${fieldSet(entry, telling)}`,
    counted: ['field set', 'fields set'],
  },
  'field increased': {
    words: (entry, telling) => `${telling.name} increased to ${fieldSet(entry, telling)}`,
    counted: ['field increased', 'fields increased'],
  },
  'field cleared': { words: (_entry, { name }) => `${name} cleared`, counted: ['field cleared', 'fields cleared'] },
  'consent set': {
    words: ({ channel, after }) => `Consent to ${channel}: ${after}`,
    counted: ['consent changed', 'consents changed'],
  },
  'stage set': {
    words: ({ definitionId, before, after }, { catalogue }) => {
      const over = (after.skipped ?? []).map((id) => stageName(catalogue, id)).join(', ');
      return `Stage: ${stageName(catalogue, before?.stage)} → ${stageName(catalogue, after.stage ?? definitionId)}${over ? `, skipped ${over}` : ''}`;
    },
    counted: ['stage set', 'stages set'],
  },
  'stage cleared': {
    words: ({ before }, { catalogue }) => `Stage: ${stageName(catalogue, before?.stage)} → none`,
    counted: ['stage cleared', 'stages cleared'],
  },
  'owner set': { words: ({ after }) => `Owner: ${after}`, counted: ['owner assigned', 'owners assigned'] },
  'owner cleared': {
    words: ({ before }) => `No owner any more; it was ${before ?? 'nobody'}`,
    counted: ['owner taken away', 'owners taken away'],
  },
  'deal added': { words: ({ channel, after }) => `Deal ${channel} opened: ${after.stage}`, counted: ['deal opened', 'deals opened'] },
  'deal set': {
    words: ({ channel, before, after }) => `Deal ${channel}: ${before.stage} → ${after.stage}`,
    counted: ['deal changed', 'deals changed'],
  },
  'deal removed': { words: ({ channel }) => `Deal ${channel} went`, counted: ['deal gone', 'deals gone'] },
  'points given': {
    words: ({ after }, { name }) => `${after.points} points of ${name}`,
    counted: ['gift of points', 'gifts of points'],
  },
  'points taken back': {
    words: ({ before }, { name }) => `${before.points} points of ${name} taken back`,
    counted: ['gift of points taken back', 'gifts of points taken back'],
  },
  'band crossed': {
    words: ({ definitionId, before, after }, { name, catalogue }) =>
      `${name}: ${bandName(catalogue, definitionId, before)} → ${bandName(catalogue, definitionId, after)}`,
    brief: ({ definitionId, after }, { name, catalogue }) => `${name} → ${bandName(catalogue, definitionId, after)}`,
    counted: ['band crossed', 'bands crossed'],
  },
  'membership joined': {
    words: (_entry, { name }) => `Came into ${name}`,
    brief: (_entry, { name }) => `comes into ${name}`,
    counted: ['comes into an audience', 'come into audiences'],
  },
  'membership left': {
    words: (_entry, { name }) => `Left ${name}`,
    brief: (_entry, { name }) => `leaves ${name}`,
    counted: ['leaves an audience', 'leave audiences'],
  },
  'firing fired': {
    words: ({ ruleVersion }, { name }) => `Rule ${name} ran, version ${ruleVersion ?? ''}`,
    brief: (_entry, { name }) => `runs ${name}`,
    counted: ['other rule run', 'runs of other rules'],
  },
  'firing refused': {
    words: ({ after }, { name }) => `Rule ${name} did not run again: ${NOT_AGAIN[after]}`,
    counted: ['rule not run again', 'rules not run again'],
  },
  'firing missed': {
    words: (_entry, { name }) => `Rule ${name} missed its date: the clock came to it too late`,
    counted: ['date missed', 'dates missed'],
  },
  'firing circling': {
    words: (_entry, { name }) => `Rule ${name} was held back: it went in a circle`,
    counted: ['rule held back', 'rules held back'],
  },
  'firing let on': { words: (_entry, { name }) => `Rule ${name} may run again`, counted: ['rule let on', 'rules let on'] },
  'firing taken back': {
    words: (_entry, { name }) => `That rule ${name} ran was taken back`,
    counted: ['run of a rule taken back', 'runs of rules taken back'],
  },
  'firing merged': {
    words: (_entry, { name }) => `How often rule ${name} ran was taken over`,
    counted: ['count of runs taken over', 'counts of runs taken over'],
  },
  'task made': { words: () => 'A task was made', counted: ['task made', 'tasks made'] },
  'task taken back': { words: () => 'The task was taken back', counted: ['task taken back', 'tasks taken back'] },
  'notice made': { words: () => 'A notice was made', counted: ['notice made', 'notices made'] },
  'notice taken back': { words: () => 'The notice was taken back', counted: ['notice taken back', 'notices taken back'] },
  'asked sent': {
    words: ({ after }, { name, catalogue }) => {
      if (after.to === 'contacts') return askedOfContacts(after, name, catalogue);
      return after.to === 'routing' ? `Asked ${name} whose turn it is` : 'Asked its company for a change';
    },
    counted: ['change asked of others', 'changes asked of others'],
  },
  'asked circling': {
    words: () => 'Not handed on: it has been through too many hands',
    counted: ['change not handed on any more', 'changes not handed on any more'],
  },
  'pin set': {
    words: ({ after }, { name }) => `Pinned ${pinned(after)} ${name}: ${after.reason}`,
    counted: ['pin set', 'pins set'],
  },
  'pin cleared': {
    words: ({ before }, { name }) => `Pin ${pinned(before)} ${name} taken away`,
    counted: ['pin taken off', 'pins taken off'],
  },
  'pin ended': {
    words: ({ before }, { name }) => `Pin ${pinned(before)} ${name} came to its end`,
    counted: ['pin come to its end', 'pins come to their end'],
  },
  'kept as it is': {
    words: ({ definitionId, after }, { catalogue, name }) => {
      if (after === 'owner') return 'The owner stays: there is one already';
      if (after === 'routing') return `No owner was set: nobody of ${name} was free`;
      const stage = stageName(catalogue, definitionId);
      if (after === 'order') return `The stage stays: ${stage} is only reached from the stage before it`;
      const needs = catalogue.body('stage', definitionId ?? -1)?.needs;
      if (after === 'needs')
        return `The stage stays: ${stage} is only reached if ${needs ? saidOfThem(needs, catalogue) : 'what it needs is so'}`;
      return `The stage stays: ${stage} is not ahead`;
    },
    counted: ['owner or stage left as it is', 'owners or stages left as they are'],
  },
  'signal taken back': {
    words: (_entry, { name }) => `Signal “${name}” taken back`,
    brief: (_entry, { name }) => `− ${name}`,
    counted: ['signal taken back', 'signals taken back'],
  },
  'signal forgotten': {
    words: ({ before: { n } }, { name }) => `Forgot ${n === 1 ? 'a signal' : `${n} signals`} “${name}”, older than they are kept`,
    counted: ['time that signals were forgotten', 'times that signals were forgotten'],
  },
};

/** An effect by its kind and verb. */
export const nameOf = ({ kind, verb }: Pick<LedgerEntry, 'kind' | 'verb'>): EffectName => `${kind} ${verb}` as EffectName;
export const isEffectName = (name: string): name is EffectName => Object.hasOwn(EFFECTS, name);

/** A ledger row as the typed effect it was recorded from; undefined if no pass wrote it. */
export function readEntry(stored: StoredEntry): LedgerEntry | undefined {
  if (!isEffectName(`${stored.kind} ${stored.verb}`)) return undefined;
  const { kind, verb, definitionId, channel, before, after, ruleVersion } = stored;
  const given = Object.fromEntries(
    Object.entries({ definitionId, channel, ruleVersion }).filter(([, value]) => value !== null && value !== undefined),
  );
  return { kind, verb, before: before ?? null, after: after ?? null, ...given } as unknown as LedgerEntry;
}

type Words = (entry: LedgerEntry, telling: Telling) => string;

/** The words for an entry of whatever name. */
export const wordsFor = (entry: LedgerEntry): { readonly words: Words; readonly brief?: Words } =>
  EFFECTS[nameOf(entry)] as unknown as { readonly words: Words; readonly brief?: Words };

/** A recorded value in words: a field's by its type, a band or stage by name. */
export function shownValue(entry: Pick<StoredEntry, 'kind' | 'definitionId'>, value: unknown, catalogue: Catalogue): unknown {
  if (value === null || value === undefined) return null;
  const definitionId = entry.definitionId ?? -1;
  if (entry.kind === 'band') return bandName(catalogue, definitionId, String(value));
  if (entry.kind === 'stage') return stageName(catalogue, (value as { readonly stage?: number | null }).stage);
  return entry.kind === 'field' ? keptValueWords(catalogue, definitionId, value as KeptValue) : value;
}
