import { readFact, showFact } from '../contacts/facts.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { definitionKinds, type DefinitionKind } from '../settings/definitions.ts';
import { writeDay } from '../time/zone.ts';

/** A row of the ledger, as far as words need it. */
export interface LedgerEntry {
  readonly kind: string;
  readonly verb: string;
  readonly thing?: number | null | undefined;
  readonly channel?: string | null | undefined;
  readonly before?: unknown;
  readonly after?: unknown;
  readonly ruleVersion?: number | null | undefined;
}

/** Which kinds of definitions an effect can be about. */
const THINGS: Readonly<Record<string, readonly DefinitionKind[]>> = {
  tag: ['tag'],
  field: ['field'],
  band: ['scorecard'],
  membership: ['audience'],
  pin: ['audience'],
  firing: ['rule'],
  stage: ['stage'],
  points: ['scorecard'],
  deal: ['pipeline'],
  asked: ['routing', 'audience'],
  kept: ['stage'],
  send: ['message'],
  setting: definitionKinds,
};

/** The definition that an effect is about. */
export function thingOf(
  entry: Pick<LedgerEntry, 'kind' | 'thing'>,
  catalogue: Catalogue,
): { readonly kind: DefinitionKind; readonly key: string; readonly name: string } | undefined {
  if (entry.thing === null || entry.thing === undefined) return undefined;
  for (const kind of THINGS[entry.kind] ?? []) {
    const found = catalogue.get(kind, entry.thing);
    if (found) return { kind, key: found.key, name: found.name };
  }
  return undefined;
}

/** A recorded value as people read it: a field's by its type, a band and a stage by name. */
export function shownValue(entry: Pick<LedgerEntry, 'kind' | 'thing'>, value: unknown, catalogue: Catalogue): unknown {
  if (value === null || value === undefined) return null;
  const thing = entry.thing ?? -1;
  if (entry.kind === 'band') return catalogue.body('scorecard', thing)?.bands.find((band) => band.key === value)?.name ?? value;
  if (entry.kind === 'stage') return stageWords(catalogue, part(value, 'stage'));
  const field = entry.kind === 'field' ? catalogue.body('field', thing) : undefined;
  if (!field) return value;
  if (typeof value === 'number' || Array.isArray(value)) return showFact(field, value as number | string[]);
  const read = readFact(field, value, catalogue.workspace);
  return read.ok && read.value ? showFact(field, read.value.fact, read.value.shown) : value;
}

const part = (value: unknown, name: string): unknown =>
  typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[name] : undefined;
const text = (value: unknown): string => (value === null || value === undefined ? 'nothing' : String(value as string | number));

function stageWords(catalogue: Catalogue, id: unknown): string {
  return id === null || id === undefined ? 'none' : (catalogue.get('stage', Number(id))?.name ?? 'a stage that is gone');
}

const NOT_AGAIN: Readonly<Record<string, string>> = { limit: 'it has run as often as it may', pause: 'its pause is not over' };

/** One effect as a sentence: "Tag snag.price added", "Keenness: quiet → keen", "Rule Price ran, version 2". */
export function effectWords(entry: LedgerEntry, catalogue: Catalogue): string {
  const thing = thingOf(entry, catalogue);
  const name = thing?.name ?? entry.channel ?? '';
  const shown = (value: unknown): string => text(shownValue(entry, value, catalogue));
  switch (`${entry.kind} ${entry.verb}`) {
    case 'contact added':
      return 'The contact was added';
    case 'contact merged':
      return 'Another contact was merged into this one';
    case 'firing merged':
      return `How often rule ${name} ran was taken over`;
    case 'company added':
      return 'The company was added';
    case 'company set':
      return 'Put into a company';
    case 'company cleared':
      return 'Taken out of the company';
    case 'tag added': {
      const value = part(entry.after, 'value');
      return `Tag ${thing?.key ?? ''} added${value === undefined ? '' : `, ${tagValueWords(entry, value, catalogue)}`}`;
    }
    case 'tag reason added':
      return `One more reason for tag ${thing?.key ?? ''}`;
    case 'tag reason removed':
      return `One reason less for tag ${thing?.key ?? ''}`;
    case 'tag valued':
      return `Tag ${thing?.key ?? ''}: ${tagValueWords(entry, part(entry.before, 'value'), catalogue)} → ${tagValueWords(entry, part(entry.after, 'value'), catalogue)}`;
    case 'tag removed':
      return `Tag ${thing?.key ?? ''} removed`;
    case 'field set':
      return `${name} set to ${shown(entry.after)}`;
    case 'field increased':
      return `${name} increased to ${shown(entry.after)}`;
    case 'field cleared':
      return `${name} cleared`;
    case 'consent set':
      return `Consent to ${name}: ${text(entry.after)}`;
    case 'stage set':
      return stageSentence(entry, catalogue);
    case 'stage cleared':
      return `Stage: ${stageWords(catalogue, part(entry.before, 'stage'))} → none`;
    case 'owner set':
      return `Owner: ${text(entry.after)}`;
    case 'owner cleared':
      return `No owner any more; it was ${text(entry.before)}`;
    case 'deal added':
      return `Deal ${entry.channel ?? ''} opened: ${text(part(entry.after, 'stage'))}`;
    case 'deal set':
      return `Deal ${entry.channel ?? ''}: ${text(part(entry.before, 'stage'))} → ${text(part(entry.after, 'stage'))}`;
    case 'deal removed':
      return `Deal ${entry.channel ?? ''} went`;
    case 'points given':
      return `${text(part(entry.after, 'points'))} points of ${name}`;
    case 'points taken back':
      return `${text(part(entry.before, 'points'))} points of ${name} taken back`;
    case 'band crossed':
      return `${name}: ${shown(entry.before)} → ${shown(entry.after)}`;
    case 'membership joined':
      return `Came into ${name}`;
    case 'membership left':
      return `Left ${name}`;
    case 'pin set':
      return `Pinned ${part(entry.after, 'in') === true ? 'into' : 'out of'} ${name}: ${text(part(entry.after, 'reason'))}`;
    case 'pin cleared':
      return `Pin ${part(entry.before, 'in') === true ? 'into' : 'out of'} ${name} taken away`;
    case 'pin ended':
      return `Pin ${part(entry.before, 'in') === true ? 'into' : 'out of'} ${name} came to its end`;
    case 'firing fired':
      return `Rule ${name} ran, version ${entry.ruleVersion ?? ''}`;
    case 'firing refused':
      return `Rule ${name} did not run again: ${NOT_AGAIN[text(entry.after)] ?? text(entry.after)}`;
    case 'firing circling':
      return `Rule ${name} was held back: it went in a circle`;
    case 'firing let on':
      return `Rule ${name} may run again`;
    case 'firing missed':
      return `Rule ${name} missed its date: the clock came to it too late`;
    case 'firing taken back':
      return `That rule ${name} ran was taken back`;
    case 'task taken back':
      return 'The task was taken back';
    case 'notice taken back':
      return 'The notice was taken back';
    case 'task made':
      return 'A task was made';
    case 'notice made':
      return 'A notice was made';
    case 'asked sent':
      if (thing?.kind === 'audience') return `Its contacts are ${part(entry.after, 'on') === true ? 'put on' : 'taken off'} ${thing.name}`;
      return thing ? `Asked ${thing.name} whose turn it is` : 'Asked its company for a change';
    case 'asked circling':
      return 'Not handed on: it has been through too many hands';
    case 'kept as it is':
      return keptWords(entry, catalogue);
    case 'setting build stopped':
      return `Bringing up ${text(part(entry.after, 'name'))} was stopped`;
    case 'setting build gone on with':
      return `Bringing up ${text(part(entry.after, 'name'))} went on`;
    case 'setting sent':
      return `${name} was sent`;
    case 'setting made':
    case 'setting changed':
    case 'setting retired':
      return `${name || 'What has gone since'} was ${entry.verb}`;
    default:
      // What is recorded of the workspace says itself what was done: "workspace changed", "key made", "access given".
      return entry.kind === 'setting' ? sentence(`${entry.verb} ${name}`) : sentence(`${entry.kind} ${entry.verb} ${name}`);
  }
}

const sentence = (words: string): string => words.trim().replace(/^./, (first) => first.toUpperCase());

/** Effects of a kind and verb, of one and of many. */
const COUNTED: Readonly<Record<string, readonly [one: string, many: string]>> = {
  'contact added': ['contact added', 'contacts added'],
  'tag added': ['tag added', 'tags added'],
  'tag removed': ['tag removed', 'tags removed'],
  'tag valued': ['tag given another value', 'tags given another value'],
  'tag reason added': ['reason added to a tag', 'reasons added to tags'],
  'tag reason removed': ['reason taken from a tag', 'reasons taken from tags'],
  'field set': ['field set', 'fields set'],
  'field increased': ['field increased', 'fields increased'],
  'field cleared': ['field cleared', 'fields cleared'],
  'consent set': ['consent changed', 'consents changed'],
  'stage set': ['stage set', 'stages set'],
  'stage cleared': ['stage cleared', 'stages cleared'],
  'owner set': ['owner assigned', 'owners assigned'],
  'owner cleared': ['owner taken away', 'owners taken away'],
  'points given': ['gift of points', 'gifts of points'],
  'points taken back': ['gift of points taken back', 'gifts of points taken back'],
  'band crossed': ['band crossed', 'bands crossed'],
  'membership joined': ['comes into an audience', 'come into audiences'],
  'membership left': ['leaves an audience', 'leave audiences'],
  'pin set': ['pin set', 'pins set'],
  'pin cleared': ['pin taken off', 'pins taken off'],
  'firing fired': ['other rule run', 'runs of other rules'],
  'task made': ['task made', 'tasks made'],
  'task taken back': ['task taken back', 'tasks taken back'],
  'notice made': ['notice made', 'notices made'],
  'notice taken back': ['notice taken back', 'notices taken back'],
  'asked sent': ['change asked of others', 'changes asked of others'],
  'asked circling': ['change not handed on any more', 'changes not handed on any more'],
  'kept as it is': ['owner or stage left as it is', 'owners or stages left as they are'],
};

/** What so many effects of one kind and verb are: "tasks made" for two. @param name kind and verb, such as `task made` */
export function countedWords(name: string, count: number): string {
  const [one, many] = COUNTED[name] ?? [name, name];
  return count === 1 ? one : many;
}

/** A stage that was set, with the stages that were jumped over. */
function stageSentence(entry: LedgerEntry, catalogue: Catalogue): string {
  const skipped = part(entry.after, 'skipped');
  const over = Array.isArray(skipped) ? skipped.map((id) => stageWords(catalogue, id)).join(', ') : '';
  const to = stageWords(catalogue, part(entry.after, 'stage') ?? entry.thing);
  return `Stage: ${stageWords(catalogue, part(entry.before, 'stage'))} → ${to}${over ? `, skipped ${over}` : ''}`;
}

const MILLIONTHS = 1_000_000;

function tagValueWords(entry: LedgerEntry, value: unknown, catalogue: Catalogue): string {
  if (typeof value !== 'number') return 'no value';
  const kind = catalogue.body('tag', entry.thing ?? -1)?.value;
  return kind === 'date' ? writeDay(value) : String(value / MILLIONTHS);
}

/** What a rule left alone, and why. */
function keptWords(entry: LedgerEntry, catalogue: Catalogue): string {
  if (entry.after === 'owner') return 'The owner stays: there is one already';
  return entry.after === 'stage' ? `The stage stays: ${stageWords(catalogue, entry.thing)} is not ahead` : 'It stays as it is';
}
