import { lineText, orThrow, prepare, type Leaf } from '@eager-sieve/core';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { catalogue, signalType } from '../testing/catalogue';
import { openPart } from '../testing/page';
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
/** Picks what the line is about by what it is called. */
const pick = async (name: string): Promise<void> => {
  await userEvent.click(screen.getByRole('button', { name: /^what the line is about/ }));
  await userEvent.type(screen.getByRole('combobox', { name: 'what the line is about' }), `${name}{Enter}`);
};
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
    const ofCompanies = subjectGroups(catalogue, 'company').flatMap((group) => group.choices);
    expect(ofCompanies.map((choice) => choice.value)).toContain('contacts');
    for (const choice of ofCompanies)
      expect(prepare(lineAbout(choice.value, catalogue) as Leaf, catalogue, 'company')).toMatchObject({ ok: true });
  });

  it('asks since when a tag has been there, and what value it carries', async () => {
    openPart(<Holder initial={{ kind: 'tag', tag: 3, op: 'has' }} />);
    await userEvent.selectOptions(screen.getByLabelText('since'), 'in the last');
    expect(shown()).toBe('has tag glaze.ash, came in the last 30 days');
    await userEvent.selectOptions(screen.getByLabelText('has or lacks'), 'they do not have it');
    expect(shown()).toBe('lacks tag glaze.ash');
    await pick('glaze.litres');
    await userEvent.selectOptions(screen.getByLabelText('has or lacks'), 'they do not have it');
    await userEvent.selectOptions(screen.getByLabelText('value'), 'valued');
    await userEvent.selectOptions(screen.getByLabelText('value: how'), 'at least');
    expect(shown()).toBe('lacks tag glaze.litres valued at least 1');
    orThrow(prepare(latest, catalogue));
  });

  it('measures by days, by a sum, by the latest alone, and by what came after', async () => {
    openPart(<Holder initial={{ kind: 'signal', type: signalType('order.placed') }} />);
    await userEvent.selectOptions(screen.getByLabelText('measured by'), 'on so many days');
    expect(shown()).toBe('ordered on at least 2 days ever');
    await userEvent.selectOptions(screen.getByLabelText('measured by'), 'summing to');
    await userEvent.selectOptions(screen.getByLabelText('sum of'), 'items.amount');
    expect(shown()).toBe('ordered summing items.amount to at least 100 ever');
    await userEvent.selectOptions(screen.getByLabelText('measured by'), 'only the latest');
    await userEvent.selectOptions(screen.getByLabelText('or another type'), 'left the checkout');
    expect(shown()).toBe('ordered or left the checkout only the latest ever');
    await userEvent.click(screen.getByRole('button', { name: 'Not: left the checkout' }));
    await userEvent.selectOptions(screen.getByLabelText('what came after'), 'not followed by');
    await userEvent.selectOptions(screen.getByLabelText('within a time'), 'within');
    expect(shown()).toBe('ordered not followed by ordered within 2 hours only the latest ever');
    orThrow(prepare(latest, catalogue));
  });

  it('asks where they stand, what changed, and one number against another', async () => {
    openPart(<Holder initial={{ kind: 'stage', op: 'is at least', value: 13 }} />);
    await userEvent.selectOptions(screen.getByLabelText('how'), 'is one of');
    await userEvent.click(screen.getByLabelText('customer'));
    expect(shown()).toBe('stage is one of "heard of us", customer');
    await pick('stage changed');
    await userEvent.selectOptions(screen.getByLabelText('to'), 'to …');
    expect(shown()).toBe('stage changed to "heard of us" at least once in the last 30 days');
    await pick('compare two numbers');
    await userEvent.selectOptions(screen.getByLabelText('with what'), 'Keenness: points');
    expect(shown()).toBe('how often (ordered in the last 30 days) more than 2 times Keenness');
    await pick('owner');
    await userEvent.selectOptions(screen.getByLabelText('how'), 'is no one');
    expect(shown()).toBe('owner is empty');
    orThrow(prepare(latest, catalogue));
  });

  it('asks for the value that its operator takes', async () => {
    openPart(<Holder initial={{ kind: 'field', of: 'contact', field: 6, op: 'on', value: '2026-11-25' }} />);
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
    openPart(<Holder initial={{ kind: 'field', of: 'contact', field: 5, op: 'is one of', value: ['price'] }} />);
    await userEvent.click(screen.getByLabelText('finding the time'));
    expect(latest).toMatchObject({ value: ['price', 'time'] });
    await userEvent.click(screen.getByLabelText('the price'));
    await userEvent.click(screen.getByLabelText('finding the time'));
    expect(latest).toMatchObject({ value: ['time'] });
  });

  it('takes a choice that is made on the spot', async () => {
    const { asked } = openPart(<Holder initial={{ kind: 'field', of: 'contact', field: 5, op: 'is', value: 'price' }} />, {
      'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await userEvent.click(await screen.findByRole('button', { name: '+ choice' }));
    await userEvent.type(screen.getByLabelText('New choice of what stops them'), 'Cold hands{Enter}');
    await waitFor(() => expect(latest).toMatchObject({ op: 'is', value: 'cold-hands' }));
    const [{ options }] = (asked('PUT /api/v1/definitions')[0]?.body as { fields: [{ options: { name: string }[] }] }).fields;
    expect(options.map(({ name }) => name)).toEqual(['the price', 'finding the time', 'Cold hands']);
  });

  it('shows bands with where they begin', async () => {
    openPart(<Holder initial={{ kind: 'band', scorecard: 7, op: 'is one of', value: ['eager'] }} />);
    expect(screen.getByText('from 60')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('checkbox', { name: /quiet/ }));
    expect(shown()).toBe('Keenness is one of eager, quiet');
    await userEvent.selectOptions(screen.getByLabelText('is or is not'), 'is not one of');
    expect(shown()).toBe('Keenness is not one of eager, quiet');
  });

  it('counts signals, in a window, with their details picked from what is known', async () => {
    openPart(<Holder initial={{ kind: 'signal', type: signalType('form.answered'), within: { last: 30, unit: 'days' } }} />);
    await userEvent.click(screen.getByRole('button', { name: '+ detail' }));
    await userEvent.selectOptions(screen.getByLabelText('detail'), 'answer to “What stops you?” (Find your clay)');
    expect(shown()).toBe('answered a form where answers.stops is price at least once in the last 30 days');
    await userEvent.selectOptions(screen.getByLabelText('detail: value'), 'finding the time');
    await userEvent.selectOptions(screen.getByLabelText('how often'), 'at most');
    await userEvent.selectOptions(screen.getByLabelText('when'), 'ever');
    expect(shown()).toBe('answered a form where answers.stops is time at most once ever');
    await userEvent.click(screen.getByRole('button', { name: 'Remove this detail' }));
    expect(shown()).toBe('answered a form at most once ever');
    await pick('consent');
    expect(shown()).toBe('consent to email is given');
  });

  it('asks about the things inside a list', async () => {
    openPart(<Holder initial={{ kind: 'signal', type: signalType('order.placed') }} />);
    await userEvent.click(screen.getByRole('button', { name: '+ detail' }));
    await userEvent.selectOptions(screen.getByLabelText('detail'), 'line of an item');
    await userEvent.selectOptions(screen.getByLabelText('detail: how'), 'is');
    await userEvent.clear(screen.getByLabelText('detail: value'));
    await userEvent.type(screen.getByLabelText('detail: value'), 'glaze');
    expect(shown()).toBe('ordered where some items have (line is glaze) at least once ever');
  });

  it('asks several things of the same one in a list, and leaves whether one or none has to answer as it was', async () => {
    openPart(
      <Holder
        initial={{
          kind: 'signal',
          type: signalType('order.placed'),
          where: [
            {
              none: 'items',
              of: [
                { path: 'line', op: 'is', value: 'glaze' },
                { path: 'quantity', op: '>=', value: 2 },
              ],
            },
          ],
        }}
      />,
    );
    await userEvent.type(screen.getByLabelText('detail: value'), 's');
    expect(shown()).toBe('ordered where no items have (line is glazes and quantity at least 2) at least once ever');
    await userEvent.click(screen.getByRole('button', { name: '+ of the same' }));
    await userEvent.selectOptions(screen.getAllByLabelText('detail of the same')[1] as HTMLElement, 'product');
    await userEvent.click(screen.getAllByRole('button', { name: 'Remove this detail of the same' })[0] as HTMLElement);
    expect(shown()).toBe('ordered where no items have (line is glazes and product is filled) at least once ever');
    await userEvent.selectOptions(screen.getByLabelText('detail'), 'quantity of an item');
    expect(shown()).toBe('ordered where some items have (quantity is filled) at least once ever');
  });

  it('asks for details of what followed, and of each side of a comparison', async () => {
    openPart(
      <Holder
        initial={{ kind: 'signal', type: signalType('checkout.left'), then: { type: signalType('order.placed'), happens: false } }}
      />,
    );
    await userEvent.click(screen.getByRole('button', { name: '+ detail of what followed' }));
    await userEvent.selectOptions(screen.getByLabelText('detail of what followed'), 'line of an item');
    expect(shown()).toBe('left the checkout not followed by ordered where some items have (line is filled) at least once ever');
    await userEvent.selectOptions(screen.getByLabelText('followed by what'), 'heard from us');
    expect(shown()).toBe('left the checkout not followed by heard from us at least once ever');
    cleanup();
    openPart(
      <Holder
        initial={{ kind: 'compare', left: { type: signalType('order.placed') }, op: '>', right: { type: signalType('order.placed') } }}
      />,
    );
    await userEvent.selectOptions(screen.getByLabelText('what is compared'), 'total amount of items: ordered');
    await userEvent.click(screen.getByRole('button', { name: '+ detail of what is compared' }));
    await userEvent.selectOptions(screen.getByLabelText('detail of what is compared'), 'currency');
    await userEvent.selectOptions(screen.getByLabelText('with what'), 'on how many days: heard from us');
    expect(latest).toMatchObject({
      left: { sum: { path: 'items.amount' }, where: [{ path: 'currency', op: 'is filled' }] },
      right: { type: 'from us', days: true },
    });
  });
});
