import {
  choicesOf,
  ASKED_OF,
  operatorNames,
  storageOf,
  synonymsOf,
  takes,
  type Catalogue,
  type Definition,
  type Direction,
  type Leaf,
  type LeafKind,
  type Measure,
  type Storage,
  type SubjectKind,
  type Value,
} from '@eager-sieve/core';
import { dayOf } from '../ui/when';

export interface SubjectChoice {
  readonly value: string;
  readonly label: string;
  /** what it is, beside its name */
  readonly hint?: string | undefined;
  /** how many have it, where that is known */
  readonly count?: number | undefined;
  /** by what else it can be found */
  readonly words: readonly string[];
}
export interface SubjectGroup {
  readonly name: string;
  readonly choices: readonly SubjectChoice[];
}

/** Everything that a line can be about, by kind. Of a company its own facts come first, and nobody has to say whose they are. */
export function subjectGroups(catalogue: Catalogue, of: SubjectKind = 'contact'): readonly SubjectGroup[] {
  const ofCompany = of === 'company';
  const asked = (kind: LeafKind): boolean => ASKED_OF[of].includes(kind);
  const one = (kind: LeafKind, label: string, words: readonly string[] = [], isThere = true): readonly SubjectChoice[] =>
    asked(kind) && isThere ? [{ value: kind, label, words }] : [];
  const fieldsOf = (whose: string): readonly Definition<'field'>[] => catalogue.all('field').filter((field) => field.body.of === whose);
  const own = fieldsOf(ofCompany ? 'company' : 'contact');
  const cards = catalogue.all('scorecard').filter((card) => card.body.of === of);
  const fields = (all: readonly Definition<'field'>[], lead = ''): readonly SubjectChoice[] =>
    all.map((field) => ({ value: `field ${field.id}`, label: `${lead}${field.name}`, hint: field.body.type, words: synonymsOf(field) }));
  const did = (direction: Direction): readonly SubjectChoice[] =>
    catalogue
      .all('signalType')
      .filter((type) => type.body.direction === direction)
      .map((type) => ({ value: `signal ${type.id}`, label: type.body.verb, words: synonymsOf(type) }));
  const counted = (choice: SubjectChoice): SubjectChoice => ({ ...choice, count: heldOf(choice.value, catalogue) });
  return [
    { name: 'What they are', choices: fields(own) },
    {
      name: 'Tags',
      choices: asked('tag')
        ? catalogue.all('tag').map((tag) => ({
            value: `tag ${tag.id}`,
            label: tag.key,
            hint: tag.name,
            words: ['tag', tag.name, catalogue.get('family', tag.body.family)?.name ?? ''],
          }))
        : [],
    },
    {
      name: 'What they did',
      choices: [{ value: 'signal from them', label: 'did anything', words: ['active', 'quiet'] }, ...did('from them')],
    },
    { name: 'What we did', choices: [{ value: 'signal from us', label: 'heard from us', words: ['contacted'] }, ...did('from us')] },
    { name: 'What else happened', choices: did('neither') },
    {
      name: 'Stage, owner, consent',
      choices: [
        ...one(
          'stage',
          'stage',
          catalogue.ladder().map(({ name }) => name),
          catalogue.ladder().length > 0,
        ),
        ...one('owner', 'owner', ['responsible', 'looked after']),
        ...one('consent', 'consent', ['email', 'withdrawn', 'opted', 'unsubscribed', 'reachable']),
      ],
    },
    { name: 'Company', choices: ofCompany ? one('contacts', 'its contacts', ['people']) : fields(fieldsOf('company'), 'company’s ') },
    { name: 'Deals', choices: one('deal', 'deals', ['won', 'lost', 'pipeline', 'amount']) },
    {
      name: 'Scores',
      choices: cards.flatMap((card) => {
        const bands = card.body.bands.map(({ name }) => name);
        return [
          { value: `band ${card.id}`, label: card.name, hint: bands.join(', '), words: ['band', 'score', ...bands] },
          { value: `score ${card.id}`, label: `points of ${card.name}`, words: ['score'] },
        ];
      }),
    },
    {
      name: 'Audiences',
      choices: audiencesOf(catalogue, of).map((audience) => ({
        value: `audience ${audience.id}`,
        label: audience.name,
        words: ['audience', 'list'],
      })),
    },
    {
      name: 'What changed',
      choices: [
        ...(ofCompany || catalogue.ladder().length === 0 ? [] : [{ value: 'change stage', label: 'stage changed', words: [] }]),
        ...(ofCompany ? [] : [{ value: 'change owner', label: 'owner changed', words: [] }]),
        ...own.map((field) => ({ value: `change field ${field.id}`, label: `${field.name} changed`, words: synonymsOf(field) })),
        ...cards.map((card) => ({ value: `change band ${card.id}`, label: `${card.name} changed`, words: ['band', 'score'] })),
      ],
    },
    { name: 'Comparisons', choices: firstMeasure(catalogue) ? one('compare', 'compare two numbers', ['more', 'than', 'twice']) : [] },
  ].flatMap(({ name, choices }) => (choices.length > 0 ? [{ name, choices: choices.map(counted) }] : []));
}

/** How many have a field, a tag or a signal, or are in an audience. Nobody has what is known of somebody else, or of everybody. */
function heldOf(value: string, { known: { held } }: Catalogue): number | undefined {
  const [kind, id] = value.split(' ');
  if (held.size === 0 || !['field', 'tag', 'signal', 'audience'].includes(kind ?? '')) return undefined;
  return held.get(Number(id)) ?? (kind === 'field' || Number.isNaN(Number(id)) ? undefined : 0);
}

const audiencesOf = (catalogue: Catalogue, of: SubjectKind) =>
  catalogue.all('audience').filter((audience) => audience.body.of === (of === 'company' ? 'company' : 'contact'));

const firstMeasure = (catalogue: Catalogue): Measure | undefined => {
  const type = catalogue.find('signalType', 'order.placed') ?? catalogue.all('signalType')[0];
  return type && { type: type.id, within: { last: 30, unit: 'days' } };
};

export function subjectOf(leaf: Leaf): string {
  switch (leaf.kind) {
    case 'field':
      return `field ${leaf.field}`;
    case 'signal':
      return typeof leaf.type === 'string' ? `signal ${leaf.type}` : `signal ${[leaf.type].flat()[0] ?? ''}`;
    case 'score':
      return `score ${leaf.scorecard}`;
    case 'band':
      return `band ${leaf.scorecard}`;
    case 'change':
      return leaf.key === undefined ? `change ${leaf.what}` : `change ${leaf.what} ${leaf.key}`;
    case 'tag':
      return `tag ${leaf.tag}`;
    case 'audience':
      return `audience ${leaf.audience}`;
    case 'compare':
    case 'stage':
    case 'owner':
    case 'consent':
    case 'deal':
    case 'contacts':
      return leaf.kind;
  }
}

/** A value to begin with, which the operator takes. */
export function firstValue(storage: Storage, op: string, options: readonly { key: string }[] = []): Value | undefined {
  const one =
    storage === 'number'
      ? 1
      : storage === 'day' || storage === 'instant'
        ? dayOf(Date.now())
        : storage === 'choice' || storage === 'choices'
          ? (options[0]?.key ?? '')
          : 'text';
  switch (takes(storage, op)) {
    case 'nothing':
      return undefined;
    case 'value':
      return one;
    case 'values':
      return [one];
    case 'range':
      return [one, one];
    case 'duration':
      return { n: 30, unit: 'days' };
    case 'days':
      return { n: 7 };
  }
}

/** The line that a person starts from when they pick what it is about. */
export function lineAbout(subject: string, catalogue: Catalogue): Leaf | undefined {
  const [kind = '', ...rest] = subject.split(' ');
  const id = Number(rest[0]);
  switch (kind) {
    case 'field': {
      const field = catalogue.get('field', id);
      if (!field) return undefined;
      const storage = storageOf[field.body.type];
      const op = storage === 'number' ? '>=' : storage === 'text' ? 'is filled' : (operatorNames(storage)[0] ?? 'is filled');
      const value = firstValue(storage, op, choicesOf(field.body));
      return {
        kind: 'field',
        of: field.body.of === 'company' ? 'company' : 'contact',
        field: id,
        op,
        ...(value === undefined ? {} : { value }),
      };
    }
    case 'tag': {
      return catalogue.get('tag', id) && { kind: 'tag', tag: id, op: 'has' };
    }
    case 'signal':
      return { kind: 'signal', type: rest[0] === 'from' ? (rest.join(' ') as 'from them') : id, within: { last: 30, unit: 'days' } };
    case 'score':
      return { kind: 'score', scorecard: id, op: '>=', value: 10 };
    case 'band': {
      const band = catalogue.body('scorecard', id)?.bands.at(-1)?.key;
      return band === undefined ? undefined : { kind: 'band', scorecard: id, op: 'is one of', value: [band] };
    }
    case 'audience': {
      return catalogue.get('audience', id) && { kind: 'audience', audience: id, op: 'in' };
    }
    case 'consent':
      return { kind: 'consent', channel: 'email', op: 'is', value: 'given' };
    case 'stage': {
      const stage = catalogue.ladder()[0];
      return stage && { kind: 'stage', op: 'is at least', value: stage.id };
    }
    case 'owner':
      return { kind: 'owner', op: 'is filled' };
    case 'deal':
      return { kind: 'deal' };
    case 'contacts':
      return { kind: 'contacts', condition: { match: 'all', of: [] } };
    case 'compare': {
      const measure = firstMeasure(catalogue);
      return measure && { kind: 'compare', left: measure, op: '>', right: measure, times: 2 };
    }
    case 'change': {
      const what = rest[0] as 'stage';
      return { kind: 'change', what, ...(rest[1] === undefined ? {} : { key: Number(rest[1]) }), within: { last: 30, unit: 'days' } };
    }
    default:
      return undefined;
  }
}
