import { Catalogue, type Condition } from '@eager-sieve/core';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { aCount } from '../testing/answers';
import { catalogue, definition, definitions } from '../testing/catalogue';
import { catalogueView, openPart, type Answers } from '../testing/page';
import { TypedLine } from './typed-line';

const COUNT = 'POST /api/v1/audiences/count';
const many = (count: number): Answers => ({ [COUNT]: aCount({ count }) });
const ash: Condition = { kind: 'tag', tag: 3, op: 'has' };
const celadon: Condition = { kind: 'tag', tag: 4, op: 'has' };

let taken: Condition[];
const open = (answers = many(1_234), of = catalogue) => {
  taken = [];
  return openPart(<TypedLine label="Type a line" catalogue={of} onLines={(lines) => taken.push(...lines)} />, answers);
};
const input = (): HTMLElement => screen.getByRole('combobox', { name: 'Type a line' });
const type = (text: string): Promise<void> => userEvent.type(input(), text);

describe('a typed line', () => {
  beforeEach(() => open());

  it('shows what it can mean, with how many that holds for, and takes the first by Enter', async () => {
    await type('finding the time');
    expect(screen.getByRole('option', { name: /^what stops them is finding the time/ })).toBeInTheDocument();
    expect((await screen.findAllByText('1,234')).length).toBeGreaterThan(0);
    await type('{Enter}');
    expect(taken).toEqual([expect.objectContaining({ kind: 'field', field: 5, value: 'time' })]);
    expect(input()).toHaveValue('');
  });

  it('takes another meaning by the arrows, or by the mouse', async () => {
    await type('finding the time');
    const second = screen.getAllByRole('option')[1];
    await type('{ArrowDown}{ArrowDown}');
    expect(second).toHaveAttribute('aria-selected', 'true');
    await type('{ArrowUp}{Enter}');
    await type('finding the time');
    await userEvent.click(screen.getAllByRole('option')[1] as HTMLElement);
    expect(taken).toHaveLength(2);
    expect(taken[0]).not.toEqual(taken[1]);
  });

  it('goes on with a word that is half typed, and takes one that is whole as what it means', async () => {
    await type('yea{Enter}');
    expect(input()).toHaveValue('years at the wheel ');
    expect(taken).toEqual([]);
    cleanup();
    const liking = definition(300, 'scorecard', 'liking', 'Keenly liked', {
      ...catalogue.body('scorecard', 7),
      bands: [{ key: 'k', name: 'keen', from: 0 }],
    });
    open(many(1), new Catalogue(catalogue.workspace, [...definitions, liking]));
    await type('keen');
    expect(screen.getAllByRole('option').map((option) => option.textContent)).toEqual([
      expect.stringMatching(/^Keenly liked is keen/),
      expect.stringMatching(/^Keenness/),
      expect.stringMatching(/^Keenly liked/),
    ]);
    await type('{Enter}');
    expect(taken).toEqual([expect.objectContaining({ kind: 'band', scorecard: 300 })]);
  });

  it('says quietly what can come next, where a line has only been begun', async () => {
    await type('Keenness is more than {Escape}');
    expect(screen.getByText(/^What can come next: /)).toBeInTheDocument();
  });

  it('names the word that it does not know, with the nearest that it does, and keeps what was typed', async () => {
    await type('eagerish qqqxq{Enter}');
    expect(taken).toEqual([]);
    expect(input()).toHaveValue('eagerish qqqxq');
    expect(screen.getByText('eagerish').parentElement).toHaveTextContent('“eagerish” is not known here.');
  });

  it('names the known word that does not fit in, where nothing can be read', async () => {
    await type('twice tomorrow{Enter}');
    expect(taken).toEqual([]);
    expect(screen.getByText(/does not fit in here/)).toHaveTextContent('“');
  });

  it('says of a line that asks what cannot be asked what is wrong with it, and not that a word does not fit', async () => {
    await type('years at the wheel is between 5 and 3{Escape}');
    expect(screen.queryByText(/does not fit in here/)).toBeNull();
    expect(screen.getByText(/lower end first/)).toBeInTheDocument();
  });

  it('says which words a meaning leaves out, and does not take such a one by itself', async () => {
    await type('years at the wheel more than 3 tomorrow');
    expect(screen.getByText(/without “tomorrow”/)).toBeInTheDocument();
    await type('{Enter}');
    expect(taken).toEqual([]);
  });

  it('takes each line of what is pasted, and leaves the ones that it cannot read', async () => {
    await userEvent.click(input());
    await userEvent.paste('• has tag glaze.ash\n• tagged celadon\n• qqqxq of the vvvv\n');
    expect(taken).toEqual([ash, celadon]);
    expect(input()).toHaveValue('qqqxq of the vvvv');
  });
});

describe('a typed line without a server', () => {
  it('is read all the same', async () => {
    open({});
    await type('tagged celadon{Enter}');
    expect(taken).toEqual([celadon]);
  });

  it('makes what an unknown word means, and goes on with the line about it', async () => {
    cleanup();
    const made = definition(301, 'audience', 'marshwalkers', 'marshwalkers', { kind: 'fixed', of: 'contact' });
    const { asked } = open({
      ...many(3),
      'GET /api/app/catalogue': catalogueView([made]),
      'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await type('marshwalkers');
    await userEvent.click(await screen.findByRole('button', { name: 'a list' }));
    await userEvent.click(await screen.findByRole('button', { name: 'Add list', hidden: true }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')).toHaveLength(1));
    expect(asked('PUT /api/v1/definitions')[0]?.body).toEqual({
      audiences: [{ key: 'marshwalkers', name: 'marshwalkers', kind: 'fixed', of: 'contact' }],
    });
    await waitFor(() => expect(taken).toEqual([{ kind: 'audience', audience: 301, op: 'in' }]));
    expect(input()).toHaveValue('');
  });
});
