import { dealDetails } from '../../../contacts/deals.ts';
import { storageOf, type FieldBody } from '../../../contacts/fields.ts';
import { type DetailField } from '../../../intake/signal-types.ts';
import { type Catalogue } from '../../../settings/catalogue.ts';
import { type SubjectKind } from '../../../settings/subject-kind.ts';
import { type Window } from '../../../time/window.ts';
import { byKind } from '../../by-kind.ts';
import { opposite } from '../../opposite.ts';
import { detailStorage } from '../../prepare/details.ts';
import { isGroup, type Condition, type DetailLeaf, type Leaf, type Measure } from '../../schema.ts';
import { durationWords, operatorWords } from '../../words.ts';
import { slot, joinedParts, named, partsOf, type Part } from '../part.ts';
import { tagStorage } from '../../../tags/values.ts';
import { nameSaid, stageName } from '../names.ts';
import { numberWords } from '../windows.ts';
import { done, has, isOne, signalSaid, type Grammatical } from './signals.ts';
import { dateWords, isAny, listed, numberText, plainSaid, quotedSaid, testSaid, windowSaid } from './values.ts';

/** What is said of somebody, and how it hangs on them: "who ordered", "whose country is Sweden". */
export interface Clause {
  readonly lead: 'who' | 'whose' | 'for whom';
  readonly text: string;
  /** the same, cut where one can pick something else, or look at what is named */
  readonly parts: readonly Part[];
}

/** A birthday is an anniversary by itself: what is said of the day with its year says so. */
export const isBirthday = (name: string): boolean => /birth/i.test(name);
export const WITH_ITS_YEAR = ', with its year,';
const birthdaySaid = (op: string, test: string): string =>
  op === 'within the last' || op === 'within the next' ? `${WITH_ITS_YEAR} ${test}` : test.replace('has its anniversary', 'is');

/** A stage by its name, or by its key where another has the same name. */
export const stageSaid = (catalogue: Catalogue, id: number): string => {
  const name = stageName(catalogue, id);
  return name.startsWith('#') ? name : (catalogue.get('stage', id)?.name ?? '(gone)');
};

/** Since when something stands: `is eager and became so in the last week`, `has been eager for more than 30 days` */
function standing(value: string, since: Window | undefined): readonly Part[] {
  if (since === undefined || since === 'ever') return [slot(`is ${value}`)];
  if ('olderThan' in since)
    return partsOf(slot(`has been ${value}`), slot(`for more than ${durationWords({ n: since.olderThan, unit: since.unit })}`));
  return partsOf(slot(`is ${value}`), slot(`and became so ${windowSaid(since)}`));
}

function clause(lead: Clause['lead'], ...words: readonly (string | Part)[]): Clause {
  const parts = partsOf(...words);
  return { lead, parts, text: joinedParts(parts) };
}

const are = (number: Grammatical): string => (isOne(number) ? 'is' : 'are');
const hasNot = (number: Grammatical): string => (isOne(number) ? 'does not have' : 'do not have');

/** How a value of a field is called: a choice by its name, money with its currency, text in quotation marks. */
function factSaid(field: FieldBody, { workspace }: Catalogue): (value: unknown) => string {
  const storage = storageOf[field.type];
  return (value) => {
    const option = field.options?.find((each) => each.key === value);
    if (option) return option.name;
    if (storage === 'number') return `${numberText(value)}${field.type === 'money' ? ` ${workspace.currency}` : ''}`;
    if (storage === 'day' || storage === 'instant') return dateWords(String(value));
    return storage === 'text' ? quotedSaid(String(value)) : String(value);
  };
}

/** What comes before a test of what a tag carries: `with a value that` is more than 3, or the tag `that` is active. */
export const VALUED = { number: 'with a value that', day: 'with a value that', active: 'that' } as const;

/** One line of a condition as a clause about one or many. */
export const clauseOf = byKind<Leaf, [Catalogue, Grammatical], Clause>({
  field: (leaf, catalogue, number) => {
    const field = catalogue.get('field', leaf.field);
    if (!field) return clause('for whom', 'a field that is gone is asked');
    const storage = storageOf[field.body.type];
    // Of companies their own facts are asked, so nobody has to say whose they are.
    const name = nameSaid(catalogue, 'field', leaf.field, number === 'company' || number === 'companies');
    const [, verb, what = ''] = /^(has|is)\s+(.*)$/.exec(field.name) ?? [];
    // Whose name is said already needs no "yes": they have their own kiln.
    if (storage === 'yesNo' && verb && field.body.of === 'contact' && (leaf.op === 'is yes' || leaf.op === 'is no')) {
      const [yes, no] = verb === 'is' ? [are(number), `${are(number)} not`] : [has(number), hasNot(number)];
      return clause('who', slot(leaf.op === 'is yes' ? yes : no), what);
    }
    const shown = factSaid(field.body, catalogue);
    const test = testSaid(leaf, storage, shown);
    // A birthday is an anniversary by itself.
    return clause('whose', slot(name), slot(isBirthday(name) ? birthdaySaid(leaf.op, test) : test));
  },
  tag: (leaf, catalogue, number) => {
    const key = catalogue.get('tag', leaf.tag)?.key ?? '(gone)';
    const storage = tagStorage[catalogue.body('tag', leaf.tag)?.value ?? 'number'];
    const shown = (each: unknown): string => (storage === 'day' ? dateWords(String(each)) : numberText(each));
    const tag = [named('tag', key, key), slot(leaf.value ? `${VALUED[storage]} ${testSaid(leaf.value, storage, shown)}` : '')];
    const when = windowSaid(leaf.since);
    switch (leaf.op) {
      case 'has':
        return clause('who', has(number), 'the tag', ...tag, slot(when && `, got ${when}`));
      case 'lacks':
        return clause('who', slot(hasNot(number)), 'the tag', ...tag);
      case 'had':
        return clause('who', has(number), slot('had'), 'the tag', ...tag, 'at some time');
      case 'lost':
        return clause('who', slot('lost'), 'the tag', ...tag, slot(when));
    }
  },
  signal: (leaf, catalogue, number) => clause('who', ...signalSaid(leaf, catalogue, number)),
  change: (leaf, catalogue) => {
    const name =
      leaf.what === 'field'
        ? nameSaid(catalogue, 'field', leaf.key ?? -1)
        : leaf.what === 'band'
          ? nameSaid(catalogue, 'scorecard', leaf.key ?? -1)
          : leaf.what;
    const shown = (value: unknown): string => {
      if (value === null) return 'nothing';
      if (leaf.what === 'stage') return stageSaid(catalogue, Number(value));
      if (leaf.what === 'band')
        return catalogue.body('scorecard', leaf.key ?? -1)?.bands.find((band) => band.key === value)?.name ?? String(value);
      const field = leaf.what === 'field' ? catalogue.body('field', leaf.key ?? -1) : undefined;
      return field ? factSaid(field, catalogue)(value) : String(value);
    };
    const sides = [leaf.from ? `from ${listed(leaf.from.map(shown), 'or')}` : '', leaf.to ? `to ${listed(leaf.to.map(shown), 'or')}` : '']
      .filter(Boolean)
      .join(' ');
    return clause(
      'whose',
      slot(name),
      ...done({ verb: 'changed', participle: 'changed', present: 'changes', rest: sides }, leaf.count, leaf.within, 'one'),
    );
  },
  compare: (leaf, catalogue) =>
    clause(
      'for whom',
      slot(measureSaid(leaf.left, catalogue)),
      slot(`is ${operatorWords('number', leaf.op).before}`),
      slot(leaf.times === undefined ? '' : `${numberText(leaf.times)} times`),
      slot(measureSaid(leaf.right, catalogue)),
    ),
  score: (leaf, catalogue) =>
    clause(
      'whose',
      slot(nameSaid(catalogue, 'scorecard', leaf.scorecard)),
      slot(testSaid({ op: leaf.op, value: leaf.value }, 'number', numberText)),
    ),
  band: (leaf, catalogue) => {
    const card = catalogue.get('scorecard', leaf.scorecard);
    const names = [leaf.value].flat().map((key) => card?.body.bands.find((band) => band.key === key)?.name ?? key);
    const said = listed(names, 'or');
    const test = leaf.op.startsWith('is not') ? [slot(`is not ${said}`)] : standing(said, leaf.since);
    return clause('whose', slot(nameSaid(catalogue, 'scorecard', leaf.scorecard)), ...test);
  },
  audience: (leaf, catalogue, number) => {
    const audience = catalogue.get('audience', leaf.audience);
    const name = named('audience', audience?.key ?? '', nameSaid(catalogue, 'audience', leaf.audience));
    const when = windowSaid(leaf.since);
    if (leaf.op === 'out') return clause('who', slot(`${are(number)} not in`), name);
    if (leaf.op === 'left') return clause('who', slot('left'), name, slot(when));
    return clause('who', slot(`${are(number)} in`), name, slot(when && `and came ${when}`));
  },
  stage: (leaf, catalogue) => {
    const names = listed(
      [leaf.value].flat().map((id) => stageSaid(catalogue, id)),
      'or',
    );
    if (leaf.op === 'is at least') return clause('whose', slot('stage'), slot(`is ${names} or further on`));
    if (leaf.op === 'is before') return clause('whose', slot('stage'), slot(`is before ${names}`));
    return clause('whose', slot('stage'), ...standing(names, leaf.since));
  },
  owner: (leaf, _catalogue, number) => {
    if (leaf.op === 'is empty') return clause('who', has(number), slot('no owner'));
    if (leaf.op === 'is filled') return clause('who', has(number), slot('an owner'));
    return clause('whose', slot('owner'), slot(`is ${listed([leaf.value ?? []].flat(), 'or')}`));
  },
  consent: (leaf) => clause('whose', 'consent to', slot(leaf.channel), slot(`${leaf.op} ${leaf.value}`)),
  deal: (leaf, catalogue, number) => {
    const fields = dealDetails(catalogue);
    const where = (leaf.where ?? []).map((each) => dealDetailSaid(each, fields, catalogue));
    const many = isAny(leaf.count) ? 'a deal' : numberWords(leaf.count, 'deal', 'deals');
    return clause('who', has(number), slot(many), slot(where.length > 0 ? `whose ${listed(where, 'and')}` : ''));
  },
  contacts: (leaf, catalogue, number) => {
    const many = numberWords(leaf.count, 'contact', 'contacts');
    return clause('who', has(number), slot(many), slot(saidOf(leaf.condition, catalogue, 'many')));
  },
});

/** What is compared: a field, a score, or how much was done. */
function measureSaid(measure: Measure, catalogue: Catalogue): string {
  if ('field' in measure) return nameSaid(catalogue, 'field', measure.field);
  if ('scorecard' in measure) return nameSaid(catalogue, 'scorecard', measure.scorecard);
  const { type, where, within, days, sum } = measure;
  const what = joinedParts(signalSaid({ kind: 'signal', type, where, within }, catalogue, 'many'));
  if (days) return `the number of days on which they ${what}`;
  return sum ? `the total ${sum.path.split('.').reverse().join(' of ')} of what they ${what}` : `the number of times they ${what}`;
}

function dealDetailSaid(leaf: DetailLeaf, fields: readonly DetailField[], catalogue: Catalogue): string {
  const storage = detailStorage(fields, leaf.path);
  const stages = catalogue.all('pipeline').flatMap((pipeline) => pipeline.body.stages);
  const shown = (value: unknown): string => {
    if (leaf.path === 'stage') return stages.find((stage) => stage.key === value)?.name ?? String(value);
    if (leaf.path === 'pipeline') return catalogue.find('pipeline', String(value))?.name ?? String(value);
    if (leaf.path === 'amount') return `${numberText(value)} ${catalogue.workspace.currency}`;
    if (storage === 'number') return numberText(value);
    return storage === 'day' || storage === 'instant' ? dateWords(String(value)) : plainSaid(String(value));
  };
  const name = catalogue.all('field').find((field) => field.body.of === 'deal' && field.key === leaf.path)?.name ?? leaf.path;
  return `${name} ${testSaid(leaf, storage, shown)}`;
}

/**
 * A condition as it hangs on those whom it is said of: `whose country is Sweden and who ordered in the last 30 days`.
 *
 * @param number of whom it is said
 */
export function saidOf(condition: Condition, catalogue: Catalogue, number: Grammatical): string {
  if (!isGroup(condition)) {
    const { lead, text } = clauseOf(condition, catalogue, number);
    if (number !== 'companies') return `${lead} ${text}`;
    return `${lead === 'who' ? 'that' : lead === 'for whom' ? 'for which' : lead} ${text}`;
  }
  if (condition.of.length === 0) return condition.match === 'any' ? 'who cannot be: nothing is asked for' : 'whoever they are';
  const parts = condition.of.map((each) => {
    const words = saidOf(each, catalogue, number);
    if (!isGroup(each) || each.of.length < 2 || (each.match === 'none' && condition.match === 'all')) return words;
    // Two short alternatives are told apart by a word; what is longer stands apart.
    return each.match === 'any' && each.of.length === 2 && !words.includes(',') ? `either ${words}` : `(${words})`;
  });
  if (condition.match === 'none') return `except those ${listedLong(parts, 'or')}`;
  if (condition.match === 'any')
    return listedLong(
      parts.map((part) => part.replace(/^(\(?)except those/, '$1all but those')),
      'or',
    );
  // Whom to leave out is said last.
  const [left, kept] = [parts.filter((part) => part.startsWith('except')), parts.filter((part) => !part.startsWith('except'))];
  return [listedLong(kept, 'and'), ...left].filter(Boolean).join(', ');
}

/** Clauses hold commas of their own, so each stands apart. */
const listedLong = (parts: readonly string[], joint: 'and' | 'or'): string =>
  parts.length < 2 || (parts.length < 3 && parts.every((part) => !part.includes(',')))
    ? parts.join(` ${joint} `)
    : `${parts.slice(0, -1).join(', ')}, ${joint} ${parts.at(-1) ?? ''}`;

/** A condition as it is said of one: `ordered in the last 30 days and country is Sweden`. */
export const said = (condition: Condition, catalogue: Catalogue, of: SubjectKind = 'contact'): string =>
  grouped(condition, (leaf) => clauseOf(leaf, catalogue, ONE[of]).text);
/** The same of one line, cut where one can pick something else. */
export const saidParts = (leaf: Leaf, catalogue: Catalogue, of: SubjectKind = 'contact'): readonly Part[] =>
  clauseOf(leaf, catalogue, ONE[of]).parts;
const ONE: Readonly<Record<SubjectKind, Grammatical>> = { contact: 'one', deal: 'one', company: 'company' };

const OF_THEM: Readonly<Record<Clause['lead'], string>> = { who: 'they', whose: 'their', 'for whom': 'for them' };
const OF_IT: Readonly<Record<Clause['lead'], string>> = { who: 'it', whose: 'its', 'for whom': 'for it' };
/**
 * A condition as it is said of whoever was named before: `they have not ordered and their country is Sweden`, and of a company `its seats is
 * at least 50 and its contacts have not ordered`.
 */
export const saidOfThem = (condition: Condition, catalogue: Catalogue, of: SubjectKind = 'contact'): string =>
  grouped(
    condition,
    (leaf) => {
      const isCompany = of === 'company';
      if (leaf.kind === 'signal') return `${isCompany ? 'its contacts' : 'they'} ${joinedParts(signalSaid(leaf, catalogue, 'many', true))}`;
      const { lead, text } = clauseOf(leaf, catalogue, isCompany ? 'company' : 'many');
      return `${(isCompany ? OF_IT : OF_THEM)[lead]} ${text}`;
    },
    'it is not so that ',
  );

function grouped(condition: Condition, words: (leaf: Leaf) => string, notSo = 'none of this: '): string {
  if (!isGroup(condition)) return words(condition);
  if (condition.of.length === 0) return condition.match === 'any' ? 'nothing, which never holds' : 'anything';
  const parts = condition.of.map((each) =>
    isGroup(each) && each.of.length > 1 ? `(${grouped(each, words, notSo)})` : grouped(each, words, notSo),
  );
  if (condition.match !== 'none') return listedLong(parts, condition.match === 'all' ? 'and' : 'or');
  const [only, ...others] = condition.of;
  const turned = only && others.length === 0 && !isGroup(only) ? opposite(only) : undefined;
  if (turned) return words(turned);
  return parts.length === 1 ? `${notSo}${parts[0]}` : `none of this: ${listedLong(parts, 'or')}`;
}
