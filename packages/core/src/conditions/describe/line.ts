import { dealDetails } from '../../contacts/deals.ts';
import { storageOf } from '../../contacts/fields.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { tagStorage } from '../../tags/values.ts';
import { byKind } from '../by-kind.ts';
import { isGroup, type Condition, type Leaf, type LeafOf, type Measure, type SignalTypes } from '../schema.ts';
import { operatorWords, quoted } from '../words.ts';
import { bandName, stageName, subjectName } from './names.ts';
import { joined } from './part.ts';
import { fieldValueWords, testTexts, testWords, whereTexts } from './tests.ts';
import { countWords, limitWords, numberWords, SINCE_WORDS, sinceWords, windowWords } from './windows.ts';

/** A text in a list, or an empty list where there is none. */
const some = (text: string | undefined): readonly string[] => (text ? [text] : []);

export const lineText = (leaf: Leaf, catalogue: Catalogue): string => joined(lineTexts(leaf, catalogue));

/** A condition inside a line, as it can be typed there. */
export function nestedText(condition: Condition, catalogue: Catalogue): string {
  if (!isGroup(condition)) return lineText(condition, catalogue);
  const inner = condition.of.map((each) => (isGroup(each) ? `(${nestedText(each, catalogue)})` : lineText(each, catalogue)));
  return `${condition.match} of: ${inner.join('; ')}`.trim();
}

function tagTexts(leaf: LeafOf<'tag'>, catalogue: Catalogue): readonly string[] {
  const tag = catalogue.get('tag', leaf.tag);
  const key = tag?.key ?? '(gone)';
  const storage = tagStorage[tag?.body.value ?? 'number'];
  const verb = leaf.op === 'lost' ? SINCE_WORDS.tag.lost : SINCE_WORDS.tag.has;
  return [
    `${leaf.op} tag`,
    key,
    ...(leaf.value ? [`valued ${testWords(storage, leaf.value.op, leaf.value.value)}`] : []),
    ...some(sinceWords(verb, leaf.since)),
  ];
}

function typesWords(type: SignalTypes, catalogue: Catalogue): string {
  if (type === 'from them') return 'did anything';
  if (type === 'from us') return 'heard from us';
  return [type]
    .flat()
    .map((id) => subjectName(catalogue, 'signalType', id))
    .join(' or ');
}

function whereOf(
  leaf: { readonly type: SignalTypes; readonly where?: LeafOf<'signal'>['where'] },
  catalogue: Catalogue,
): readonly string[] {
  return whereTexts(leaf.where ?? [], catalogue.detailsOf(catalogue.signalTypes(leaf.type)));
}

function signalTexts(leaf: LeafOf<'signal'>, catalogue: Catalogue): readonly string[] {
  return [
    typesWords(leaf.type, catalogue),
    ...whereOf(leaf, catalogue),
    ...(leaf.then ? [thenWords(leaf.then, catalogue)] : []),
    measuredWords(leaf),
    windowWords(leaf.within),
  ];
}

function thenWords(then: NonNullable<LeafOf<'signal'>['then']>, catalogue: Catalogue): string {
  return [
    then.happens ? 'followed by' : 'not followed by',
    typesWords(then.type, catalogue),
    ...whereOf(then, catalogue),
    ...(then.within ? [`within ${then.within.n} ${then.within.unit}`] : []),
  ].join(' ');
}

/** How many, on how many days, summing to what, or which one alone is looked at. */
function measuredWords(leaf: Pick<LeafOf<'signal'>, 'count' | 'days' | 'sum' | 'pick'>): string {
  if (leaf.pick) return `only the ${leaf.pick}`;
  if (leaf.days) return `on ${limitWords(leaf.days)} days`;
  if (leaf.sum) return `summing ${leaf.sum.path} to ${limitWords(leaf.sum)}`;
  return countWords(leaf.count);
}

function measureWords(measure: Measure, catalogue: Catalogue): string {
  if ('field' in measure) return subjectName(catalogue, 'field', measure.field);
  if ('scorecard' in measure) return subjectName(catalogue, 'scorecard', measure.scorecard);
  const of = measure.days ? 'on how many days' : measure.sum ? `total ${measure.sum.path} of` : 'how often';
  const inside = [typesWords(measure.type, catalogue), ...whereOf(measure, catalogue), windowWords(measure.within)];
  return `${of} (${inside.join(' ')})`;
}

function changeTexts(leaf: LeafOf<'change'>, catalogue: Catalogue): readonly string[] {
  const shown = changedWords(leaf, catalogue);
  const side = (word: 'from' | 'to'): readonly string[] =>
    leaf[word] ? [`${word} ${leaf[word].map((value) => (value === null ? 'nothing' : shown(value))).join(', ')}`] : [];
  const subject =
    leaf.what === 'field' || leaf.what === 'band'
      ? subjectName(catalogue, leaf.what === 'field' ? 'field' : 'scorecard', leaf.key ?? -1)
      : leaf.what;
  return [subject, 'changed', ...side('from'), ...side('to'), countWords(leaf.count), windowWords(leaf.within)];
}

/** How the values on either side of a change are written. */
function changedWords(leaf: LeafOf<'change'>, catalogue: Catalogue): (value: unknown) => string {
  if (leaf.what === 'stage') return (value) => stageName(catalogue, Number(value));
  if (leaf.what === 'band') return (value) => bandName(catalogue, leaf.key ?? -1, String(value));
  const field = leaf.what === 'field' ? catalogue.body('field', leaf.key ?? -1) : undefined;
  return field ? fieldValueWords(field) : quoted;
}

/**
 * A line in its short form, in which documents may hold it, word group by word group. `read` takes it back to the same condition.
 *
 * @example lineText(leaf, catalogue) // 'ordered at least 2 times in the last 30 days'
 */
const lineTexts = byKind<Leaf, [Catalogue], readonly string[]>({
  field: (leaf, catalogue) => {
    const field = catalogue.get('field', leaf.field);
    if (!field) return ['a field that is gone'];
    return [
      subjectName(catalogue, 'field', field.id),
      ...testTexts(storageOf[field.body.type], leaf.op, leaf.value, fieldValueWords(field.body)),
    ];
  },
  tag: tagTexts,
  signal: signalTexts,
  change: changeTexts,
  compare: (leaf, catalogue) => {
    const times = leaf.times === undefined ? undefined : `${leaf.times} times`;
    return [
      measureWords(leaf.left, catalogue),
      operatorWords('number', leaf.op).before,
      ...some(times),
      measureWords(leaf.right, catalogue),
    ];
  },
  score: (leaf, catalogue) => [subjectName(catalogue, 'scorecard', leaf.scorecard), ...testTexts('number', leaf.op, leaf.value)],
  band: (leaf, catalogue) => {
    const names = [leaf.value].flat().map((key) => bandName(catalogue, leaf.scorecard, key));
    return [
      subjectName(catalogue, 'scorecard', leaf.scorecard),
      leaf.op,
      names.join(', '),
      ...some(sinceWords(SINCE_WORDS.band, leaf.since)),
    ];
  },
  audience: (leaf, catalogue) => {
    const verb = leaf.op === 'left' ? SINCE_WORDS.audience.left : SINCE_WORDS.audience.in;
    return [
      { in: 'is in', out: 'is not in', left: 'has left' }[leaf.op],
      subjectName(catalogue, 'audience', leaf.audience),
      ...some(sinceWords(verb, leaf.since)),
    ];
  },
  stage: (leaf, catalogue) => [
    'stage',
    leaf.op,
    [leaf.value]
      .flat()
      .map((id) => stageName(catalogue, id))
      .join(', '),
    ...some(sinceWords(SINCE_WORDS.stage, leaf.since)),
  ],
  owner: (leaf) => ['owner', leaf.op, ...some([leaf.value ?? []].flat().map(quoted).join(', '))],
  consent: (leaf) => ['consent to', leaf.channel, leaf.op, leaf.value],
  deal: (leaf, catalogue) => [numberWords(leaf.count, 'deal', 'deals'), ...whereTexts(leaf.where ?? [], dealDetails(catalogue))],
  contacts: (leaf, catalogue) => [numberWords(leaf.count, 'contact', 'contacts'), 'for whom', `(${nestedText(leaf.condition, catalogue)})`],
});
