import { dealDetails } from '../../contacts/deals.ts';
import { storageOf } from '../../contacts/fields.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { byKind } from '../by-kind.ts';
import { isGroup, type Condition, type Leaf, type LeafOf, type Measure, type SignalTypes } from '../schema.ts';
import { operatorWords, quoted } from '../words.ts';
import { bandName, stageName, subjectName, subjectPart } from './names.ts';
import { inSlot, joinedParts, plain, some, type Part } from './part.ts';
import { fieldValueWords, testParts, testWords, whereParts } from './tests.ts';
import { countWords, limitWords, numberWords, SINCE_WORDS, sinceWords, windowWords } from './windows.ts';

export const lineText = (leaf: Leaf, catalogue: Catalogue): string => joinedParts(lineParts(leaf, catalogue));

/** A condition inside a line, as it can be typed there. */
export function nestedText(condition: Condition, catalogue: Catalogue): string {
  if (!isGroup(condition)) return lineText(condition, catalogue);
  const inner = condition.of.map((each) => (isGroup(each) ? `(${nestedText(each, catalogue)})` : lineText(each, catalogue)));
  return `${condition.match} of: ${inner.join('; ')}`.trim();
}

function tagParts(leaf: LeafOf<'tag'>, catalogue: Catalogue): readonly Part[] {
  const tag = catalogue.get('tag', leaf.tag);
  const key = tag?.key ?? '(gone)';
  const storage = tag?.body.value === 'date' ? 'day' : 'number';
  const verb = leaf.op === 'lost' ? SINCE_WORDS.tag.lost : SINCE_WORDS.tag.has;
  return [
    inSlot('op', `${leaf.op} tag`),
    { text: key, slot: 'value', names: { kind: 'tag', key } },
    ...(leaf.value ? [inSlot('where', `valued ${testWords(storage, leaf.value.op, leaf.value.value)}`)] : []),
    ...some('since', sinceWords(verb, leaf.since)),
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

function whereOf(leaf: { readonly type: SignalTypes; readonly where?: LeafOf<'signal'>['where'] }, catalogue: Catalogue): readonly Part[] {
  return whereParts(leaf.where ?? [], catalogue.detailsOf(catalogue.signalTypes(leaf.type)));
}

function signalParts(leaf: LeafOf<'signal'>, catalogue: Catalogue): readonly Part[] {
  return [
    inSlot('subject', typesWords(leaf.type, catalogue)),
    ...whereOf(leaf, catalogue),
    ...(leaf.then ? [inSlot('then', thenWords(leaf.then, catalogue))] : []),
    inSlot('count', measuredWords(leaf)),
    inSlot('window', windowWords(leaf.within)),
  ];
}

export function thenWords(then: NonNullable<LeafOf<'signal'>['then']>, catalogue: Catalogue): string {
  return [
    then.happens ? 'followed by' : 'not followed by',
    typesWords(then.type, catalogue),
    ...whereOf(then, catalogue).map((part) => part.text),
    ...(then.within ? [`within ${then.within.n} ${then.within.unit}`] : []),
  ].join(' ');
}

/** How many, on how many days, summing to what, or which one alone is looked at. */
export function measuredWords(leaf: Pick<LeafOf<'signal'>, 'count' | 'days' | 'sum' | 'pick'>): string {
  if (leaf.pick) return `only the ${leaf.pick}`;
  if (leaf.days) return `on ${limitWords(leaf.days)} days`;
  if (leaf.sum) return `summing ${leaf.sum.path} to ${limitWords(leaf.sum)}`;
  return countWords(leaf.count);
}

function measureWords(measure: Measure, catalogue: Catalogue): string {
  if ('field' in measure) return subjectName(catalogue, 'field', measure.field);
  if ('scorecard' in measure) return subjectName(catalogue, 'scorecard', measure.scorecard);
  const of = measure.days ? 'on how many days' : measure.sum ? `total ${measure.sum.path} of` : 'how often';
  const inside = [
    typesWords(measure.type, catalogue),
    ...whereOf(measure, catalogue).map((part) => part.text),
    windowWords(measure.within),
  ];
  return `${of} (${inside.join(' ')})`;
}

function changeParts(leaf: LeafOf<'change'>, catalogue: Catalogue): readonly Part[] {
  const shown = changedWords(leaf, catalogue);
  const side = (word: 'from' | 'to'): readonly Part[] =>
    leaf[word] ? [inSlot(word, `${word} ${leaf[word].map((value) => (value === null ? 'nothing' : shown(value))).join(', ')}`)] : [];
  const subject =
    leaf.what === 'field' || leaf.what === 'band'
      ? subjectPart(catalogue, leaf.what === 'field' ? 'field' : 'scorecard', leaf.key ?? -1)
      : inSlot('subject', leaf.what);
  return [
    subject,
    plain('changed'),
    ...side('from'),
    ...side('to'),
    inSlot('count', countWords(leaf.count)),
    inSlot('window', windowWords(leaf.within)),
  ];
}

/** How the values on either side of a change are written. */
function changedWords(leaf: LeafOf<'change'>, catalogue: Catalogue): (value: unknown) => string {
  if (leaf.what === 'stage') return (value) => stageName(catalogue, Number(value));
  if (leaf.what === 'band') return (value) => bandName(catalogue, leaf.key ?? -1, String(value));
  const field = leaf.what === 'field' ? catalogue.body('field', leaf.key ?? -1) : undefined;
  return field ? fieldValueWords(field) : quoted;
}

/**
 * A line in words, cut into its parts. Joined by spaces they are the line as it can be typed, which `read` takes back to the same condition.
 *
 * @example lineText(leaf, catalogue) // 'ordered at least 2 times in the last 30 days'
 */
export const lineParts = byKind<Leaf, [Catalogue], readonly Part[]>({
  field: (leaf, catalogue) => {
    const field = catalogue.get('field', leaf.field);
    if (!field) return [plain('a field that is gone')];
    return [
      subjectPart(catalogue, 'field', field.id),
      ...testParts(storageOf[field.body.type], leaf.op, leaf.value, fieldValueWords(field.body)),
    ];
  },
  tag: (leaf, catalogue) => tagParts(leaf, catalogue),
  signal: (leaf, catalogue) => signalParts(leaf, catalogue),
  change: (leaf, catalogue) => changeParts(leaf, catalogue),
  compare: (leaf, catalogue) => {
    const times = leaf.times === undefined ? undefined : `${leaf.times} times`;
    return [
      inSlot('subject', measureWords(leaf.left, catalogue)),
      inSlot('op', operatorWords('number', leaf.op).before),
      ...some('value', times),
      inSlot('measure', measureWords(leaf.right, catalogue)),
    ];
  },
  score: (leaf, catalogue) => [subjectPart(catalogue, 'scorecard', leaf.scorecard), ...testParts('number', leaf.op, leaf.value)],
  band: (leaf, catalogue) => {
    const names = [leaf.value].flat().map((key) => bandName(catalogue, leaf.scorecard, key));
    return [
      subjectPart(catalogue, 'scorecard', leaf.scorecard),
      inSlot('op', leaf.op),
      inSlot('value', names.join(', ')),
      ...some('since', sinceWords(SINCE_WORDS.band, leaf.since)),
    ];
  },
  audience: (leaf, catalogue) => {
    const verb = leaf.op === 'left' ? SINCE_WORDS.audience.left : SINCE_WORDS.audience.in;
    return [
      inSlot('op', { in: 'is in', out: 'is not in', left: 'has left' }[leaf.op]),
      { ...subjectPart(catalogue, 'audience', leaf.audience), slot: 'value' },
      ...some('since', sinceWords(verb, leaf.since)),
    ];
  },
  stage: (leaf, catalogue) => [
    inSlot('subject', 'stage'),
    inSlot('op', leaf.op),
    inSlot(
      'value',
      [leaf.value]
        .flat()
        .map((id) => stageName(catalogue, id))
        .join(', '),
    ),
    ...some('since', sinceWords(SINCE_WORDS.stage, leaf.since)),
  ],
  owner: (leaf) => [inSlot('subject', 'owner'), inSlot('op', leaf.op), ...some('value', [leaf.value ?? []].flat().map(quoted).join(', '))],
  consent: (leaf) => [plain('consent to'), inSlot('subject', leaf.channel), inSlot('op', leaf.op), inSlot('value', leaf.value)],
  deal: (leaf, catalogue) => [
    inSlot('count', numberWords(leaf.count, 'deal', 'deals')),
    ...whereParts(leaf.where ?? [], dealDetails(catalogue)),
  ],
  contacts: (leaf, catalogue) => [
    inSlot('count', numberWords(leaf.count, 'contact', 'contacts')),
    plain('for whom'),
    inSlot('condition', `(${nestedText(leaf.condition, catalogue)})`),
  ],
});
