import { participleOf, verbForms } from './verbs.ts';

describe('the forms of a verb', () => {
  it.each([
    ['ordered', 'ordered'],
    ['was called', 'been called'],
    ['wrote to us', 'written to us'],
    ['put a pot aside', 'put a pot aside'],
    ['withdrew consent', 'withdrawn consent'],
  ])('behind "has", of %s', (verb, expected) => expect(participleOf(verb)).toBe(expected));

  it.each([
    ['rented a kiln', ['rented a kiln', 'rent a kiln', 'renting the kiln', 'rented any kiln', 'rent kiln']],
    ['planned a visit', ['plan a visit', 'planning the visit']],
    ['tried a glaze', ['try a glaze', 'trying the glaze']],
    ['used the wheel', ['use the wheel', 'using the wheel']],
    ['drove a van', ['drive a van', 'driven the van', 'driving any van']],
    ['fizzled', ['fizzled', 'fizzle']],
  ])('as people say them, of %s', (verb, expected) => expect(verbForms(verb)).toEqual(expect.arrayContaining(expected)));
});
