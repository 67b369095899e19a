import { COMPANY_ACTIONS, storageOf, type Catalogue, type FieldBody, type RuleAction, type RuleSubject } from '@eager-sieve/core';

export type Do = RuleAction['do'];
export const WORDS: Readonly<Record<Do, string>> = {
  'add tag': 'add tag',
  'remove tag': 'remove tag',
  'set field': 'set field',
  'clear field': 'clear field',
  'increase field': 'increase field',
  'put on list': 'put on list',
  'take off list': 'take off list',
  'give points': 'give points',
  'set stage': 'set stage',
  'set company field': 'set field of the company',
  'assign owner': 'assign owner',
  'make task': 'make task',
  notify: 'notify',
  'run bundle': 'run bundle',
};
/** Of a company, what is done to it and to its contacts is said so. */
const COMPANY_WORDS: Partial<Record<Do, string>> = {
  'set company field': 'set field',
  'put on list': 'put its contacts on list',
  'take off list': 'take its contacts off list',
};
export const doWords = (kind: Do, of: RuleSubject): string => (of === 'company' ? COMPANY_WORDS[kind] : undefined) ?? WORDS[kind];

/** What a rule can do, of what there is something for. */
export const kindsFor = (catalogue: Catalogue, of: RuleSubject): readonly Do[] =>
  (of === 'company' ? COMPANY_ACTIONS : (Object.keys(WORDS) as Do[])).filter((kind) => made(kind, catalogue, of) !== undefined);

const SET_BY_ITSELF: Readonly<Record<FieldBody['of'], ReadonlySet<string>>> = {
  contact: new Set(['email', 'added', 'part']),
  company: new Set(['company-name', 'added']),
  deal: new Set(),
};
/** Fields that rules may write; the others the product keeps by itself. */
export const settable = (catalogue: Catalogue, of: FieldBody['of']) =>
  catalogue.all('field').filter((field) => field.body.of === of && !SET_BY_ITSELF[of].has(field.key));
export const lists = (catalogue: Catalogue) =>
  catalogue.all('audience').filter((audience) => audience.body.kind === 'fixed' && audience.body.of === 'contact');
export const cards = (catalogue: Catalogue) => catalogue.all('scorecard').filter((card) => card.body.of === 'contact');

/** An action to begin with, where there is what it needs. */
export function made(kind: Do, catalogue: Catalogue, of: RuleSubject = 'contact'): RuleAction | undefined {
  const tag = catalogue.all('tag')[0]?.id;
  const field = settable(catalogue, of)[0]?.id;
  const number = settable(catalogue, of).find((each) => storageOf[each.body.type] === 'number')?.id;
  const ofCompany = settable(catalogue, 'company')[0];
  const list = lists(catalogue)[0]?.id;
  const card = cards(catalogue)[0]?.id;
  const stage = catalogue.ladder()[0]?.id;
  const bundle = catalogue.all('bundle')[0]?.id;
  switch (kind) {
    case 'add tag':
    case 'remove tag':
      return tag === undefined ? undefined : { do: kind, tag };
    case 'set field':
      return field === undefined ? undefined : { do: kind, field, value: '' };
    case 'clear field':
      return field === undefined ? undefined : { do: kind, field };
    case 'increase field':
      return number === undefined ? undefined : { do: kind, field: number, by: 1 };
    case 'put on list':
    case 'take off list':
      return list === undefined ? undefined : { do: kind, audience: list };
    case 'give points':
      return card === undefined ? undefined : { do: kind, scorecard: card, points: 5, keeps: 'forever' };
    case 'set stage':
      return stage === undefined ? undefined : { do: kind, stage };
    case 'set company field':
      return ofCompany && { do: kind, field: ofCompany.id, value: ofCompany.body.options?.[0]?.key ?? '' };
    case 'assign owner': {
      const routing = catalogue.all('routing')[0]?.id;
      return routing === undefined ? { do: kind, owner: '' } : { do: kind, routing };
    }
    case 'make task':
      return { do: kind, title: 'Get in touch', dueDays: 0 };
    case 'notify':
      return { do: kind, text: `Have a look at this ${of}` };
    case 'run bundle':
      return bundle === undefined ? undefined : { do: kind, bundle };
  }
}
