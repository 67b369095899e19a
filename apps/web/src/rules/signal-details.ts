import { detailName, textPaths, type Catalogue, type RuleBody } from '@eager-sieve/core';
import { createContext } from 'react';

export type DetailChoices = readonly (readonly [path: string, words: string])[];

/** The details that the values of actions can be taken from; none where no signal sets the rule off. */
export const SignalDetails = createContext<DetailChoices>([]);

function detailsOf(types: readonly number[], catalogue: Catalogue): DetailChoices {
  const fields = catalogue.detailsOf(types);
  return fields.flatMap((field): DetailChoices => {
    if (field.type === 'list') return [];
    if (field.type !== 'answers') return [[field.key, detailName(field, fields)]];
    return catalogue
      .all('form')
      .flatMap((form) =>
        form.body.questions.map((question) => [`answers.${question.key}`, `answer to “${question.label}” (${form.name})`] as const),
      );
  });
}

/** What a rule's actions can take from the signal that sets it off. */
export const detailsOfRule = (when: RuleBody['when'], catalogue: Catalogue): DetailChoices =>
  when.kind === 'signal' ? detailsOf([when.type], catalogue) : [];

/** What the actions of a bundle can take: it is run from rules on any signal, and each of them is checked for itself. */
export function detailsOfAny(catalogue: Catalogue): DetailChoices {
  const all = catalogue.all('signalType').flatMap((type) => detailsOf([type.id], catalogue));
  return [...new Map(all.map((choice) => [choice[0], choice])).values()];
}

/** The texts that each of these signals has, inside of lists too: what rows of a map can be found by. */
export function textsOfAll(types: readonly number[], catalogue: Catalogue): readonly string[] {
  const [first = [], ...others] = types.map((id) => textPaths(catalogue.body('signalType', id)?.fields ?? []));
  return first.filter((path) => others.every((paths) => paths.includes(path)));
}
