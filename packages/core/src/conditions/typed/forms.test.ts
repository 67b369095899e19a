import { Catalogue, read } from '../../index.ts';
import { definition, DEFINITIONS, WORKSPACE } from '../../testing/definitions.ts';

/** A second form that asks something under the same key as the first, and something of its own. */
const OTHER = definition(92, 'form', 'tell', 'Tell', {
  intro: '',
  thanks: '',
  published: true,
  questions: [
    { key: 'why', label: 'Why then?', type: 'text', required: false },
    { key: 'when', label: 'When?', type: 'text', required: false },
    { key: 'email', label: 'Email', type: 'email', required: true },
  ],
});
const catalogue = new Catalogue(WORKSPACE, [...DEFINITIONS, OTHER]);
const answers = (text: string): string[] =>
  read(text, catalogue)
    .completions.offers.map((offer) => offer.text.trim())
    .filter((offer) => offer.startsWith('answers.'))
    .sort();

describe('answers, typed', () => {
  it('are those to any form, as long as none is named', () => {
    expect(answers('answered a form where ')).toEqual(['answers.email', 'answers.when', 'answers.why']);
  });

  it('are those to the form that is named', () => {
    expect(answers('answered a form where form is tell and where ')).toEqual(['answers.email', 'answers.when', 'answers.why']);
    expect(answers('answered a form where form is ask and where ')).toEqual(['answers.email', 'answers.why']);
  });
});
