import { operatorNames, storageOf, takes, type Catalogue, type Leaf, type Storage, type Value } from '@eager-sieve/core';

export interface SubjectChoice {
  readonly value: string;
  readonly label: string;
}
export interface SubjectGroup {
  readonly name: string;
  readonly choices: readonly SubjectChoice[];
}

/** Everything that a line can be about, by kind. */
export function subjectGroups(catalogue: Catalogue): readonly SubjectGroup[] {
  return [
    { name: 'Facts', choices: catalogue.all('field').map((field) => ({ value: `field ${field.id}`, label: field.name })) },
    { name: 'Tags', choices: catalogue.all('tag').length > 0 ? [{ value: 'tag', label: 'a tag' }] : [] },
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
      choices: catalogue.all('scorecard').flatMap((card) => [
        { value: `band ${card.id}`, label: `${card.name}: band` },
        { value: `score ${card.id}`, label: `${card.name}: points` },
      ]),
    },
    { name: 'Audiences', choices: catalogue.all('audience').length > 0 ? [{ value: 'audience', label: 'an audience' }] : [] },
    { name: 'Consent', choices: [{ value: 'consent', label: 'consent' }] },
  ].filter((group) => group.choices.length > 0);
}

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
    default:
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
      const value = firstValue(storage, op, field.body.options);
      return { kind: 'field', of: 'contact', field: id, op, ...(value === undefined ? {} : { value }) };
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
      const audience = catalogue.all('audience')[0];
      return audience && { kind: 'audience', audience: audience.id, op: 'in' };
    }
    case 'consent':
      return { kind: 'consent', channel: 'email', op: 'is', value: 'given' };
    default:
      return undefined;
  }
}
