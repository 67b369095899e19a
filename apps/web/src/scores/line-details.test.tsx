import { scoreLineWords, type ScoreLine } from '@eager-sieve/core';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { catalogue, signalType } from '../testing/catalogue';
import { openPart } from '../testing/page';
import { LineDetails } from './line-details';

let latest: ScoreLine;
function Holder({ initial }: { initial: ScoreLine }) {
  const [line, setLine] = useState(initial);
  return (
    <LineDetails
      line={line}
      of="contact"
      catalogue={catalogue}
      onChange={(next) => {
        latest = next;
        setLine(next);
      }}
    />
  );
}
const activity: ScoreLine = {
  key: 'orders',
  kind: 'activity',
  type: signalType('order.placed'),
  points: 10,
  counts: 'every time',
  keeps: 'forever',
};
const pick = (label: string, choice: string) => userEvent.selectOptions(screen.getByLabelText(label), choice);

describe('a line of activity', () => {
  it.each([
    ['only the first time', 'once'],
    ['up to so often in all', { upTo: 1, per: 'all' }],
    ['up to so often a day', { upTo: 1, per: 'day' }],
    ['up to so often a week', { upTo: 1, per: 'week' }],
    ['up to so often a month', { upTo: 1, per: 'month' }],
    ['by steps', { steps: [{ at: 1, points: 10 }] }],
  ])('counts %s', async (words, counts) => {
    openPart(<Holder initial={activity} />);
    await pick('How often it counts', words);
    expect(latest).toMatchObject({ counts });
    await pick('How often it counts', 'every time');
    expect(latest).toMatchObject({ counts: 'every time' });
  });

  it('keeps how often when the period is another, and never counts less than once', async () => {
    openPart(<Holder initial={{ ...activity, counts: { upTo: 3, per: 'day' } }} />);
    await pick('How often it counts', 'up to so often a month');
    expect(latest).toMatchObject({ counts: { upTo: 3, per: 'month' } });
    await userEvent.clear(screen.getByLabelText('Up to how often'));
    expect(latest).toMatchObject({ counts: { upTo: 1, per: 'month' } });
  });

  it('has its steps added, changed and taken away, but for the last', async () => {
    openPart(<Holder initial={{ ...activity, counts: { steps: [{ at: 3, points: 10 }] } }} />);
    expect(screen.queryByRole('button', { name: 'Remove step 1' })).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: '+ step' }));
    expect(latest).toMatchObject({
      counts: {
        steps: [
          { at: 3, points: 10 },
          { at: 4, points: 10 },
        ],
      },
    });
    await userEvent.clear(screen.getByLabelText('Points of step 2'));
    await userEvent.type(screen.getByLabelText('Points of step 2'), '25');
    expect(latest).toMatchObject({ counts: { steps: [{ at: 3 }, { at: 4, points: 25 }] } });
    await userEvent.click(screen.getByRole('button', { name: 'Remove step 1' }));
    expect(latest).toMatchObject({ counts: { steps: [{ at: 4, points: 25 }] } });
  });

  it('keeps its points for ever, drops them, or halves them, after so many days', async () => {
    openPart(<Holder initial={activity} />);
    expect(screen.queryByLabelText('Days')).not.toBeInTheDocument();
    await pick('How long its points stay', 'dropped after');
    expect(latest).toMatchObject({ keeps: { dropAfter: 90 } });
    await userEvent.clear(screen.getByLabelText('Days'));
    await userEvent.type(screen.getByLabelText('Days'), '30');
    await pick('How long its points stay', 'halved at midnight, every');
    // What is typed into a number that may not be empty stands after the one that it fell back to.
    expect(latest).toMatchObject({ keeps: { halveEvery: 130 } });
    await pick('How long its points stay', 'kept for ever');
    expect(latest).toMatchObject({ keeps: 'forever' });
  });

  it('asks for details of what happened, and forgets them with another type', async () => {
    openPart(<Holder initial={activity} />);
    await userEvent.click(screen.getByRole('button', { name: '+ detail' }));
    expect(latest).toMatchObject({ where: [expect.anything()] });
    expect(scoreLineWords(latest, catalogue)).toContain('(order is known)');
    await pick('What has to happen', 'visited a page');
    expect(latest).toMatchObject({ type: signalType('page.visited') });
    expect('where' in latest).toBe(false);
  });
});

describe('a line of facts', () => {
  it('stands while its conditions hold, or for good once they have held', async () => {
    openPart(<Holder initial={{ key: 'ash', kind: 'fact', condition: { kind: 'tag', tag: 3, op: 'has' }, points: 5, stands: 'while' }} />);
    await pick('How long it stands', 'for ever once it has held');
    expect(latest).toMatchObject({ stands: 'once held' });
    await userEvent.click(screen.getByRole('button', { name: 'turn round' }));
    expect(latest).toMatchObject({ condition: { match: 'all', of: [{ tag: 3, op: 'lacks' }] } });
  });
});
