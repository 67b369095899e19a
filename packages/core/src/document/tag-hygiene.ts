import { type Catalogue } from '../settings/catalogue.ts';
import { type Definition } from '../settings/definitions.ts';
import { type TagId } from '../settings/ids.ts';
import { TAG_VALUE_WORDS } from '../tags/values.ts';
import { fold } from '../text/fold.ts';
import { DAY_MS, type Instant } from '../time/zone.ts';
import { usesOfTag } from './tag-uses.ts';

/** What is counted of a tag. */
export interface TagFigures {
  readonly people: number;
  /** of a valued tag: how many have it without a value */
  readonly withoutValue: number;
  /** when somebody was given it, or a reason for it, last */
  readonly lastGivenAt: Instant | undefined;
  /** by hand, by an import or by the API, which no definition shows */
  readonly givenByOthers: boolean;
}

/** Two tags, and how many people have both. */
export interface TagOverlap {
  readonly tags: readonly [TagId, TagId];
  readonly both: number;
}

export const HYGIENE_KINDS = [
  'never given',
  'not given lately',
  'given by nothing',
  'relied on by nothing',
  'alike names',
  'alike people',
  'alone in its family',
  'without a value',
] as const;
export type HygieneKind = (typeof HYGIENE_KINDS)[number];

/** Something about tags that is worth a look. */
export interface HygieneFinding {
  readonly kind: HygieneKind;
  /** the tag, or both of two that are alike */
  readonly tags: readonly TagId[];
  readonly words: string;
}

/** A tag that nobody was given for so long is worth a look. */
export const LATELY_DAYS = 60;
/** Two tags are alike if so much of all who have either has both. */
const ALIKE_SHARE = 0.9;
const FEWEST_ALIKE = 5;

interface Looking {
  readonly catalogue: Catalogue;
  readonly figures: ReadonlyMap<TagId, TagFigures>;
  readonly overlaps: readonly TagOverlap[];
  readonly now: Instant;
}

/** Everything about the tags of a plan that is worth a look, what is least doubtful first. */
export function tagHygiene(looking: Looking): readonly HygieneFinding[] {
  const { catalogue } = looking;
  const tags = catalogue.all('tag');
  const found = [
    ...tags.flatMap((tag) => ofOne(tag, looking)),
    ...alikeNames(tags, catalogue),
    ...alikePeople(looking),
    ...catalogue.all('family').flatMap((family): HygieneFinding[] => {
      const own = tags.filter((tag) => tag.body.family === family.id);
      const [only] = own;
      return only && own.length === 1
        ? [{ kind: 'alone in its family', tags: [only.id], words: `It is the only tag of the family ${family.name}.` }]
        : [];
    }),
  ];
  return found.sort((a, b) => HYGIENE_KINDS.indexOf(a.kind) - HYGIENE_KINDS.indexOf(b.kind));
}

function ofOne(tag: Definition<'tag'>, { catalogue, figures, now }: Looking): readonly HygieneFinding[] {
  const { people = 0, withoutValue = 0, lastGivenAt, givenByOthers = false } = figures.get(tag.id) ?? {};
  const { givenBy, reliedOnIn } = usesOfTag(catalogue, tag.id);
  const found: HygieneFinding[] = [];
  const find = (kind: HygieneKind, words: string): void => void found.push({ kind, tags: [tag.id], words });
  const days = lastGivenAt === undefined ? undefined : Math.floor((now - lastGivenAt) / DAY_MS);
  if (days === undefined && people === 0) find('never given', 'Nobody has ever been given it.');
  else if (days !== undefined && days >= LATELY_DAYS) find('not given lately', `Nobody has been given it for ${days} days.`);
  const [giver] = givenBy;
  if (givenBy.length === 0 && !givenByOthers)
    find('given by nothing', 'No rule, form, map or message gives it, and nobody was given it by hand, by an import or by the API.');
  else if (giver && givenBy.every(({ on }) => !on) && !givenByOthers)
    find('given by nothing', `What gives it is off: ${givenBy.map(({ name }) => name).join(', ')}.`);
  if (reliedOnIn.length === 0) find('relied on by nothing', 'No audience, score, rule, bundle, routing table or stage asks for it.');
  if (tag.body.value !== undefined && withoutValue > 0)
    find('without a value', `It carries ${TAG_VALUE_WORDS[tag.body.value]}, and ${withoutValue} of the ${people} who have it have none.`);
  return found;
}

/** Names that differ in one letter, in their order of words or in an “s” at the end. */
function alikeNames(tags: readonly Definition<'tag'>[], catalogue: Catalogue): readonly HygieneFinding[] {
  const names = tags.map((tag) => ({ tag, words: wordsOf(tag.name) }));
  return names.flatMap((a, index) =>
    names.slice(index + 1).flatMap((b): HygieneFinding[] => {
      if (!alike(a.words, b.words)) return [];
      const families =
        a.tag.body.family === b.tag.body.family ? '' : `, in ${familyOf(a.tag, catalogue)} and in ${familyOf(b.tag, catalogue)}`;
      return [
        {
          kind: 'alike names',
          tags: [a.tag.id, b.tag.id],
          words: `“${a.tag.name}” and “${b.tag.name}” are named nearly the same${families}.`,
        },
      ];
    }),
  );
}

const familyOf = (tag: Definition<'tag'>, catalogue: Catalogue): string => catalogue.get('family', tag.body.family)?.name ?? '…';

const wordsOf = (name: string): string =>
  fold(name)
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .map((word) => (word.length > 3 ? word.replace(/s$/, '') : word))
    .sort()
    .join(' ');

function alike(a: string, b: string): boolean {
  if (a === b) return true;
  const [short, long] = a.length <= b.length ? [a, b] : [b, a];
  if (long.length - short.length > 1 || short.length < 4) return false;
  let at = 0;
  while (at < short.length && short[at] === long[at]) at += 1;
  const rest = short.length === long.length ? at + 1 : at;
  // A digit is no slip: “kiln 1” and “kiln 2” are meant to be two.
  return short.slice(rest) === long.slice(at + 1) && !/\d/.test(`${short[at] ?? ''}${long[at] ?? ''}`);
}

function alikePeople({ catalogue, figures, overlaps }: Looking): readonly HygieneFinding[] {
  return overlaps.flatMap(({ tags, both }): HygieneFinding[] => {
    const [a, b] = tags.map((tag) => catalogue.get('tag', tag));
    const [ofA, ofB] = tags.map((tag) => figures.get(tag)?.people ?? 0) as [number, number];
    const either = ofA + ofB - both;
    if (!a || !b || a.retired || b.retired || both < FEWEST_ALIKE || both < either * ALIKE_SHARE) return [];
    return [{ kind: 'alike people', tags: [...tags], words: `${both} of the ${either} people who have ${a.key} or ${b.key} have both.` }];
  });
}
