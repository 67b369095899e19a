import { storageOf, type Catalogue, type FieldBody, type RuleAction } from '@eager-sieve/core';

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

const SET_BY_ITSELF = new Set(['email', 'added', 'company-name', 'fit-grade', 'focus-company', 'part']);
/** Fields that rules may write; the others the product keeps by itself. */
export const settable = (catalogue: Catalogue, of: FieldBody['of']) =>
  catalogue.all('field').filter((field) => field.body.of === of && !(of === 'contact' && SET_BY_ITSELF.has(field.key)));
export const lists = (catalogue: Catalogue) =>
  catalogue.all('audience').filter((audience) => audience.body.kind === 'fixed' && audience.body.of === 'contact');
export const cards = (catalogue: Catalogue) => catalogue.all('scorecard').filter((card) => card.body.of === 'contact');

/** An action to begin with, where there is what it needs. */
export function made(kind: Do, catalogue: Catalogue): RuleAction | undefined {
  const tag = catalogue.all('tag')[0]?.id;
  const field = settable(catalogue, 'contact')[0]?.id;
  const number = settable(catalogue, 'contact').find((each) => storageOf[each.body.type] === 'number')?.id;
  const ofCompany = settable(catalogue, 'company')[0]?.id;
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
      return ofCompany === undefined ? undefined : { do: kind, field: ofCompany, value: '' };
    case 'assign owner': {
      const routing = catalogue.all('routing')[0]?.id;
      return routing === undefined ? { do: kind, owner: '' } : { do: kind, routing };
    }
    case 'make task':
      return { do: kind, title: 'Get in touch', dueDays: 0 };
    case 'notify':
      return { do: kind, text: 'Have a look at this contact' };
    case 'run bundle':
      return bundle === undefined ? undefined : { do: kind, bundle };
  }
}
