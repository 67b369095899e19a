import { type Group, type KnownValue, type Value } from '@eager-sieve/core';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { catalogue, definition } from '../testing/catalogue';
import { openPart } from '../testing/page';
import { Outline } from './outline';
import { TestEditor } from './test-editor';
import { Catalogue } from '@eager-sieve/core';

const KNOWN: readonly KnownValue[] = [
  { value: 'Eke', count: 1_204 },
  { value: 'Ekeby', count: 12 },
  { value: 'Mill, End', count: 3 },
];
let latest: [string, Value | undefined];
function Held({ op, initial }: { op: string; initial: Value | undefined }) {
  const [value, setValue] = useState(initial);
  const change = (next: string, given: Value | undefined): void => {
    latest = [next, given];
    setValue(given);
  };
  return <TestEditor storage="text" op={op} value={value} known={KNOWN} label="city" onChange={change} />;
}

describe('the value of a text', () => {
  it('is picked from what stands there, with how many have it', () => {
    openPart(<Held op="is" initial="Eke" />);
    const input = screen.getByRole('combobox', { name: 'city: value' });
    expect([...((input as HTMLInputElement).list?.options ?? [])].map(({ label }) => label)).toEqual([
      'Eke · 1,204',
      'Ekeby · 12',
      'Mill, End · 3',
    ]);
  });

  it('shows which texts it lets through', async () => {
    openPart(<Held op="contains" initial="ek" />);
    expect(screen.getByText('These fit: Eke (1,204), Ekeby (12).')).toBeInTheDocument();
    await userEvent.type(screen.getByRole('combobox', { name: 'city: value' }), 'x');
    expect(screen.getByText('Nothing that stands there now fits.')).toBeInTheDocument();
  });

  it('is one of several, each picked or typed by itself, whatever commas it holds', async () => {
    openPart(<Held op="is one of" initial={['Eke']} />);
    const add = screen.getByRole('combobox', { name: 'city: add a value' });
    await userEvent.type(add, 'Mill, End');
    expect(latest).toEqual(['is one of', ['Eke', 'Mill, End']]);
    await userEvent.type(add, 'Nowhere{Enter}');
    expect(latest[1]).toEqual(['Eke', 'Mill, End', 'Nowhere']);
    await userEvent.type(add, 'Eke{Enter}');
    expect(latest[1]).toHaveLength(3);
    await userEvent.click(screen.getByRole('button', { name: 'Take away Eke' }));
    expect(latest[1]).toEqual(['Mill, End', 'Nowhere']);
    expect(screen.getByText('These fit: Mill, End (3).')).toBeInTheDocument();
  });
});

describe('a text that stands somewhere', () => {
  const withCity = new Catalogue(catalogue.workspace, [
    ...catalogue.all('field'),
    ...catalogue.all('signalType'),
    definition(200, 'field', 'city', 'city', { of: 'contact', type: 'text' }),
  ] as never);
  const VALUES = {
    fields: [{ field: 'city', values: KNOWN.map((each) => ({ ...each })), distinct: 3 }],
    details: [{ signal: 'order.placed', path: 'items.product', values: [{ value: 'Kick wheel', count: 7 }], distinct: 1 }],
    held: [],
  };
  const open = (may?: readonly ['definitions:read']) => {
    const groups: Group[] = [];
    openPart(
      <Outline value={{ match: 'all', of: [] }} catalogue={withCity} onChange={(group) => groups.push(group)} />,
      { 'GET /api/app/values': VALUES },
      may ? { may } : {},
    );
    return groups;
  };
  const type = (text: string): Promise<void> => userEvent.type(screen.getByRole('combobox', { name: 'Type a line' }), text);

  it('can be typed alone', async () => {
    open();
    await type('in ekeby');
    expect(await screen.findByRole('option', { name: /city is “Ekeby”/ })).toBeInTheDocument();
    await userEvent.clear(screen.getByRole('combobox', { name: 'Type a line' }));
    await type('bought a kick wheel');
    expect(screen.getByRole('option', { name: /^ordered an item whose product is “Kick wheel”/ })).toBeInTheDocument();
  });
});
