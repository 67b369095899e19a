import { dealDetails } from '../../contacts/deals.ts';
import { storageOf } from '../../contacts/fields.ts';
import { type DetailField } from '../../intake/signal-types.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type Window } from '../../time/window.ts';
import { byKind } from '../by-kind.ts';
import { detailStorage } from '../prepare/details.ts';
import { takes } from '../operators/index.ts';
import {
  isGroup,
  type Condition,
  type Count,
  type DetailCondition,
  type DetailLeaf,
  type Leaf,
  type LeafOf,
  type SignalTypes,
  type Value,
} from '../schema.ts';
import { durationWords, operatorWords } from '../words.ts';
import { opposite } from '../opposite.ts';
import { lineText } from './line.ts';

/** What is said of somebody, and how it hangs on them: "who ordered", "whose country is Sweden". */
export interface Clause {
  readonly lead: 'who' | 'whose' | 'for whom';
  readonly text: string;
}

/** How many it is said of. */
export type Grammatical = 'one' | 'many' | 'companies';

const DAY = /^(\d{4})-(\d{2})-(\d{2})/;
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'June', 'July', 'Aug', 'Sept', 'Oct', 'Nov', 'Dec'];
/** `28 Nov 2026`, with the hour where one is given */
function dateWords(text: string): string {
  const match = DAY.exec(text);
  if (!match) return text;
  const hour = /[T ](\d{2}:\d{2})/.exec(text)?.[1];
  return `${Number(match[3])} ${MONTHS[Number(match[2]) - 1] ?? ''} ${match[1]}${hour && hour !== '00:00' ? `, ${hour}` : ''}`;
}

const numberText = (value: unknown): string => {
  const number = typeof value === 'number' ? value : Number(value);
  return Number.isFinite(number) ? number.toLocaleString('en-GB', { maximumFractionDigits: 6 }) : String(value);
};

const listed = (words: readonly string[], joint: 'or' | 'and'): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${joint} ${words.at(-1) ?? ''}`;

export function windowSaid(window: Window | undefined): string {
  if (window === undefined || window === 'ever') return '';
  if ('last' in window) return window.last === 0 && window.unit === 'days' ? 'today' : `in the last ${spanSaid(window.last, window.unit)}`;
  if ('olderThan' in window) return `more than ${durationWords({ n: window.olderThan, unit: window.unit })} ago`;
  if (window.from && window.to) return `from ${dateWords(window.from)} until ${dateWords(window.to)}`;
  return window.from ? `since ${dateWords(window.from)}` : window.to ? `before ${dateWords(window.to)}` : '';
}

/** `45 days`, and `year` for one of them: in the last year */
const spanSaid = (n: number, unit: string): string => (n === 1 ? unit.replace(/s$/, '') : `${n} ${unit}`);

const timesSaid = (count: Count): string => {
  const words = operatorWords('number', count.op).before;
  if (Array.isArray(count.value)) return `between ${count.value.join(' and ')} times`;
  const times = count.value === 1 ? 'once' : count.value === 2 ? 'twice' : `${count.value} times`;
  return `${words} ${times}`;
};

const isAny = (count: Count | undefined): boolean => !count || (count.op === '>=' && count.value === 1);
const isNone = (count: Count | undefined): boolean => count?.op === '=' && count.value === 0;

/** Verbs whose participle is not their past. */
const PARTICIPLES: Readonly<Record<string, string>> = {
  was: 'been',
  were: 'been',
  wrote: 'written',
  gave: 'given',
  withdrew: 'withdrawn',
  took: 'taken',
  began: 'begun',
  went: 'gone',
  saw: 'seen',
  came: 'come',
  did: 'done',
  chose: 'chosen',
  spoke: 'spoken',
  ran: 'run',
  became: 'become',
  drove: 'driven',
};
const participle = (verb: string): string => verb.replace(/^\S+/, (first) => PARTICIPLES[first] ?? first);

/** How often, and whether at all, something was done. */
function done(verb: string, rest: string, count: Count | undefined, within: Window | undefined, number: Grammatical): string {
  const when = windowSaid(within);
  const has = number !== 'one' ? 'have' : 'has';
  const said = (...parts: readonly string[]): string => parts.filter(Boolean).join(' ');
  const plural = number !== 'one' ? verb.replace(/^was\b/, 'were') : verb;
  if (isNone(count)) return when === '' ? said(has, 'never', participle(verb), rest) : said(has, 'not', participle(verb), rest, when);
  if (isAny(count)) return said(plural, rest, when);
  const often = timesSaid(count as Count);
  // Many words before stand better apart from how often.
  return /\b(whose|with)\b/.test(rest) ? `${said(plural, rest)}, ${said(often, when)}` : said(plural, rest, often, when);
}

/** What a value of a detail is called: a form and its answers, and a message, by their names. */
function detailValue(path: string, value: unknown, form: string | undefined, catalogue: Catalogue, storage: string): string {
  if (path === 'form') return catalogue.find('form', String(value))?.name ?? String(value);
  if (path === 'campaign') return catalogue.find('message', String(value))?.name ?? String(value);
  const question = questionOf(path, form, catalogue);
  if (question) return question.options?.find((option) => option.key === value)?.name ?? String(value);
  if (storage === 'number') return numberText(value);
  if (storage === 'day' || storage === 'instant') return dateWords(String(value));
  // What is no plain word or two would run into the sentence.
  return PLAIN.test(String(value)) ? String(value) : quotedSaid(String(value));
}
const PLAIN = /^[\p{L}\p{N}_/.-]+( [\p{L}\p{N}_/.-]+){0,3}$/u;

function questionOf(path: string, form: string | undefined, catalogue: Catalogue) {
  if (!path.startsWith('answers.')) return undefined;
  const key = path.slice('answers.'.length);
  const forms = form === undefined ? catalogue.all('form') : catalogue.all('form').filter((each) => each.key === form);
  return forms.flatMap((each) => each.body.questions).find((question) => question.key === key);
}

const quotedSaid = (text: string): string => `“${text}”`;

/** A test in words, such as `is glaze` or `is at least 3`. */
function testSaid(
  leaf: { readonly op: string; readonly value?: Value | undefined },
  storage: Parameters<typeof operatorWords>[0],
  shown: (value: unknown) => string,
): string {
  const { op, value } = leaf;
  const words = operatorWords(storage, op);
  const kind = takes(storage, op);
  const joint = op === 'includes all of' ? 'and' : 'or';
  const isBare = /^(is|has|contains|does|starts|ends|includes)\b/.test(words.before);
  const before = isBare
    ? words.before
        .replace(/ one of$/, '')
        .replace(/^includes (any|all) of$/, 'includes')
        .replace(/^includes none of$/, 'does not include')
        .replace(/ any of$/, '')
        .replace(/ any word of$/, ' the word')
    : `is ${words.before}`;
  if (kind === 'nothing' || value === undefined) return op === 'is empty' ? 'is not known' : op === 'is filled' ? 'is known' : before;
  if (kind === 'range') return `${before} ${(value as unknown[]).map(shown).join(' and ')}`;
  if (kind === 'duration') {
    const { n, unit } = value as { n: number; unit: string };
    return words.after
      ? `${before} ${durationWords({ n, unit })} ${words.after}`
      : `${before.replace('within the', 'in the')} ${spanSaid(n, unit)}`;
  }
  if (kind === 'days') {
    const { n } = value as { n: number };
    if (op === 'anniversary in')
      return n === 1 ? 'has its anniversary tomorrow' : `has its anniversary ${n === 0 ? 'today' : `in ${n} days`}`;
    return `${before.replace('within the', 'in the')} ${spanSaid(n, 'days')}`;
  }
  const values = [value].flat().map(shown);
  if (storage === 'number' && op === '=') return `is ${values[0] ?? ''}`;
  if (storage === 'number' && op === '!=') return `is not ${values[0] ?? ''}`;
  return `${before} ${listed(values, joint)}${words.after ? ` ${words.after}` : ''}`;
}

function detailSaid(leaf: DetailLeaf, fields: readonly DetailField[], form: string | undefined, catalogue: Catalogue): string {
  const storage = detailStorage(fields, leaf.path);
  const question = questionOf(leaf.path, form, catalogue);
  const name = question ? quotedSaid(question.label) : (leaf.path.split('.').at(-1) ?? leaf.path);
  return `${name} ${testSaid(leaf, storage, (value) => detailValue(leaf.path, value, form, catalogue, storage))}`;
}

/** What was ordered, answered or opened, as it follows the verb. */
function objectSaid(
  verb: string,
  where: readonly DetailCondition[],
  fields: readonly DetailField[],
  catalogue: Catalogue,
): { readonly verb: string; readonly rest: string } {
  const form = where.find((each): each is DetailLeaf => 'path' in each && each.path === 'form' && each.op === 'is')?.value;
  const formKey = typeof form === 'string' ? form : undefined;
  const parts: string[] = [];
  let said = verb;
  for (const each of where) {
    if ('path' in each) {
      const [, article = '', noun = ''] = /^(.*?)\s+(a|an)\s+\w+$/.exec(verb) ?? [];
      // Who answered a form answered Find your clay.
      if (
        each.op === 'is' &&
        (each.path === 'form' || each.path === 'campaign' || verb.endsWith(` ${each.path}`)) &&
        noun !== '' &&
        article !== ''
      ) {
        const isNamed = each.path === 'form' || each.path === 'campaign';
        said = `${article} ${isNamed ? '' : `the ${each.path} `}${detailValue(each.path, each.value, formKey, catalogue, 'text')}`;
      } else {
        const question = questionOf(each.path, formKey, catalogue);
        const isAnswer = question && (each.op === 'is' || each.op === 'is one of') && each.value !== undefined;
        const answers = isAnswer
          ? [each.value].flat().map((value) => quotedSaid(detailValue(each.path, value, formKey, catalogue, 'text')))
          : [];
        parts.push(
          question && isAnswer
            ? `with ${listed(answers, 'or')} to ${quotedSaid(question.label)}`
            : `whose ${detailSaid(each, fields, formKey, catalogue)}`,
        );
      }
      continue;
    }
    const path = 'some' in each ? each.some : each.none;
    const inner = fields.find((field) => field.key === path.split('.')[0]);
    const question = questionOf(path, formKey, catalogue);
    if (question) {
      const values = each.of
        .flatMap((leaf) => [leaf.value ?? []].flat())
        .map((value) => detailValue(path, value, formKey, catalogue, 'text'));
      parts.push(`${'some' in each ? 'with' : 'without'} ${listed(values.map(quotedSaid), 'or')} to ${quotedSaid(question.label)}`);
      continue;
    }
    const tests = each.of.map((leaf) => detailSaid(leaf, inner?.of ?? [], formKey, catalogue));
    const one = path === 'items' ? 'item' : path;
    if (verb === 'ordered' && 'some' in each) said = 'ordered an item';
    parts.push(
      verb === 'ordered' && 'some' in each
        ? `whose ${listed(tests, 'and')}`
        : `${'some' in each ? 'with' : 'without'} an ${one} whose ${listed(tests, 'and')}`,
    );
  }
  return { verb: said, rest: listed(parts, 'and') };
}

const ANYTHING = {
  'from them': { some: 'did anything', none: 'done anything' },
  'from us': { some: 'heard from us', none: 'heard from us' },
} as const;

function verbOf(type: SignalTypes, catalogue: Catalogue): string {
  if (type === 'from them' || type === 'from us') return ANYTHING[type].some;
  return listed(
    [type].flat().map((id) => catalogue.body('signalType', id)?.verb ?? '(gone)'),
    'or',
  );
}

function signalSaid(leaf: LeafOf<'signal'>, catalogue: Catalogue, number: Grammatical): string {
  const fields = catalogue.detailsOf(catalogue.signalTypes(leaf.type));
  const { verb, rest } = objectSaid(verbOf(leaf.type, catalogue), leaf.where ?? [], fields, catalogue);
  const within = leaf.within;
  if (leaf.type === 'from them' && isNone(leaf.count)) {
    const when = windowSaid(within);
    return when === '' ? `${number !== 'one' ? 'have' : 'has'} never done anything` : `did nothing ${when}`;
  }
  if (leaf.type === 'from us' && isNone(leaf.count)) {
    const when = windowSaid(within);
    return when === '' ? `${number !== 'one' ? 'have' : 'has'} never heard from us` : `heard nothing from us ${when}`;
  }
  if (leaf.pick) {
    const when = windowSaid(within);
    return [`${verb}${rest ? ` ${rest}` : ''}`, `the ${leaf.pick === 'first' ? 'first' : 'latest'} time`, when].filter(Boolean).join(', ');
  }
  const then = leaf.then ? thenSaid(leaf.then, catalogue) : '';
  const whole = isNone(leaf.count) ? [rest, then].filter(Boolean).join(' ') : rest;
  const after = whole === rest && then ? ` ${then}` : '';
  if (leaf.sum) {
    const money = fields.find((field) => field.key === leaf.sum?.path.split('.')[0])?.type === 'money';
    const much = `${operatorWords('number', leaf.sum.op).before} ${[leaf.sum.value].flat().map(numberText).join(' and ')}${money ? ` ${catalogue.workspace.currency}` : ''}`;
    if (verb === 'ordered' && leaf.sum.path === 'amount' && whole === '')
      return ['spent', much, windowSaid(within)].filter(Boolean).join(' ') + after;
    return [`${done(verb, whole, undefined, undefined, number)}, with a total ${leaf.sum.path} of ${much}`, windowSaid(within)]
      .filter(Boolean)
      .join(' ');
  }
  if (leaf.days) {
    const words = operatorWords('number', leaf.days.op).before;
    const days = `on ${words} ${[leaf.days.value].flat().join(' and ')} ${leaf.days.value === 1 ? 'day' : 'days'}`;
    return [done(verb, whole, undefined, undefined, number), days, windowSaid(within)].filter(Boolean).join(' ') + after;
  }
  return done(verb, whole, leaf.count, within, number) + after;
}

function thenSaid(then: NonNullable<LeafOf<'signal'>['then']>, catalogue: Catalogue): string {
  const fields = catalogue.detailsOf(catalogue.signalTypes(then.type));
  const { verb, rest } = objectSaid(verbOf(then.type, catalogue), then.where ?? [], fields, catalogue);
  const soon = then.within ? `within ${durationWords(then.within)}` : '';
  return then.happens
    ? [`and then ${verb}`, rest, soon].filter(Boolean).join(' ')
    : [`and had not ${participle(verb)}`, rest, soon || 'since'].filter(Boolean).join(' ');
}

/** Since when something stands: `became eager in the last week`, `has been eager for more than 30 days` */
function standing(name: string, value: string, since: Window | undefined): string {
  if (since === undefined || since === 'ever') return `${name} is ${value}`;
  if ('olderThan' in since) return `${name} has been ${value} for more than ${durationWords({ n: since.olderThan, unit: since.unit })}`;
  return `${name} became ${value} ${windowSaid(since)}`;
}

const clause = (lead: Clause['lead'], text: string): Clause => ({ lead, text });

/** One line of a condition as a clause about one or many. */
export const clauseOf = byKind<Leaf, [Catalogue, Grammatical], Clause>({
  field: (leaf, catalogue, number) => {
    const field = catalogue.get('field', leaf.field);
    if (!field) return clause('for whom', 'a field that is gone is asked');
    const storage = storageOf[field.body.type];
    // Of companies their own facts are asked, so nobody has to say whose they are.
    const name = field.body.of === 'company' && number !== 'companies' ? `company’s ${field.name}` : field.name;
    const has = /^(has|have|is|are|owns?)\s+(.*)$/.exec(field.name);
    if (storage === 'yesNo' && has && (leaf.op === 'is yes' || leaf.op === 'is no')) {
      const verb = has[1] === 'is' || has[1] === 'are' ? (number !== 'one' ? 'are' : 'is') : number !== 'one' ? 'have' : 'has';
      const not = verb === 'are' || verb === 'is' ? `${verb} not` : number !== 'one' ? 'do not have' : 'does not have';
      return clause('who', `${leaf.op === 'is yes' ? verb : not} ${has[2] ?? ''}`);
    }
    const shown = (value: unknown): string => {
      const option = field.body.options?.find((each) => each.key === value);
      if (option) return option.name;
      if (field.body.type === 'money') return `${numberText(value)} ${catalogue.workspace.currency}`;
      if (storage === 'number') return numberText(value);
      return storage === 'day' || storage === 'instant'
        ? dateWords(String(value))
        : storage === 'text'
          ? quotedSaid(String(value))
          : String(value);
    };
    const test = testSaid(leaf, storage, shown);
    // A birthday is an anniversary by itself.
    return clause('whose', `${name} ${/birth/i.test(name) ? test.replace('has its anniversary', 'is') : test}`);
  },
  tag: (leaf, catalogue, number) => {
    const key = catalogue.get('tag', leaf.tag)?.key ?? '(gone)';
    const storage = catalogue.body('tag', leaf.tag)?.value === 'date' ? 'day' : 'number';
    const value = leaf.value
      ? ` with a value that ${testSaid(leaf.value, storage, (each) => (storage === 'day' ? dateWords(String(each)) : numberText(each)))}`
      : '';
    const when = windowSaid(leaf.since);
    const has = number !== 'one' ? 'have' : 'has';
    switch (leaf.op) {
      case 'has':
        return clause('who', when ? `got the tag ${key}${value} ${when}` : `${has} the tag ${key}${value}`);
      case 'lacks':
        return clause('who', `${number !== 'one' ? 'do not have' : 'does not have'} the tag ${key}${value}`);
      case 'had':
        return clause('who', `${has} had the tag ${key}${value} at some time`);
      case 'lost':
        return clause('who', `lost the tag ${key}${value}${when ? ` ${when}` : ''}`);
    }
  },
  signal: (leaf, catalogue, number) => clause('who', signalSaid(leaf, catalogue, number)),
  change: (leaf, catalogue) => {
    const name =
      leaf.what === 'field'
        ? (catalogue.get('field', leaf.key as never)?.name ?? '(gone)')
        : leaf.what === 'band'
          ? (catalogue.get('scorecard', leaf.key as never)?.name ?? '(gone)')
          : leaf.what;
    const shown = (value: unknown): string => {
      if (value === null) return 'nothing';
      if (leaf.what === 'stage') return catalogue.get('stage', Number(value) as never)?.name ?? '(gone)';
      if (leaf.what === 'band')
        return catalogue.body('scorecard', leaf.key as never)?.bands.find((band) => band.key === value)?.name ?? String(value);
      const field = leaf.what === 'field' ? catalogue.body('field', leaf.key as never) : undefined;
      return field?.options?.find((option) => option.key === value)?.name ?? String(value);
    };
    const sides = [leaf.from ? `from ${listed(leaf.from.map(shown), 'or')}` : '', leaf.to ? `to ${listed(leaf.to.map(shown), 'or')}` : '']
      .filter(Boolean)
      .join(' ');
    return clause('whose', `${name} ${done('changed', sides, leaf.count, leaf.within, 'one')}`);
  },
  compare: (leaf, catalogue) => clause('for whom', lineText(leaf, catalogue)),
  score: (leaf, catalogue) =>
    clause(
      'whose',
      `${catalogue.get('scorecard', leaf.scorecard as never)?.name ?? '(gone)'} ${testSaid({ op: leaf.op, value: leaf.value as Value }, 'number', numberText)}`,
    ),
  band: (leaf, catalogue) => {
    const card = catalogue.get('scorecard', leaf.scorecard as never);
    const names = [leaf.value].flat().map((key) => card?.body.bands.find((band) => band.key === key)?.name ?? key);
    const value = listed(names, leaf.op.startsWith('is not') ? 'or' : 'or');
    return clause(
      'whose',
      leaf.op.startsWith('is not') ? `${card?.name ?? '(gone)'} is not ${value}` : standing(card?.name ?? '(gone)', value, leaf.since),
    );
  },
  audience: (leaf, catalogue, number) => {
    const name = catalogue.get('audience', leaf.audience as never)?.name ?? '(gone)';
    const when = windowSaid(leaf.since);
    const are = number !== 'one' ? 'are' : 'is';
    if (leaf.op === 'out') return clause('who', `${are} not in ${name}`);
    if (leaf.op === 'left') return clause('who', `left ${name}${when ? ` ${when}` : ''}`);
    return clause('who', when ? `came into ${name} ${when}` : `${are} in ${name}`);
  },
  stage: (leaf, catalogue) => {
    const names = listed(
      [leaf.value].flat().map((id) => catalogue.get('stage', id as never)?.name ?? '(gone)'),
      'or',
    );
    if (leaf.op === 'is at least') return clause('whose', `stage is ${names} or further on`);
    if (leaf.op === 'is before') return clause('whose', `stage is before ${names}`);
    return clause('whose', standing('stage', names, leaf.since));
  },
  owner: (leaf, _catalogue, number) => {
    if (leaf.op === 'is empty') return clause('who', `${number !== 'one' ? 'have' : 'has'} no owner`);
    if (leaf.op === 'is filled') return clause('who', `${number !== 'one' ? 'have' : 'has'} an owner`);
    return clause('whose', `owner is ${listed([leaf.value ?? []].flat(), 'or')}`);
  },
  consent: (leaf, _catalogue) => {
    if (leaf.op === 'is' && leaf.value === 'given') return clause('who', `gave consent to ${leaf.channel}`);
    if (leaf.op === 'is' && leaf.value === 'withdrawn') return clause('who', `withdrew consent to ${leaf.channel}`);
    return clause('whose', `consent to ${leaf.channel} ${leaf.op} ${leaf.value}`);
  },
  deal: (leaf, catalogue, number) => {
    const fields = dealDetails(catalogue);
    const where = (leaf.where ?? []).map((each) => dealDetailSaid(each, fields, catalogue));
    const has = number !== 'one' ? 'have' : 'has';
    const whose = where.length > 0 ? ` whose ${listed(where, 'and')}` : '';
    if (isNone(leaf.count)) return clause('who', `${has} no deals${whose}`);
    if (isAny(leaf.count)) return clause('who', `${has} a deal${whose}`);
    const count = leaf.count as Count;
    return clause(
      'who',
      `${has} ${operatorWords('number', count.op).before} ${[count.value].flat().join(' and ')} ${count.value === 1 ? 'deal' : 'deals'}${whose}`,
    );
  },
  contacts: (leaf, catalogue) => {
    const count = leaf.count ?? { op: '>=' as const, value: 1 };
    const many = isNone(count)
      ? 'no contact'
      : `${operatorWords('number', count.op).before} ${[count.value].flat().join(' and ')} ${count.value === 1 ? 'contact' : 'contacts'}`;
    return clause('who', `have ${many} ${saidOf(leaf.condition, catalogue, 'many')}`);
  },
});

function dealDetailSaid(leaf: DetailLeaf, fields: readonly DetailField[], catalogue: Catalogue): string {
  const storage = detailStorage(fields, leaf.path);
  const stages = catalogue.all('pipeline').flatMap((pipeline) => pipeline.body.stages);
  const shown = (value: unknown): string => {
    if (leaf.path === 'stage') return stages.find((stage) => stage.key === value)?.name ?? String(value);
    if (leaf.path === 'pipeline') return catalogue.find('pipeline', String(value))?.name ?? String(value);
    if (leaf.path === 'amount') return `${numberText(value)} ${catalogue.workspace.currency}`;
    return storage === 'number' ? numberText(value) : storage === 'day' ? dateWords(String(value)) : String(value);
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
    if (!isGroup(each) || each.of.length < 2 || each.match === 'none') return words;
    return each.match === 'any' ? `either ${words}` : `(${words})`;
  });
  if (condition.match === 'none') return `except those ${listedLong(parts, 'or')}`;
  if (condition.match === 'any')
    return listedLong(
      parts.map((part) => part.replace(/^except those/, 'all but those')),
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
export function said(condition: Condition, catalogue: Catalogue): string {
  if (!isGroup(condition)) return clauseOf(condition, catalogue, 'one').text;
  if (condition.of.length === 0) return condition.match === 'any' ? 'nothing, which never holds' : 'anything';
  const parts = condition.of.map((each) => (isGroup(each) && each.of.length > 1 ? `(${said(each, catalogue)})` : said(each, catalogue)));
  if (condition.match === 'none') {
    const [only, ...others] = condition.of;
    const turned = only && others.length === 0 && !isGroup(only) ? opposite(only) : undefined;
    return turned ? said(turned, catalogue) : `none of this: ${listedLong(parts, 'or')}`;
  }
  return listedLong(parts, condition.match === 'all' ? 'and' : 'or');
}

/** A condition as it is said of somebody who was named before: `they have not ordered and their country is Sweden`. */
export function saidOfThem(condition: Condition, catalogue: Catalogue): string {
  if (!isGroup(condition)) {
    const { lead, text } = clauseOf(condition, catalogue, 'many');
    return `${{ who: 'they', whose: 'their', 'for whom': 'for them' }[lead]} ${text}`;
  }
  if (condition.of.length === 0) return condition.match === 'any' ? 'nothing, which never holds' : 'anything';
  const parts = condition.of.map((each) =>
    isGroup(each) && each.of.length > 1 ? `(${saidOfThem(each, catalogue)})` : saidOfThem(each, catalogue),
  );
  if (condition.match === 'none') {
    const [only, ...others] = condition.of;
    const turned = only && others.length === 0 && !isGroup(only) ? opposite(only) : undefined;
    return turned ? saidOfThem(turned, catalogue) : `none of this is so: ${listedLong(parts, 'or')}`;
  }
  return listedLong(parts, condition.match === 'all' ? 'and' : 'or');
}
