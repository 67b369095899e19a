import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';
import { contactView } from '../testing/people';

const SIZE = definition(170, 'field', 'size', 'Workshop size', {
  of: 'contact',
  type: 'one choice',
  options: [
    { key: 'small', name: 'Small' },
    { key: 'little', name: 'Little' },
    { key: 'tiny', name: 'Tiny', replacedBy: 'small' },
    { key: 'huge', name: 'Huge' },
  ],
});
const HOURS = definition(171, 'field', 'hours', 'Hours', { of: 'contact', type: 'text', required: true });
const FIGURES = {
  ...{ all: 20, have: 12, shared: [] },
  choices: [
    { key: 'small', people: 8 },
    { key: 'little', people: 4 },
    { key: 'tiny', people: 0 },
    { key: 'huge', people: 0 },
  ],
};
const KEPT = { made: [], changed: ['field size'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };

describe('the values of a field', () => {
  it('are counted, also by choice; a choice that somebody has is merged, and one that nobody has goes', async () => {
    const definitions = [{ kind: 'audience', key: 'little', name: 'Little ones' }];
    const { asked } = openPage(
      '/settings/fields/size',
      {
        'GET /api/app/fields/size/figures': FIGURES,
        'POST /api/app/fields/size/merge-choice': { people: 4, definitions, refused: [] },
      },
      { more: [SIZE] },
    );
    await screen.findByText('12 of 20 contacts have it.');
    const address = new URL(screen.getByRole('link', { name: 'Show those without' }).getAttribute('href') ?? '', 'http://localhost');
    expect(JSON.parse(address.searchParams.get('table') ?? '')).toEqual({
      condition: { match: 'all', of: [{ kind: 'field', of: 'contact', field: 'size', op: 'is empty' }] },
    });
    expect(screen.getByText('Merged: Tiny into Small.')).toBeInTheDocument();
    const choices = screen.getByRole('group', { name: 'Choices' });
    expect(
      within(choices)
        .getAllByRole('textbox', { name: /, choice/ })
        .map((input) => (input as HTMLInputElement).value),
    ).toEqual(['Small', 'Little', 'Huge']);
    expect(within(choices).getByText('4 have it')).toBeInTheDocument();
    expect(within(choices).getByRole('button', { name: 'Remove choice Huge' })).toBeInTheDocument();
    await userEvent.click(within(choices).getByRole('button', { name: 'Merge choice Little into another' }));
    const dialog = within(screen.getByRole('dialog'));
    expect(dialog.getByRole('button', { name: 'Merge' })).toBeDisabled();
    await userEvent.selectOptions(dialog.getByRole('combobox', { name: 'Into' }), 'Small');
    expect(await dialog.findByText('4 contacts would get “Small”.')).toBeInTheDocument();
    expect(dialog.getByRole('link', { name: 'Little ones' })).toBeInTheDocument();
    await userEvent.click(dialog.getByRole('button', { name: 'Merge' }));
    await screen.findByText('Little was merged into Small.');
    expect(asked('POST /api/app/fields/size/merge-choice').map(({ body, query }) => [body, query['rehearse']])).toEqual([
      [{ choice: 'little', into: 'small' }, 'true'],
      [{ choice: 'little', into: 'small' }, undefined],
    ]);
  });

  it('are not asked for by those who may not read contacts', async () => {
    const { asked } = openPage('/settings/fields/size', {}, { more: [SIZE], may: ['definitions:read'] });
    await screen.findByRole('heading', { name: 'Choices' });
    expect(asked('GET /api/app/fields/size/figures')).toEqual([]);
  });

  it('keep those that were merged when choices are changed', async () => {
    const { asked } = openPage(
      '/settings/fields/size',
      { 'GET /api/app/fields/size/figures': FIGURES, 'PUT /api/v1/definitions': KEPT },
      { more: [SIZE] },
    );
    await screen.findByText('4 have it');
    await userEvent.click(screen.getByRole('button', { name: 'Remove choice Huge' }));
    // What is not kept yet is kept first: the merging rests on what is there.
    expect(screen.queryByRole('button', { name: /^Merge choice/ })).toBeNull();
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    const { fields } = asked('PUT /api/v1/definitions')[0]?.body as { fields: { options: { key: string; replacedBy?: string }[] }[] };
    expect(fields[0]?.options.map(({ key, replacedBy }) => [key, replacedBy])).toEqual([
      ['small', undefined],
      ['little', undefined],
      ['tiny', 'small'],
    ]);
  });

  it('are said to fit another type or not, and what names the field and does not fit is to be changed first', async () => {
    const refused = [
      { item: 'audience keen', faults: [{ path: ['audiences', 'keen', 'condition', 'op'], code: 'x', expected: 'one of =, >' }] },
    ];
    const outcome = {
      field: null,
      have: 12,
      stay: 2,
      examples: [{ value: 'about ten', people: 2 }],
      choices: [],
      definitions: [],
      refused,
    };
    openPage(
      '/settings/fields/hours',
      { 'GET /api/app/fields/hours/figures': { ...FIGURES, choices: [] }, 'POST /api/app/fields/hours/change-type': outcome },
      { more: [HOURS] },
    );
    expect(await screen.findByText('8 should have it and have not.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Change the type …' }));
    const dialog = within(screen.getByRole('dialog'));
    await userEvent.selectOptions(dialog.getByRole('combobox', { name: 'From text to' }), 'number');
    expect(await dialog.findByText('10 of 12 values fit. 2 do not, and stay in the retired field:')).toBeInTheDocument();
    expect(dialog.getByText('about ten')).toBeInTheDocument();
    expect(dialog.getByText('This has to be changed first:')).toBeInTheDocument();
    expect(dialog.getByRole('button', { name: 'Change the type' })).toBeDisabled();
  });

  it('that everyone should have are shown as missing, in their place', async () => {
    openPage(
      '/people/id-1',
      { 'GET /api/v1/contacts/:id': contactView({ fields: [] }), 'GET /api/app/notes': { notes: [] } },
      { more: [HOURS] },
    );
    expect(await screen.findByRole('button', { name: 'Hours: missing, edit' })).toBeInTheDocument();
  });

  it('are asked for by what the page says', async () => {
    const { asked } = openPage(
      '/settings/fields/hours',
      { 'GET /api/app/fields/hours/figures': { ...FIGURES, choices: [] }, 'PUT /api/v1/definitions': KEPT },
      { more: [HOURS] },
    );
    await userEvent.click(await screen.findByRole('checkbox', { name: /^No two have the same/ }));
    await userEvent.click(screen.getByRole('checkbox', { name: /^Everyone should have it/ }));
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() =>
      expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({
        fields: [{ key: 'hours', name: 'Hours', of: 'contact', type: 'text', unique: true }],
      }),
    );
  });
});

describe('the fields', () => {
  it('are put in another order by hand', async () => {
    const { asked } = openPage('/settings/fields', { 'PUT /api/v1/definitions': KEPT }, { more: [SIZE, HOURS] });
    const table = within(await screen.findByRole('table', { name: 'Fields of contacts' }));
    const names = table.getAllByRole('link').map((link) => link.textContent);
    await userEvent.click(table.getByRole('button', { name: 'Hours up' }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    const { fields } = asked('PUT /api/v1/definitions')[0]?.body as { fields: { name: string; place: number }[] };
    const at = names.indexOf('Hours');
    expect(fields.map(({ name }) => name)).toEqual(names.toSpliced(at, 1).toSpliced(at - 1, 0, 'Hours'));
    expect(fields.map(({ place }) => place)).toEqual(fields.map((_, index) => index + 1));
  });
});
