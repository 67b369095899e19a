import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { type RuleAction } from '@eager-sieve/core';
import { catalogue } from '../testing/catalogue';
import { Actions } from './actions';
import { openPart } from '../testing/page';
import { detailsOfAny, detailsOfRule, SignalDetails, textsOfAll } from './signal-details';

const typeId = (key: string): number => catalogue.find('signalType', key)?.id ?? -1;
const field = catalogue.all('field').find((each) => each.body.of === 'contact' && each.body.type === 'text')?.id ?? -1;
const setField: RuleAction = { do: 'set field', field, value: 'x' };

describe('what an action takes from the signal', () => {
  it('is picked among the details that the signal has', async () => {
    const changed: RuleAction[][] = [];
    const details = detailsOfRule({ kind: 'signal', type: typeId('order.placed') }, catalogue);
    openPart(
      <SignalDetails value={details}>
        <Actions
          actions={[{ do: 'set field', field, value: { detail: 'order' } }]}
          catalogue={catalogue}
          onChange={(next) => changed.push(next)}
        />
      </SignalDetails>,
    );
    const picker = screen.getByLabelText(/^Detail of /);
    expect(
      within(picker)
        .getAllByRole('option')
        .map((each) => each.textContent),
    ).toEqual(['order', 'amount', 'currency']);
    await userEvent.selectOptions(picker, 'currency');
    expect(changed.at(-1)).toEqual([{ do: 'set field', field, value: { detail: 'currency' } }]);
  });

  it('is not offered where no signal sets the rule off', () => {
    openPart(
      <SignalDetails value={detailsOfRule({ kind: 'becomes', condition: { match: 'all', of: [] } }, catalogue)}>
        <Actions actions={[setField]} catalogue={catalogue} onChange={() => undefined} />
      </SignalDetails>,
    );
    expect(screen.queryByLabelText(/^Where the value/)).not.toBeInTheDocument();
    expect(screen.getByLabelText(/^Value of /)).toHaveValue('x');
  });

  it('can in a bundle be a detail of any signal, each named once', () => {
    const paths = detailsOfAny(catalogue).map(([path]) => path);
    expect(paths).toEqual(expect.arrayContaining(['order', 'plan', 'event']));
    expect(new Set(paths).size).toBe(paths.length);
  });
});

describe('what rows of a map are found by', () => {
  it('is a text that each of its signals has', () => {
    expect(textsOfAll([typeId('order.placed')], catalogue)).toEqual(['order', 'items.product', 'items.line', 'currency']);
    expect(textsOfAll([typeId('plan.started'), typeId('plan.lapsed')], catalogue)).toEqual(['plan']);
    expect(textsOfAll([typeId('order.placed'), typeId('plan.lapsed')], catalogue)).toEqual([]);
  });
});
