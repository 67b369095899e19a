import { type WorklistEntry, type WorklistView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';
import { contactView, personRow } from '../testing/people';

const LIST: WorklistView = {
  ...{ id: 7, name: 'Call the eager', by: 'wren@test.example', at: '2026-11-25T09:00:00Z', forAll: false, total: 3, done: 1, later: 0 },
  columns: [{ kind: 'score', scorecard: 'keen' }, { kind: 'stage' }],
};
const entry = (place: number, more: Partial<WorklistEntry> = {}): WorklistEntry => ({
  ...{ place, contact: `id-${place + 1}`, name: `Person ${place + 1}`, email: null, state: 'waiting', by: null, at: null, note: null },
  takenBy: null,
  was: [{ is: 'score', points: 10, band: 'quiet' }, null],
  cells: [{ is: 'score', points: 10, band: 'quiet' }, null],
  ...more,
});
const TWO = entry(1, { cells: [{ is: 'score', points: 64, band: 'eager' }, null] });
const WORKED = {
  'GET /api/v1/contacts/:id': ({ path }: { path: string }) =>
    contactView({ id: path.split('/').at(-1) ?? '', name: `Contact ${path.split('/').at(-1) ?? ''}` }),
  'GET /api/app/worklists/7/entries/0': { worklist: LIST, entry: entry(0) },
  'GET /api/app/worklists/7/entries/1': { worklist: LIST, entry: TWO },
  'GET /api/app/notes': { notes: [] },
};

describe('a list to work down', () => {
  it('is frozen out of the table, as it is narrowed and sorted', async () => {
    const sort = [{ column: { kind: 'score', scorecard: 'keen' }, down: true }];
    const { asked } = openPage(
      `/people?${new URLSearchParams({ table: JSON.stringify({ sort, columns: [{ column: { kind: 'stage' } }] }) }).toString()}`,
      {
        'POST /api/v1/audiences/count': { count: 6_000, of: 6_000, reachable: 3, asOf: '', lines: [] },
        'POST /api/v1/audiences/people': { contacts: [personRow(1)], after: null },
        'POST /api/app/worklists': LIST,
        'GET /api/app/worklists/7': { worklist: LIST, entries: [], after: null },
      },
    );
    await userEvent.click(await screen.findByRole('button', { name: 'Work down …' }));
    const dialog = screen.getByRole('dialog');
    expect(await within(dialog).findByText('Only the first 5,000 are taken.')).toBeInTheDocument();
    await userEvent.type(within(dialog).getByLabelText('Name'), 'Call the eager');
    await userEvent.click(within(dialog).getByRole('checkbox'));
    await userEvent.click(within(dialog).getByRole('button', { name: 'Freeze' }));
    expect(await screen.findByRole('heading', { name: 'Call the eager' })).toBeInTheDocument();
    expect(asked('POST /api/app/worklists').map(({ body }) => body)).toEqual([
      { name: 'Call the eager', forAll: true, table: { condition: { match: 'all', of: [] }, columns: [{ kind: 'stage' }], sort } },
    ]);
  });

  it('shows who is on it, what changed since, and who has somebody before them', async () => {
    openPage('/people/worklists/7', {
      'GET /api/app/worklists/7': {
        worklist: LIST,
        entries: [
          entry(0, { state: 'done', by: 'bo@test.example', at: '2026-11-25T09:05:00Z', note: 'wants a kiln' }),
          TWO,
          entry(2, { takenBy: 'bo@test.example' }),
        ],
        after: null,
      },
    });
    const rows = await screen.findAllByRole('row');
    expect(rows[1]).toHaveTextContent('done · bo@test.example');
    expect(rows[1]).toHaveTextContent('wants a kiln');
    expect(rows[2]).toHaveTextContent(/was 10 quiet.*64 eager/);
    expect(rows[3]).toHaveTextContent('bo@test.example has them before them');
    expect(screen.getByText('1 of 3 done')).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'As CSV' })).toHaveAttribute('href', '/api/app/worklists/7/file?format=csv');
  });

  it('goes on with whoever comes next, is said done by a letter, and goes to the one after', async () => {
    const browser = openPage('/people/worklists/7', {
      ...WORKED,
      'GET /api/app/worklists/7': { worklist: LIST, entries: [entry(0), TWO], after: null },
      'POST /api/app/worklists/7/next': ({ body }: { body: unknown }) =>
        (body as { after?: number }).after === undefined ? { worklist: LIST, entry: entry(0) } : { worklist: LIST, entry: TWO },
      'PUT /api/app/worklists/7/entries/0': { worklist: LIST, entry: entry(0, { state: 'done' }) },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Go on' }));
    const strip = await screen.findByRole('region', { name: 'Worklist' });
    expect(strip).toHaveTextContent('number 1');
    expect(browser.at()).toBe('/people/id-1?worklist=7&place=0');
    await userEvent.type(within(strip).getByLabelText('A word about it'), 'wants a kiln');
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard('d');
    await waitFor(() => expect(browser.at()).toBe('/people/id-2?worklist=7&place=1'));
    expect(browser.asked('PUT /api/app/worklists/7/entries/0').map(({ body }) => body)).toEqual([{ state: 'done', note: 'wants a kiln' }]);
    expect(browser.asked('POST /api/app/worklists/7/next').map(({ body }) => body)).toEqual([{}, { after: 0 }]);
    expect(await screen.findByText(/Keenness, since it was frozen/)).toBeInTheDocument();
  });

  it('ends where there is nobody else, and stays where something is refused', async () => {
    const browser = openPage('/people/id-2?worklist=7&place=1', {
      ...WORKED,
      'PUT /api/app/worklists/7/entries/1': new Refused(500, { title: 'That could not be kept.' }),
      'POST /api/app/worklists/7/next': { worklist: LIST, entry: null },
      'GET /api/app/worklists/7': { worklist: { ...LIST, done: 3 }, entries: [], after: null },
    });
    const strip = await screen.findByRole('region', { name: 'Worklist' });
    await userEvent.type(within(strip).getByLabelText('A word about it'), 'no');
    await userEvent.click(within(strip).getByRole('button', { name: /Later/ }));
    expect(await screen.findByText('That could not be kept.')).toBeInTheDocument();
    expect(within(strip).getByLabelText('A word about it')).toHaveValue('no');
    await userEvent.click(within(strip).getByRole('button', { name: /Skip/ }));
    await waitFor(() => expect(browser.at()).toBe('/people/worklists/7'));
    expect(await screen.findByText('There is nobody else to work on in Call the eager.')).toBeInTheDocument();
  });

  it('is left alone by the keys that lead to another place', async () => {
    const browser = openPage('/people/id-2?worklist=7&place=1', { ...WORKED, 'GET /api/app/ledger': { rows: [], after: null } });
    await screen.findByRole('region', { name: 'Worklist' });
    await userEvent.keyboard('gl');
    await waitFor(() => expect(browser.at()).toBe('/ledger'));
    expect(browser.asked('PUT /api/app/worklists/7/entries/1')).toEqual([]);
  });

  it('is not there where nothing is worked down', async () => {
    openPage('/people/id-1', WORKED);
    expect(await screen.findByRole('heading', { name: /Contact id-1/ })).toBeInTheDocument();
    expect(screen.queryByRole('region', { name: 'Worklist' })).toBeNull();
  });

  it('stands among the others', async () => {
    openPage('/people/worklists', {
      'GET /api/app/worklists': { worklists: [LIST, { ...LIST, id: 8, name: 'Shared', forAll: true, later: 2 }] },
    });
    const list = await screen.findByRole('list', { name: 'Worklists' });
    expect(within(list).getByRole('link', { name: 'Shared' })).toHaveAttribute('href', '/people/worklists/8');
    expect(list).toHaveTextContent('2 put off');
  });
});

describe('notes', () => {
  const NOTE = { id: 3, text: 'Likes ash.', by: 'wren@test.example', at: '2026-11-25T09:00:00Z', changedAt: null };

  it('are written down, changed by whoever wrote them, and removed', async () => {
    const { asked } = openPage('/people/id-1', {
      ...WORKED,
      'GET /api/app/notes': { notes: [NOTE, { ...NOTE, id: 4, by: 'bo@test.example', text: 'Call in May.' }] },
      'POST /api/app/notes': NOTE,
      'PUT /api/app/notes/3': NOTE,
      'DELETE /api/app/notes/3': {},
    });
    const notes = await screen.findByRole('region', { name: 'Notes' });
    await userEvent.type(within(notes).getByLabelText('Write something down'), 'Has a kiln.');
    await userEvent.keyboard('{Control>}{Enter}{/Control}');
    await waitFor(() => expect(asked('POST /api/app/notes').map(({ body }) => body)).toEqual([{ contact: 'id-1', text: 'Has a kiln.' }]));
    await waitFor(() => expect(within(notes).getByLabelText('Write something down')).toHaveValue(''));
    expect(within(notes).getAllByRole('button', { name: 'edit' })).toHaveLength(1);
    await userEvent.click(within(notes).getByRole('button', { name: 'edit' }));
    await userEvent.type(within(notes).getByLabelText('Note'), ' And celadon.');
    await userEvent.click(within(notes).getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(asked('PUT /api/app/notes/3').map(({ body }) => body)).toEqual([{ text: 'Likes ash. And celadon.' }]));
    await userEvent.click(within(notes).getAllByRole('button', { name: 'remove' })[0] as HTMLElement);
    await waitFor(() => expect(asked('DELETE /api/app/notes/3')).toHaveLength(1));
  });

  it('keep what was typed where it is refused', async () => {
    openPage('/people/id-1', { ...WORKED, 'POST /api/app/notes': new Refused(500, { title: 'It could not be kept.' }) });
    const notes = await screen.findByRole('region', { name: 'Notes' });
    await userEvent.type(within(notes).getByLabelText('Write something down'), 'Has a kiln.');
    await userEvent.click(within(notes).getByRole('button', { name: 'Add' }));
    expect(await within(notes).findByRole('alert')).toHaveTextContent('It could not be kept.');
    expect(within(notes).getByLabelText('Write something down')).toHaveValue('Has a kiln.');
  });
});
