import { type ImportRehearsal } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aLedgerRow, anImport } from '../testing/answers';
import { openPage, Refused, type SentRequest } from '../testing/page';

const RESULT = anImport({
  id: 1,
  state: 'done',
  created: 1_200,
  updated: 3,
  unchanged: 2,
  faulty: 12,
  faults: [{ row: 7, faults: [{ path: ['email'], code: 'x', expected: 'an email address' }] }],
});
const file = (text: string): File => {
  const made = new File([text], 'all.csv', { type: 'text/csv' });
  // jsdom’s files cannot be read.
  made.slice = () => ({ arrayBuffer: () => Promise.resolve(new TextEncoder().encode(text)) }) as unknown as Blob;
  return made;
};
const goesTo = (column: string): HTMLElement => screen.getByRole('combobox', { name: `Column ${column} goes to` });

describe('an import', () => {
  const choose = async (text: string): Promise<void> => userEvent.upload(await screen.findByLabelText('The file'), file(text));

  it('guesses what each column is by its name, and shows what is in it', async () => {
    openPage('/intake/import');
    await choose('\uFEFFE-Mail Address;Years at the wheel;Birthday;Shoe size\nanna@test.example;7;1990-04-02;41\nbo@test.example;9;;43\n');
    await screen.findByText('Which column is what');
    expect(goesTo('E-Mail Address')).toHaveDisplayValue('email address');
    expect(goesTo('Years at the wheel')).toHaveDisplayValue('years at the wheel');
    expect(goesTo('Birthday')).toHaveDisplayValue('birthday');
    expect(goesTo('Shoe size')).toHaveDisplayValue('leave out');
    expect(screen.getByText('anna@test.example · bo@test.example')).toBeInTheDocument();
  });

  it('takes a target from one column when another is given it, and needs one that holds the address', async () => {
    openPage('/intake/import');
    await choose('mail,other\nanna@test.example,bo@test.example\n');
    await screen.findByText('Which column is what');
    const run = screen.getByRole('button', { name: 'Import' });
    expect(run).toBeEnabled();
    await userEvent.selectOptions(goesTo('other'), 'email address');
    expect(goesTo('mail')).toHaveDisplayValue('leave out');
    await userEvent.selectOptions(goesTo('other'), 'leave out');
    expect(run).toBeDisabled();
    expect(screen.getByText(/Say which column holds the email address/)).toBeInTheDocument();
  });

  it('sends the file with what its columns are, and says how each row went', async () => {
    const { asked } = openPage('/intake/import', { 'POST /api/app/imports': RESULT });
    await choose('email;tag\nanna@test.example;yes\n');
    await screen.findByText('Which column is what');
    await userEvent.selectOptions(goesTo('tag'), 'tag glaze.ash (yes / no)');
    await userEvent.selectOptions(screen.getByLabelText('Contacts that are here already'), 'stay as they are');
    await userEvent.click(screen.getByRole('button', { name: 'Import' }));
    const result = within(await screen.findByRole('status', { name: '' }));
    expect(await screen.findByText(/The file is in/)).toHaveTextContent(
      'The file is in: 1,200 new, 3 brought up to date, 2 left as they were, 12 refused',
    );
    expect(result.getByText(/Rows that were refused, the first 1/)).toBeInTheDocument();
    expect(result.getByText('email: needs an email address')).toBeInTheDocument();
    expect(JSON.parse(asked('POST /api/app/imports')[0]?.query['options'] ?? '')).toEqual({
      name: 'all.csv',
      of: 'contact',
      fires: false,
      format: 'csv',
      encoding: 'utf-8',
      dates: 'year first',
      mapping: { email: 'email', 'tag:glaze.ash': 'tag' },
      matchBy: 'email',
      onExisting: 'skip',
      emptyCells: 'keep',
      separator: ';',
      addTags: [],
    });
  });

  it('is rehearsed first, with what is not known yet left out, and says what it would do', async () => {
    const answer: ImportRehearsal = {
      rows: 4,
      joined: 1,
      isWhole: true,
      created: 1,
      changed: 1,
      unchanged: 0,
      faulty: 1,
      error: null,
      samples: [
        { row: 2, contact: 'c1', name: 'Anna', isNew: false, changes: ['city: Oakham → Mill End'] },
        { row: 3, contact: null, name: 'bo@test.example', isNew: true, changes: [] },
      ],
      faults: [{ row: 4, faults: [{ path: ['email'], code: 'x', expected: 'an email address' }] }],
    };
    const { asked } = openPage('/intake/import', { 'POST /api/app/imports/rehearse': answer });
    await choose('email,Shoe size\nanna@test.example,41\nbo@test.example,43\nnobody,1\n');
    await userEvent.selectOptions(goesTo('Shoe size'), 'a new field: Shoe size');
    await userEvent.click(screen.getByRole('button', { name: 'Rehearse' }));
    const told = within(await screen.findByRole('status', { name: 'Rehearsal' }));
    expect(told.getByText('1 new, 1 would change, 0 would stay as they are, 1 would be refused')).toBeInTheDocument();
    expect(told.getByText(/1 row goes on with the row above, as one more item of the same one/)).toBeInTheDocument();
    expect(told.getByRole('row', { name: /line 2 Anna city: Oakham → Mill End/ })).toBeInTheDocument();
    expect(told.getByRole('row', { name: /line 3 bo@test.example new/ })).toBeInTheDocument();
    expect(told.getByText('email: needs an email address')).toBeInTheDocument();
    expect(JSON.parse(asked('POST /api/app/imports/rehearse')[0]?.query['options'] ?? '')).toMatchObject({ mapping: { email: 'email' } });
    // What was rehearsed is not what would be done once something else is chosen.
    await userEvent.selectOptions(screen.getByLabelText('An empty cell'), 'clears its field');
    expect(screen.queryByRole('status', { name: 'Rehearsal' })).not.toBeInTheDocument();
  });

  it('guesses how it is written, and takes companies by their outside id', async () => {
    openPage('/intake/import');
    await choose('{"id":"c-1","company name":"The Lantern","opened":"24.12.1990"}\n{"id":"c-2"}\n');
    await screen.findByText('Which column is what');
    expect(screen.getByLabelText('Format')).toHaveDisplayValue('JSON lines');
    expect(screen.getByLabelText('Days are written')).toHaveDisplayValue('day first, 24.12.1990');
    expect(screen.getByRole('button', { name: 'Rehearse' })).toBeDisabled();
    await userEvent.selectOptions(screen.getByLabelText('What the rows are'), 'companies');
    expect(goesTo('id')).toHaveDisplayValue('outside id');
    expect(goesTo('company name')).toHaveDisplayValue('name of the company');
    expect(screen.getByRole('button', { name: 'Rehearse' })).toBeEnabled();
  });

  it('says by which number rows of a signal are put together', async () => {
    openPage('/intake/import');
    await choose('mail,Order number,sku,total\nanna@test.example,A1,ash,90\n');
    await screen.findByText('Which column is what');
    await userEvent.selectOptions(screen.getByLabelText('What the rows are'), 'signals: what happened');
    await userEvent.selectOptions(screen.getByLabelText('Type of the signals'), 'order placed');
    expect(screen.getByText(/with the same “Order number” become one, with an item from each/)).toBeInTheDocument();
    await userEvent.selectOptions(goesTo('sku'), 'leave out');
    expect(screen.queryByText(/become one/)).not.toBeInTheDocument();
  });

  it('makes fields of columns that have none yet, of the kind that is in them', async () => {
    const { asked } = openPage('/intake/import', {
      'POST /api/app/imports': RESULT,
      'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await choose('email,Shoe size,Member since,Door\nanna@test.example,41,2020-04-02,007\nbo@test.example,43,,12\n');
    await screen.findByText('Which column is what');
    for (const column of ['Shoe size', 'Member since', 'Door']) await userEvent.selectOptions(goesTo(column), `a new field: ${column}`);
    await userEvent.click(screen.getByRole('button', { name: 'Import' }));
    await screen.findByText(/The file is in/);
    expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({
      fields: [
        { key: 'shoe-size', name: 'Shoe size', of: 'contact', type: 'number' },
        { key: 'member-since', name: 'Member since', of: 'contact', type: 'date' },
        { key: 'door', name: 'Door', of: 'contact', type: 'text' },
      ],
    });
    expect(JSON.parse(asked('POST /api/app/imports')[0]?.query['options'] ?? '')).toMatchObject({
      mapping: { email: 'email', 'field:shoe-size': 'Shoe size', 'field:member-since': 'Member since', 'field:door': 'Door' },
    });
  });

  it('that is refused says why, and keeps what was chosen', async () => {
    openPage('/intake/import', { 'POST /api/app/imports': new Refused(422, { title: 'The file is not UTF-8.' }) });
    await choose('email\nanna@test.example\n');
    await userEvent.click(await screen.findByRole('button', { name: 'Import' }));
    expect(await screen.findByText('The file is not UTF-8.')).toBeInTheDocument();
    expect(goesTo('email')).toHaveDisplayValue('email address');
  });
});

describe('the ledger', () => {
  const row = (id: number, words: string) =>
    aLedgerRow({ id, contact: 'id-1', contactName: 'Anna', words, cause: { kind: 'signal', ref: '1', words: 'ordered' }, rule: 'Ash' });
  it('shows one kind alone, and earlier rows as they are asked for', async () => {
    const { asked } = openPage('/ledger', {
      'GET /api/app/ledger': ({ query }: SentRequest) =>
        query['kind']
          ? { rows: [], after: null }
          : query['after']
            ? { rows: [row(1, 'Added tag b')], after: null }
            : { rows: [row(2, 'Added tag a')], after: 'next' },
    });
    expect(await screen.findByRole('row', { name: /Anna Added tag a rule Ash, ordered/ })).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'Earlier' }));
    expect(await screen.findByText('Added tag b')).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Show' }), 'consent');
    expect(await screen.findByText('Nothing of that kind was done')).toBeInTheDocument();
    expect(asked('GET /api/app/ledger').at(-1)?.query['kind']).toBe('consent');
  });

  it('is narrowed by what stands in its address, and opens the trace of what a row is about', async () => {
    const about = { ...row(3, 'Tag glaze.celadon added'), kind: 'tag', thing: 'glaze.celadon', thingName: 'glaze.celadon' };
    const { asked, at } = openPage('/ledger?cause=signal&from=2026-05-01', { 'GET /api/app/ledger': { rows: [about], after: null } });
    expect(await screen.findByRole('button', { name: 'Why glaze.celadon?' })).toBeInTheDocument();
    expect(asked('GET /api/app/ledger')[0]?.query).toMatchObject({ cause: 'signal', from: '2026-05-01' });
    await userEvent.type(screen.getByLabelText('To whom'), 'anna@test.example{Enter}');
    await userEvent.selectOptions(screen.getByLabelText('Tag, audience, rule …'), 'glaze.celadon');
    expect(at()).toBe('/ledger?cause=signal&from=2026-05-01&who=anna%40test.example&about=tag%2Fglaze.celadon');
    await waitFor(() =>
      expect(asked('GET /api/app/ledger').at(-1)?.query).toMatchObject({ who: 'anna@test.example', about: 'tag/glaze.celadon' }),
    );
    await userEvent.click(screen.getByRole('button', { name: 'Show everything' }));
    expect(at()).toBe('/ledger');
    expect(screen.getByLabelText('To whom')).toHaveValue('');
  });
});
