import { type FieldBody } from '@eager-sieve/core';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { FactInput } from './fact-input';

const options = [
  { key: 'a', name: 'Apple green' },
  { key: 'b', name: 'blue' },
];
const kept: unknown[] = [];
let refuses = false;
const input = (type: FieldBody['type'], value?: unknown, shown?: string) =>
  render(
    <FactInput
      body={{ of: 'contact', type, ...(type.includes('choice') ? { options } : {}) } as FieldBody}
      name="colour"
      value={value}
      shown={shown}
      onSet={(next) => {
        kept.push(next);
        return Promise.resolve(!refuses);
      }}
    />,
  );
const open = () => userEvent.click(screen.getByRole('button', { name: /colour: .*, edit/ }));

beforeEach(() => {
  kept.length = 0;
  refuses = false;
});

describe('a fact', () => {
  it('is read until it is clicked, and says where it is not known', async () => {
    input('text');
    expect(screen.getByRole('button', { name: 'colour: not known, edit' })).toBeInTheDocument();
    await open();
    expect(screen.getByLabelText('colour')).toHaveFocus();
  });

  it('is kept by Enter without the spaces around it, and taken away where nothing is left', async () => {
    input('text', 'oak', 'oak');
    await open();
    await userEvent.clear(screen.getByLabelText('colour'));
    await userEvent.type(screen.getByLabelText('colour'), '  ash {Enter}');
    expect(kept).toEqual(['ash']);
    await open();
    await userEvent.clear(screen.getByLabelText('colour'));
    await userEvent.keyboard('{Enter}');
    expect(kept).toEqual(['ash', null]);
  });

  it('stays as it was by Esc, and by going elsewhere', async () => {
    input('number', 4, '4');
    await open();
    await userEvent.type(screen.getByLabelText('colour'), '2{Escape}');
    expect(screen.getByRole('button', { name: 'colour: 4, edit' })).toBeInTheDocument();
    await open();
    await userEvent.type(screen.getByLabelText('colour'), '9');
    await userEvent.tab();
    expect(kept).toEqual([]);
  });

  it('that was refused stays open with what was written', async () => {
    refuses = true;
    input('text', 'oak', 'oak');
    await open();
    await userEvent.type(screen.getByLabelText('colour'), 'en{Enter}');
    expect(screen.getByLabelText('colour')).toHaveValue('oaken');
  });

  it('of yes or no, and of one choice, is picked', async () => {
    const { unmount } = input('yes/no', true, 'yes');
    await open();
    await userEvent.selectOptions(screen.getByLabelText('colour'), 'no');
    unmount();
    input('one choice', 'a', 'Apple green');
    await open();
    expect(screen.getByLabelText('colour')).toHaveValue('a');
    await userEvent.selectOptions(screen.getByLabelText('colour'), 'blue');
    await open();
    await userEvent.selectOptions(screen.getByLabelText('colour'), 'not known');
    expect(kept).toEqual(['no', 'b', null]);
  });

  it('of several choices is ticked and kept together', async () => {
    input('several choices', ['a'], 'Apple green');
    await open();
    expect(screen.getByLabelText('Apple green')).toBeChecked();
    await userEvent.click(screen.getByLabelText('blue'));
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    expect(kept).toEqual([['a', 'b']]);
    await open();
    await userEvent.click(screen.getByLabelText('Apple green'));
    await userEvent.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(kept).toHaveLength(1);
  });

  it('of a day is asked by a calendar', async () => {
    input('date', '2026-03-01', '1 Mar 2026');
    await open();
    expect(screen.getByLabelText('colour')).toHaveAttribute('type', 'date');
  });
});
