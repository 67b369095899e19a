import { type Leaf } from '@eager-sieve/core';
import { render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { catalogue } from '../testing/catalogue';
import { SubjectPicker } from './subject-picker';
import { subjectGroups } from './subjects';

let picked: Leaf[];
const open = async (of: 'contact' | 'company' = 'contact'): Promise<void> => {
  picked = [];
  render(
    <SubjectPicker value="" first="+ line" label="Add a line about" catalogue={catalogue} of={of} onPick={(leaf) => picked.push(leaf)} />,
  );
  await userEvent.click(screen.getByRole('button', { name: 'Add a line about' }));
};
const input = (): HTMLElement => screen.getByRole('combobox', { name: 'Add a line about' });
const offered = (): string[] => screen.getAllByRole('option').map((option) => option.textContent ?? '');

describe('picking what a line is about', () => {
  beforeEach(() => localStorage.clear());

  it('offers all of it by groups, and of a company its own facts first', async () => {
    await open('company');
    expect(offered()[0]).toMatch(/^seats/);
    expect(within(screen.getByRole('group', { name: 'Company' })).getByText('its contacts')).toBeInTheDocument();
    expect(new Set(subjectGroups(catalogue, 'company').flatMap(({ choices }) => choices.map(({ value }) => value))).size).toBe(
      offered().length,
    );
  });

  it.each([
    ['celadon', 'glaze.celadon'],
    ['purchased', 'ordered'],
    ['finding the time', 'what stops them'],
    ['date of birth', 'birthday'],
    ['eager', 'Keenness'],
    ['keepers', 'Keepers'],
    ['reachable', 'consent'],
    ['owner', 'owner'],
  ])('finds %s by any of its words, its choices and what it is also called', async (typed, label) => {
    await open();
    await userEvent.type(input(), typed);
    expect(offered()[0]).toMatch(new RegExp(`^${label}`));
    await userEvent.type(input(), '{Enter}');
    expect(picked).toHaveLength(1);
    expect(screen.queryByRole('listbox')).not.toBeInTheDocument();
    expect(screen.getByRole('button', { name: 'Add a line about' })).toHaveFocus();
  });

  it('says so where nothing goes by that name, and closes by Escape', async () => {
    await open();
    await userEvent.type(input(), 'qqqxq');
    expect(screen.getByText('Nothing goes by that name.')).toBeInTheDocument();
    await userEvent.type(input(), '{Escape}');
    expect(screen.queryByRole('combobox')).not.toBeInTheDocument();
    expect(picked).toEqual([]);
  });

  it('begins with what was picked lately', async () => {
    await open();
    await userEvent.type(input(), 'birthday{Enter}');
    await userEvent.click(screen.getByRole('button', { name: 'Add a line about' }));
    expect(within(screen.getByRole('group', { name: 'Picked lately' })).getByText('birthday')).toBeInTheDocument();
    await userEvent.type(input(), '{Enter}');
    expect(picked).toHaveLength(2);
    expect(picked[1]).toEqual(picked[0]);
  });
});
