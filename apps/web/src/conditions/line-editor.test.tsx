import { lineText, orThrow, prepare, type Leaf } from '@eager-sieve/core';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { catalogue, signalType } from '../testing/catalogue';
import { LineEditor } from './line-editor';
import { lineAbout, subjectGroups, subjectOf } from './subjects';

let latest: Leaf;
function Holder({ initial }: { initial: Leaf }) {
  const [leaf, setLeaf] = useState(initial);
  return (
    <LineEditor
      leaf={leaf}
      catalogue={catalogue}
      onChange={(next) => {
        latest = next;
        setLeaf(next);
      }}
    />
  );
}
const shown = (): string => lineText(latest, catalogue);

describe('picking a line', () => {
  it('offers everything that the language speaks of, and begins each with a line that works', () => {
    const choices = subjectGroups(catalogue).flatMap((group) => group.choices);
    expect(choices.length).toBeGreaterThan(20);
    for (const choice of choices) {
      const leaf = lineAbout(choice.value, catalogue) as Leaf;
      expect(prepare(leaf, catalogue)).toMatchObject({ ok: true });
      expect(subjectOf(leaf)).toBe(choice.value);
    }
  });

  it('asks for the value that its operator takes', async () => {
    render(<Holder initial={{ kind: 'field', of: 'contact', field: 6, op: 'on', value: '2026-11-25' }} />);
    await userEvent.selectOptions(screen.getByLabelText('fact: how'), 'within the next');
    expect(shown()).toBe('birthday within the next 30 days');
    await userEvent.clear(screen.getByLabelText('fact: how many'));
    await userEvent.type(screen.getByLabelText('fact: how many'), '7');
    await userEvent.selectOptions(screen.getByLabelText('fact: unit'), 'weeks');
    expect(latest).toMatchObject({ value: { unit: 'weeks' } });
    expect(screen.queryByRole('option', { name: 'hours' })).toBeNull();
    await userEvent.selectOptions(screen.getByLabelText('fact: how'), 'is filled');
    expect(shown()).toBe('birthday is filled');
    orThrow(prepare(latest, catalogue));
  });

  it('lets several choices be ticked, and never none', async () => {
    render(<Holder initial={{ kind: 'field', of: 'contact', field: 5, op: 'is one of', value: ['price'] }} />);
    await userEvent.click(screen.getByLabelText('finding the time'));
    expect(latest).toMatchObject({ value: ['price', 'time'] });
    await userEvent.click(screen.getByLabelText('the price'));
    await userEvent.click(screen.getByLabelText('finding the time'));
    expect(latest).toMatchObject({ value: ['time'] });
  });

  it('shows bands with where they begin', async () => {
    render(<Holder initial={{ kind: 'band', scorecard: 7, op: 'is one of', value: ['eager'] }} />);
    expect(screen.getByText('from 60')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('checkbox', { name: /quiet/ }));
    expect(shown()).toBe('Keenness is one of eager, quiet');
    await userEvent.selectOptions(screen.getByLabelText('is or is not'), 'is not one of');
    expect(shown()).toBe('Keenness is not one of eager, quiet');
  });

  it('counts signals, in a window, with their details picked from what is known', async () => {
    render(<Holder initial={{ kind: 'signal', type: signalType('form.answered'), within: { last: 30, unit: 'days' } }} />);
    await userEvent.click(screen.getByRole('button', { name: '+ detail' }));
    await userEvent.selectOptions(screen.getByLabelText('detail'), 'answer to “What stops you?” (Find your clay)');
    expect(shown()).toBe('answered a form where answers.stops is price at least once in the last 30 days');
    await userEvent.selectOptions(screen.getByLabelText('detail: value'), 'finding the time');
    await userEvent.selectOptions(screen.getByLabelText('how often'), 'at most');
    await userEvent.selectOptions(screen.getByLabelText('when'), 'ever');
    expect(shown()).toBe('answered a form where answers.stops is time at most once ever');
    await userEvent.click(screen.getByRole('button', { name: 'Remove this detail' }));
    expect(shown()).toBe('answered a form at most once ever');
    await userEvent.selectOptions(screen.getByLabelText('what the line is about'), 'consent');
    expect(shown()).toBe('consent to email is given');
  });

  it('asks about the things inside a list', async () => {
    render(<Holder initial={{ kind: 'signal', type: signalType('order.placed') }} />);
    await userEvent.click(screen.getByRole('button', { name: '+ detail' }));
    await userEvent.selectOptions(screen.getByLabelText('detail'), 'one of the items: line');
    await userEvent.selectOptions(screen.getByLabelText('detail: how'), 'is');
    await userEvent.clear(screen.getByLabelText('detail: value'));
    await userEvent.type(screen.getByLabelText('detail: value'), 'glaze');
    expect(shown()).toBe('ordered where some items have (line is glaze) at least once ever');
  });
});
