import { KnownValues, type Leaf } from '@eager-sieve/core';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { catalogue, definition } from '../testing/catalogue';
import { catalogueView, openPart, type Answers } from '../testing/page';
import { SubjectPicker } from './subject-picker';
import { subjectGroups } from './subjects';

let picked: Leaf[];
const open = async (of: 'contact' | 'company' = 'contact', answers: Answers = {}) => {
  picked = [];
  const served = openPart(
    <SubjectPicker value="" first="+ line" label="Add a line about" catalogue={catalogue} of={of} onPick={(leaf) => picked.push(leaf)} />,
    answers,
  );
  await userEvent.click(screen.getByRole('button', { name: 'Add a line about' }));
  return served;
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

  it('tells how many have each, once that is known', () => {
    const order = catalogue.find('signalType', 'order.placed')?.id ?? -1;
    const tag = catalogue.find('tag', 'glaze.celadon')?.id ?? -1;
    const known = catalogue.withKnown(new KnownValues([], new Map([[order as number, 1_204]])));
    const countOf = (value: string): number | undefined =>
      subjectGroups(known)
        .flatMap(({ choices }) => choices)
        .find((choice) => choice.value === value)?.count;
    expect(countOf(`signal ${order}`)).toBe(1_204);
    expect(countOf(`tag ${tag}`)).toBe(0);
    expect(countOf('owner')).toBeUndefined();
    expect(subjectGroups(catalogue).every(({ choices }) => choices.every(({ count }) => count === undefined))).toBe(true);
  });

  it('makes a tag that is missing, and goes on with the line about it', async () => {
    const made = definition(300, 'tag', 'glaze.salt', 'salt lover', { family: 2 });
    const { asked } = await open('contact', {
      'GET /api/app/catalogue': catalogueView([made]),
      'PUT /api/v1/definitions': { made: ['tag glaze.salt'], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await userEvent.type(input(), 'salt');
    await userEvent.click(await screen.findByRole('option', { name: 'as a tag …' }));
    const name = await screen.findByLabelText('New tag: who has it?');
    expect(name).toHaveValue('salt');
    await userEvent.click(screen.getByRole('button', { name: 'Add tag', hidden: true }));
    await waitFor(() => expect(picked).toEqual([{ kind: 'tag', tag: 300, op: 'has' }]));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ tags: [{ key: 'glaze.salt', name: 'salt', family: 'glaze' }] });
    expect(screen.queryByLabelText('New tag: who has it?')).not.toBeInTheDocument();
  });

  it('makes nothing for those who may not', async () => {
    openPart(
      <SubjectPicker value="" first="+ line" label="Add a line about" catalogue={catalogue} onPick={() => undefined} />,
      {},
      { may: ['definitions:read'] },
    );
    await userEvent.click(screen.getByRole('button', { name: 'Add a line about' }));
    await userEvent.type(input(), 'salt');
    expect(screen.getByText('Nothing goes by that name.')).toBeInTheDocument();
    expect(screen.queryByText(/^as a/)).not.toBeInTheDocument();
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
