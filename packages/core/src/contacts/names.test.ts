import { splitName } from './names.ts';

describe('a full name', () => {
  it.each([
    ['Ottoline Farrow', 'Ottoline', 'Farrow'],
    ['  Ottoline   May Farrow ', 'Ottoline May', 'Farrow'],
    ['Farrow, Ottoline May', 'Ottoline May', 'Farrow'],
    ['Pim van der Berg', 'Pim', 'van der Berg'],
    ['Van Morris', 'Van', 'Morris'],
    ['Ottoline', 'Ottoline', undefined],
    ['Farrow,', undefined, 'Farrow'],
    ['', undefined, undefined],
  ])('“%s” is given %s and family %s', (full, given, family) => {
    expect(splitName(full)).toEqual({ ...(given === undefined ? {} : { given }), ...(family === undefined ? {} : { family }) });
  });
});
