import { type Condition, type Group, type SieveLine } from '@eager-sieve/core';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { catalogue, signalType } from '../testing/catalogue';
import { openPart } from '../testing/page';
import { Outline } from './outline';

let latest: Group;
const YEARS: SieveLine = { alone: 24, remain: 24, others: 100, onLimit: 5, empty: 12, never: null, inner: [] };
function Holder({ initial, lines = [YEARS], readOnly = false }: { initial: Group; lines?: readonly SieveLine[]; readOnly?: boolean }) {
  const [group, setGroup] = useState(initial);
  return (
    <Outline
      value={group}
      catalogue={catalogue}
      onChange={(next) => {
        latest = next;
        setGroup(next);
      }}
      lines={lines}
      total={100}
      readOnly={readOnly}
    />
  );
}
const years: Group = { match: 'all', of: [{ kind: 'field', of: 'contact', field: 1, op: '>', value: 3 }] };

const ash: Condition = { kind: 'tag', tag: 3, op: 'has' };
const celadon: Condition = { kind: 'tag', tag: 4, op: 'has' };
/** A line is focused in the next frame, when it stands where it was moved to. */
const nextFrame = (): Promise<unknown> => new Promise((resolve) => requestAnimationFrame(resolve));

describe('the outline of conditions', () => {
  it('offers to let in those who stand exactly on a limit, and says who has no value', async () => {
    openPart(<Holder initial={years} />);
    expect(screen.getByText('12 have no value')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'let the 5 with exactly 3 in' }));
    expect(latest.of[0]).toMatchObject({ op: '>=', value: 3 });
  });

  it('takes a line that is typed, with a completion by Enter', async () => {
    openPart(<Holder initial={years} />);
    const input = screen.getByRole('combobox', { name: 'Type a line' });
    await userEvent.type(input, 'has tag glaze.c');
    expect(screen.getByRole('option', { name: /glaze.celadon/ })).toBeInTheDocument();
    await userEvent.type(input, '{Enter}{Enter}');
    expect(latest.of[1]).toEqual({ kind: 'tag', tag: 4, op: 'has' });
    await userEvent.type(input, 'years at the wheel more than');
    expect(latest.of).toHaveLength(2);
  });

  it('takes all lines that are pasted', async () => {
    openPart(<Holder initial={years} />);
    await userEvent.click(screen.getByRole('combobox', { name: 'Type a line' }));
    await userEvent.paste('has the tag glaze.ash\nhas the tag glaze.celadon\n');
    expect(latest.of).toEqual([...years.of, ash, celadon]);
  });

  it('turns a line round, removes it, and changes how the lines hold together', async () => {
    openPart(<Holder initial={{ match: 'all', of: [{ kind: 'tag', tag: 3, op: 'has' }] }} />);
    await userEvent.click(screen.getByRole('button', { name: 'turn round' }));
    expect(latest.of[0]).toMatchObject({ op: 'lacks' });
    await userEvent.selectOptions(screen.getByRole('combobox', { name: /how the lines/ }), 'none of these holds');
    expect(latest.match).toBe('none');
    await userEvent.click(screen.getByRole('button', { name: 'remove' }));
    expect(latest.of).toEqual([]);
  });

  it('goes by keyboard: into a group, out again, away', async () => {
    openPart(<Holder initial={years} />);
    screen.getByRole('group', { name: 'years at the wheel is more than 3' }).focus();
    await userEvent.keyboard('{Control>}]{/Control}');
    expect(latest.of[0]).toMatchObject({ match: 'any' });
    await nextFrame();
    await userEvent.keyboard('{Control>}[[{/Control}');
    expect(latest.of[0]).toMatchObject({ kind: 'field' });
    await nextFrame();
  });

  it('moves by the arrows, and moves a line with Alt', async () => {
    openPart(<Holder initial={{ match: 'all', of: [ash, celadon, ...years.of] }} lines={[]} />);
    const line = (name: RegExp) => screen.getByRole('group', { name });
    line(/glaze.ash/).focus();
    await userEvent.keyboard('{ArrowDown}');
    expect(line(/glaze.celadon/)).toHaveFocus();
    await userEvent.keyboard('{ArrowUp}');
    expect(line(/glaze.ash/)).toHaveFocus();
    await userEvent.keyboard('{Alt>}{ArrowDown}{/Alt}');
    expect(latest.of).toEqual([celadon, ash, ...years.of]);
    await nextFrame();
    expect(line(/glaze.ash/)).toHaveFocus();
    await userEvent.keyboard('{Alt>}{ArrowUp}{/Alt}');
    expect(latest.of).toEqual([ash, celadon, ...years.of]);
    await nextFrame();
  });

  it('turns a line round by !, and deletes it by Delete', async () => {
    openPart(<Holder initial={{ match: 'all', of: [ash, celadon] }} lines={[]} />);
    screen.getByRole('group', { name: /glaze.celadon/ }).focus();
    await userEvent.keyboard('!');
    expect(latest.of[1]).toMatchObject({ tag: 4, op: 'lacks' });
    await userEvent.keyboard('{Delete}');
    expect(latest.of).toEqual([ash]);
    await nextFrame();
    expect(screen.getByRole('group', { name: /glaze.ash/ })).toHaveFocus();
  });

  it('opens a line by Enter, takes what is typed over it, and leaves it as it was by Esc', async () => {
    openPart(<Holder initial={{ match: 'all', of: [ash] }} lines={[]} />);
    screen.getByRole('group', { name: /glaze.ash/ }).focus();
    await userEvent.keyboard('{Enter}');
    const typed = screen.getByRole('combobox', { name: 'this line, typed' });
    await userEvent.clear(typed);
    await userEvent.type(typed, 'years at the wheel at least 4{Enter}');
    expect(latest.of).toEqual([{ kind: 'field', of: 'contact', field: 1, op: '>=', value: 4 }]);
    const before = latest;
    screen.getByRole('group', { name: /years at the wheel/ }).focus();
    await userEvent.keyboard('{Enter}');
    await userEvent.click(screen.getByRole('button', { name: 'Close' }));
    expect(screen.queryByRole('combobox', { name: 'this line, typed' })).not.toBeInTheDocument();
    expect(latest).toBe(before);
  });

  it('begins a group with a line, and puts more lines into it', async () => {
    openPart(<Holder initial={{ match: 'all', of: [] }} lines={[]} />);
    await userEvent.click(screen.getByRole('button', { name: '+ group' }));
    await userEvent.click(screen.getByRole('button', { name: '+ line' }));
    expect(latest.of).toEqual([{ match: 'any', of: [ash, ash] }]);
    const pickers = screen.getAllByRole('combobox', { name: /how the lines/ });
    await userEvent.selectOptions(pickers[1] as HTMLElement, 'none of these holds');
    expect(latest.of[0]).toMatchObject({ match: 'none' });
    expect(latest.match).toBe('all');
  });

  it('shows beside each top line how many pass it alone and remain, and inside a group only the first', () => {
    const group: Condition = { match: 'any', of: [ash, celadon] };
    const lines: SieveLine[] = [
      { ...YEARS, alone: 24, remain: 24 },
      {
        ...YEARS,
        alone: 60,
        remain: 18,
        onLimit: null,
        empty: null,
        inner: [
          { path: [0], alone: 41 },
          { path: [1], alone: 33 },
        ],
      },
    ];
    openPart(<Holder initial={{ match: 'all', of: [...years.of, group] }} lines={lines} />);
    expect(screen.getByRole('group', { name: 'any of these holds' })).toHaveTextContent('6018');
    const inner = screen.getByRole('group', { name: /glaze.celadon/ });
    expect(inner).toHaveTextContent(/33$/);
    expect(inner.querySelectorAll('[style*="width"]')).toHaveLength(1);
  });

  it('tells of "never in that window" how many never did it at all', () => {
    const silent: Condition = {
      kind: 'signal',
      type: signalType('order.placed'),
      count: { op: '=', value: 0 },
      within: { last: 30, unit: 'days' },
    };
    openPart(<Holder initial={{ match: 'all', of: [silent] }} lines={[{ ...YEARS, onLimit: null, empty: null, never: 1_262 }]} />);
    expect(screen.getByText('1,262 of them never did')).toBeInTheDocument();
    expect(screen.getByText(/^since /)).toBeInTheDocument();
  });

  it('that is only read offers nothing to change', async () => {
    openPart(<Holder initial={years} readOnly />);
    expect(screen.queryAllByRole('button')).toEqual([]);
    expect(screen.queryAllByRole('combobox')).toEqual([]);
    expect(screen.getByText('all of these hold')).toBeInTheDocument();
  });

  it('says of a line that cannot be understood what would be right, and keeps what is typed', async () => {
    openPart(<Holder initial={{ match: 'all', of: [] }} lines={[]} />);
    const before = latest;
    const input = screen.getByRole('combobox', { name: 'Type a line' });
    await userEvent.type(input, 'years at the wheel more than many{Escape}{Enter}');
    expect(input).toHaveValue('years at the wheel more than many');
    expect(latest).toBe(before);
  });
});
