import { Catalogue, type AnyDefinition, type Group } from '@eager-sieve/core';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { MemoryRouter } from 'react-router';
import { Outline } from './outline';

const definition = (id: number, kind: string, key: string, name: string, body: unknown): AnyDefinition =>
  ({ id, kind, key, name, version: 1, retired: false, epoch: 0, body }) as unknown as AnyDefinition;
const catalogue = new Catalogue({ name: 'Test', timeZone: 'Europe/Stockholm', currency: 'SEK', ratesMillionths: new Map() }, [
  definition(1, 'field', 'years', 'years at the wheel', { of: 'contact', type: 'number' }),
  definition(2, 'family', 'glaze', 'Glaze', { prefix: 'glaze', purpose: '', many: true }),
  definition(3, 'tag', 'glaze.ash', 'ash', { family: 2 }),
  definition(4, 'tag', 'glaze.celadon', 'celadon', { family: 2 }),
]);

let latest: Group;
function Holder({ initial }: { initial: Group }) {
  const [group, setGroup] = useState(initial);
  return (
    <MemoryRouter>
      <Outline
        value={group}
        catalogue={catalogue}
        onChange={(next) => {
          latest = next;
          setGroup(next);
        }}
        lines={[{ alone: 24, remain: 24, others: 100, onLimit: 5, empty: 12, never: null, inner: [] }]}
        total={100}
      />
    </MemoryRouter>
  );
}
const years: Group = { match: 'all', of: [{ kind: 'field', of: 'contact', field: 1, op: '>', value: 3 }] };

describe('the outline of conditions', () => {
  it('offers to let in those who stand exactly on a limit, and says who has no value', async () => {
    render(<Holder initial={years} />);
    expect(screen.getByText('12 have no value')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: 'let the 5 with exactly 3 in' }));
    expect(latest.of[0]).toMatchObject({ op: '>=', value: 3 });
  });

  it('takes a line that is typed, with a completion by Enter', async () => {
    render(<Holder initial={years} />);
    const input = screen.getByRole('combobox', { name: 'Type a line' });
    await userEvent.type(input, 'has tag glaze.c');
    expect(screen.getByRole('option', { name: /glaze.celadon/ })).toBeInTheDocument();
    await userEvent.type(input, '{Enter}{Enter}');
    expect(latest.of[1]).toEqual({ kind: 'tag', tag: 4, op: 'has' });
    await userEvent.type(input, 'years at the wheel more than');
    expect(latest.of).toHaveLength(2);
  });

  it('turns a line round, removes it, and changes how the lines hold together', async () => {
    render(<Holder initial={{ match: 'all', of: [{ kind: 'tag', tag: 3, op: 'has' }] }} />);
    await userEvent.click(screen.getByRole('button', { name: 'turn round' }));
    expect(latest.of[0]).toMatchObject({ op: 'lacks' });
    await userEvent.selectOptions(screen.getByRole('combobox', { name: /how the lines/ }), 'none of these holds');
    expect(latest.match).toBe('none');
    await userEvent.click(screen.getByRole('button', { name: 'remove' }));
    expect(latest.of).toEqual([]);
  });

  it('goes by keyboard: into a group, out again, away', async () => {
    render(<Holder initial={years} />);
    screen.getByRole('group', { name: 'years at the wheel more than 3' }).focus();
    await userEvent.keyboard('{Control>}]{/Control}');
    expect(latest.of[0]).toMatchObject({ match: 'any' });
    await new Promise((resolve) => requestAnimationFrame(resolve));
    await userEvent.keyboard('{Control>}[[{/Control}');
    expect(latest.of[0]).toMatchObject({ kind: 'field' });
  });
});
