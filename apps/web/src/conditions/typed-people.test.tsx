import { Catalogue, type Group } from '@eager-sieve/core';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { catalogueOf } from '../app/use-catalogue';
import { catalogueView, openPart } from '../testing/page';
import { Persons } from '../ui/person-input';
import { Outline } from './outline';

const PERSONS = [
  { email: 'wren@test.example', name: 'Wren Aldous', team: null },
  { email: 's.reed@test.example', name: 'Sol Reed', team: null },
];
const catalogue: Catalogue = catalogueOf(catalogueView([]) as never);

describe('who looks after somebody', () => {
  const type = async (text: string): Promise<void> => {
    const input = screen.getByRole('combobox', { name: 'Type a line' });
    await userEvent.clear(input);
    await userEvent.type(input, text);
  };

  it('is typed by name, or as oneself, and is nobody who has no access', async () => {
    const groups: Group[] = [];
    openPart(
      <Persons value={PERSONS}>
        <Outline value={{ match: 'all', of: [] }} catalogue={catalogue} onChange={(group) => groups.push(group)} />
      </Persons>,
      {},
    );
    await type('owner is me');
    expect(await screen.findByRole('option', { name: /owner is wren@test\.example/ })).toBeInTheDocument();
    await type('owner Sol');
    expect(screen.getByRole('option', { name: /owner is s\.reed@test\.example/ })).toBeInTheDocument();
    await type('owner is bob{Escape}{Enter}');
    expect(screen.getByText(/someone with access, which bob is not/)).toBeInTheDocument();
    expect(groups).toEqual([]);
  });
});
