import {
  ASKED_OF,
  operatorNames,
  storageOf,
  takes,
  type Catalogue,
  type Leaf,
  type LeafKind,
  type Measure,
  type Storage,
  type SubjectKind,
  type Value,
} from '@eager-sieve/core';

export interface SubjectChoice {
  readonly value: string;
  readonly label: string;
}
export interface SubjectGroup {
  readonly name: string;
  readonly choices: readonly SubjectChoice[];
}

/** Everything that a line can be about, by kind. */
export function subjectGroups(catalogue: Catalogue, of: SubjectKind = 'contact'): readonly SubjectGroup[] {
  const asked = (kind: LeafKind): boolean => ASKED_OF[of].includes(kind);
  const one = (kind: LeafKind, label: string, there = true): readonly SubjectChoice[] =>
    asked(kind) && there ? [{ value: kind, label }] : [];
  const fields = catalogue.all('field').filter((field) => field.body.of === 'company' || (of !== 'company' && field.body.of === 'contact'));
  const cards = catalogue.all('scorecard').filter((card) => card.body.of === of);
  const name = (field: (typeof fields)[number]): string =>
    field.body.of === 'company' && of !== 'company' ? `company's ${field.name}` : field.name;
  return [
    { name: 'Facts', choices: fields.map((field) => ({ value: `field ${field.id}`, label: name(field) })) },
    {
      name: 'Where they stand',
      choices: [
        ...one('tag', 'a tag', catalogue.all('tag').length > 0),
        ...one('stage', 'stage', catalogue.ladder().length > 0),
        ...one('owner', 'owner'),
        ...one('consent', 'consent'),
        ...one('deal', 'deals'),
        ...one('contacts', 'its contacts'),
      ],
    },
    {
      name: 'What happened',
      choices: [
        { value: 'signal from them', label: 'did anything' },
        { value: 'signal from us', label: 'heard from us' },
        ...catalogue.all('signalType').map((type) => ({ value: `signal ${type.id}`, label: type.body.verb })),
      ],
    },
    {
      name: 'Scores',
      choices: cards.flatMap((card) => [
        { value: `band ${card.id}`, label: `${card.name}: band` },
        { value: `score ${card.id}`, label: `${card.name}: points` },
      ]),
    },
    {
      name: 'Audiences',
      choices: one('audience', 'an audience', audiencesOf(catalogue, of).length > 0),
    },
    {
      name: 'What changed',
      choices: [
        ...(of === 'company' || catalogue.ladder().length === 0 ? [] : [{ value: 'change stage', label: 'stage changed' }]),
        ...(of === 'company' ? [] : [{ value: 'change owner', label: 'owner changed' }]),
        ...fields
          .filter((field) => of === 'company' || field.body.of !== 'company')
          .map((field) => ({ value: `change field ${field.id}`, label: `${field.name} changed` })),
        ...cards.map((card) => ({ value: `change band ${card.id}`, label: `${card.name}: band changed` })),
      ],
    },
    { name: 'One number against another', choices: firstMeasure(catalogue) ? one('compare', 'compare two numbers') : [] },
  ].filter((group) => group.choices.length > 0);
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
    case 'compare':
    case 'audience':
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
        ? new Date().toISOString().slice(0, 10)
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
export function lineAbout(subject: string, catalogue: Catalogue, of: SubjectKind = 'contact'): Leaf | undefined {
  const [kind = '', ...rest] = subject.split(' ');
  const id = Number(rest[0]);
  switch (kind) {
    case 'field': {
      const field = catalogue.get('field', id);
      if (!field) return undefined;
      const storage = storageOf[field.body.type];
      const op = storage === 'number' ? '>=' : storage === 'text' ? 'is filled' : (operatorNames(storage)[0] ?? 'is filled');
      const value = firstValue(storage, op, field.body.options);
      return {
        kind: 'field',
        of: field.body.of === 'company' ? 'company' : 'contact',
        field: id,
        op,
        ...(value === undefined ? {} : { value }),
      };
    }
    case 'tag': {
      const tag = catalogue.all('tag')[0];
      return tag && { kind: 'tag', tag: tag.id, op: 'has' };
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
      const audience = audiencesOf(catalogue, of)[0];
      return audience && { kind: 'audience', audience: audience.id, op: 'in' };
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
