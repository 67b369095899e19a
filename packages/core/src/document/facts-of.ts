import { GROUP_WORDS } from '../conditions/describe/describe.ts';
import { said, saidOfThem } from '../conditions/describe/said/sentences.ts';
import { isGroup, type Condition } from '../conditions/schema.ts';
import { detailName } from '../intake/signal-types.ts';
import { actionWords } from '../rules/action-kinds.ts';
import { stepFactWords } from '../rules/ladder-words.ts';
import { oftenWords, whenWords } from '../rules/words.ts';
import { scoreLineWords } from '../scores/words.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Bodies, type DefinitionKind } from '../settings/definitions.ts';
import { type SubjectKind } from '../settings/subject-kind.ts';
import { TAG_VALUE_WORDS } from '../tags/values.ts';
import { languageName } from '../text/languages.ts';
import { formFacts } from './form-facts.ts';
import { quotedSaid } from '../conditions/describe/said/values.ts';

type Facts<Kind extends DefinitionKind> = (body: Bodies[Kind], catalogue: Catalogue) => readonly string[];

const when = (text: string, isSo: unknown): string[] => (isSo ? [text] : []);
const also = ({ synonyms }: { readonly synonyms?: readonly string[] | undefined }): string[] =>
  (synonyms ?? []).map((word) => `also called ${word}`);
const text = (what: string, value: string | undefined): string[] => (value ? [`${what}: ${quotedSaid(value)}`] : []);

/** The lines of conditions, each as its sentence, with how they belong together. */
function linesOf(condition: Condition | undefined, catalogue: Catalogue, of: SubjectKind): readonly string[] {
  if (!condition) return [];
  const group = isGroup(condition) ? condition : { match: 'all' as const, of: [condition] };
  return [
    ...when(GROUP_WORDS[group.match], group.of.length > 1 || group.match !== 'all'),
    ...group.of.map((each) => said(each, catalogue, of)),
  ];
}

/** What a definition says, one thing a text. Of two versions, what only one of them says is what was changed. */
const FACTS: { readonly [Kind in DefinitionKind]: Facts<Kind> } = {
  audience: (body, catalogue) => [
    ...when('a fixed list', body.kind === 'fixed'),
    ...linesOf(body.condition, catalogue, body.of === 'company' ? 'company' : 'contact'),
  ],
  rule: (body, catalogue) => [
    body.on ? 'is on' : 'is off',
    whenWords(body.when, catalogue, body.of),
    ...(body.if ? [`if ${saidOfThem(body.if, catalogue, body.of)}`] : []),
    ...body.then.map((action) => actionWords(action, catalogue, body.of)),
    oftenWords(body.howOften, body.of),
    body.beginsWith === 'everyone' ? 'begins with everyone who is there' : 'begins from now on',
    `not for signals older than ${body.maxAgeDays} days`,
    `in place ${body.position} among the rules`,
  ],
  bundle: (body, catalogue) =>
    body.then.map(({ action, if: only }) => `${actionWords(action, catalogue)}${only ? ` if ${saidOfThem(only, catalogue)}` : ''}`),
  scorecard: (body, catalogue) => [
    `between ${body.min} and ${body.max}`,
    ...body.bands.flatMap((band) => [`${band.name} from ${band.from}`, ...also(band).map((word) => `${band.name} is ${word}`)]),
    ...body.lines.map((line) => `${points(line)} for: ${scoreLineWords(line, catalogue)}`),
  ],
  field: (body, catalogue) => [
    `${body.type}, of a ${body.of}`,
    ...when(`for: ${body.description ?? ''}`, body.description !== undefined),
    ...when(`under ${body.heading ?? ''}`, body.heading !== undefined),
    ...when('everyone should have it', body.required),
    ...when('no two have the same', body.unique),
    ...when(`in place ${body.place} among the fields`, body.place !== undefined),
    ...when(`${catalogue.get('field', body.replacedBy as never)?.name ?? 'another field'} stands for it`, body.replacedBy),
    ...also(body),
    ...(body.options ?? []).flatMap((option) => [
      option.replacedBy === undefined ? `choice ${option.name}` : `${option.name} was merged into ${nameOfOption(body, option.replacedBy)}`,
      ...also(option).map((word) => `${option.name} is ${word}`),
    ]),
  ],
  tag: (body, catalogue) => [
    `in the family ${catalogue.get('family', body.family as never)?.name ?? 'that is gone'}`,
    ...(body.splitInto ?? []).map((part) => `split: ${keyOf(catalogue, part.tag)} where ${saidOfThem(part.if as Condition, catalogue)}`),
    ...(body.value ? [`carries ${TAG_VALUE_WORDS[body.value]}`] : []),
    ...when(
      body.expires === 'on its date' ? 'goes by itself on its date' : `goes by itself after ${body.expires?.afterDays} days`,
      body.expires,
    ),
    ...text('what it is for', body.purpose),
    ...text('what messages say to whoever has it', body.text),
    ...Object.entries(body.labels ?? {}).map(([code, label]) => `“${label}” in ${languageName(code) ?? code}`),
    ...also(body),
  ],
  family: (body) => [
    `its tags begin with ${body.prefix}`,
    body.many ? 'several of its tags at once' : 'one of its tags at a time',
    ...text('what its tags are for', body.purpose),
  ],
  signalType: (body) => [
    `“${body.verb}”`,
    body.direction,
    ...when(`“has ${body.participle}”`, body.participle),
    ...when(`“when somebody ${body.present}”`, body.present),
    ...when(`one: ${body.one}`, body.one),
    ...when(`many: ${body.many}`, body.many),
    ...also(body),
    ...when(`forgotten after ${body.keepDays} days`, body.keepDays),
    ...body.fields.map((field) => `detail ${detailName(field, body.fields)}: ${field.type}${field.required ? ', always there' : ''}`),
  ],
  stage: (body, catalogue) => [
    `in place ${body.position}`,
    ...when('only from the stage before it', body.inOrder),
    ...(body.needs ? [`only if ${saidOfThem(body.needs, catalogue)}`] : []),
    ...(body.deals ?? []).map(({ pipeline, stage }) => `when a deal comes to ${dealStageName(catalogue, pipeline, stage)}`),
    ...(body.facts ?? []).map((fact) => `when ${stepFactWords(fact, catalogue)}`),
  ],
  pipeline: (body) => body.stages.map((stage) => `stage ${stage.name}${stage.outcome ? `, ${stage.outcome}` : ''}`),
  form: formFacts,
  message: (body, catalogue) => [
    ...text('subject', body.subject),
    ...text('text', body.text),
    ...when(`to the audience ${catalogue.get('audience', body.audience as never)?.name ?? 'that is gone'}`, body.audience !== undefined),
    ...body.links.map(({ label, destination, tag }) =>
      [
        `link ${quotedSaid(label)}`,
        ...when(`leads to ${destination}`, destination),
        ...when(`gives ${keyOf(catalogue, tag ?? -1)}`, tag),
      ].join(', '),
    ),
    ...(body.tagTexts ?? []).map(({ tag, otherwise }) =>
      [`says the text of ${keyOf(catalogue, tag)}`, ...when(`to all others ${quotedSaid(otherwise ?? '')}`, otherwise)].join(', '),
    ),
    ...when(`its links last ${body.linksLastDays} days`, body.linksLastDays),
  ],
  routing: (body, catalogue) => [
    ...body.rows.map(
      (row) =>
        `${[...row.owners, ...when(`the team ${row.team}`, row.team)].join(', ')}${row.if ? ` if ${saidOfThem(row.if, catalogue)}` : ' for everyone else'}`,
    ),
    ...(body.people ?? []).map(({ who, share, perDay, backOn }) =>
      [
        `${who} takes ${share === 1 ? 'one turn' : `${share} turns to one of the others`}`,
        ...when(`at most ${perDay} a day`, perDay),
        ...when(`none before ${backOn}`, backOn),
      ].join(', '),
    ),
    ...when(`makes the task “${body.task?.title}”, due in ${body.task?.dueDays} days`, body.task),
    ...when(`notifies “${body.notice}”`, body.notice),
  ],
  map: (body, catalogue) => [
    body.on ? 'is on' : 'is off',
    ...body.adds.map((type) => `gives when a contact ${verbOf(catalogue, type)}`),
    ...body.takes.map((type) => `takes back when a contact ${verbOf(catalogue, type)}`),
    ...body.rows.flatMap(({ value, add, remove, whenTaken }) => [
      ...add.map((tag) => `${value} adds the tag ${keyOf(catalogue, tag)}`),
      ...remove.map((tag) => `${value} removes the tag ${keyOf(catalogue, tag)}`),
      ...(whenTaken?.add ?? []).map((tag) => `${value}, taken back, adds the tag ${keyOf(catalogue, tag)}`),
      ...(whenTaken?.remove ?? []).map((tag) => `${value}, taken back, removes the tag ${keyOf(catalogue, tag)}`),
    ]),
  ],
};
const nameOfOption = ({ options }: Bodies['field'], key: string): string => options?.find((option) => option.key === key)?.name ?? key;
function dealStageName(catalogue: Catalogue, pipeline: number, key: string): string {
  const found = catalogue.get('pipeline', pipeline as never);
  return `${found?.body.stages.find((stage) => stage.key === key)?.name ?? key} of ${found?.name ?? 'a pipeline that is gone'}`;
}
const keyOf = (catalogue: Catalogue, tag: number): string => catalogue.get('tag', tag as never)?.key ?? 'that is gone';
const verbOf = (catalogue: Catalogue, type: number): string =>
  catalogue.body('signalType', type as never)?.verb ?? 'did something that is gone';
const points = (line: Bodies['scorecard']['lines'][number]): string =>
  'counts' in line && typeof line.counts === 'object' && 'steps' in line.counts ? 'points' : `${line.points} points`;

interface Shelf {
  readonly folder?: string;
  readonly labels?: readonly string[];
  readonly description?: string;
}
const shelfOf = (body: object): readonly string[] => {
  const { folder, labels = [], description } = body as Shelf;
  return [...text('folder', folder), ...labels.map((label) => `label ${label}`), ...text('description', description)];
};

/** What one version of a definition says and the one before it did not, and the other way round. */
export interface VersionDifference {
  readonly added: readonly string[];
  readonly gone: readonly string[];
}

/** @param before the version before; undefined for the first one, all of which is new */
export function differenceOf<Kind extends DefinitionKind>(
  kind: Kind,
  before: { readonly name: string; readonly body: Bodies[Kind] } | undefined,
  after: { readonly name: string; readonly body: Bodies[Kind] },
  catalogue: Catalogue,
): VersionDifference {
  const facts = ({ name, body }: { readonly name: string; readonly body: Bodies[Kind] }): readonly string[] => [
    `called ${quotedSaid(name)}`,
    ...FACTS[kind](body, catalogue),
    ...shelfOf(body),
  ];
  const [was, is] = [before ? facts(before) : [], facts(after)];
  return { added: notIn(is, was), gone: notIn(was, is) };
}

/** What stands here oftener than there. */
function notIn(here: readonly string[], there: readonly string[]): readonly string[] {
  const left = new Map<string, number>();
  for (const each of there) left.set(each, (left.get(each) ?? 0) + 1);
  return here.filter((each) => {
    const n = left.get(each) ?? 0;
    left.set(each, n - 1);
    return n <= 0;
  });
}
