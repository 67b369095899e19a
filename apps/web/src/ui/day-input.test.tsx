import { fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { DayInput } from './day-input';
import { showTimesIn } from './when';

const NOW = Date.UTC(2026, 10, 28, 10);
let kept: string[];

function Held({ first = '', max }: { first?: string; max?: string }) {
  const [day, setDay] = useState(first);
  return (
    <DayInput
      label="Due"
      value={day}
      max={max}
      onChange={(next) => {
        kept.push(next);
        setDay(next);
      }}
    />
  );
}
const input = () => screen.getByRole('textbox', { name: 'Due' });

beforeEach(() => {
  kept = [];
  showTimesIn('Europe/Stockholm');
  jest.spyOn(Date, 'now').mockReturnValue(NOW);
});
afterEach(() => jest.restoreAllMocks());

describe('a day to be set', () => {
  it('is taken in words, and said back as it was understood', async () => {
    render(<Held />);
    await userEvent.type(input(), '3 weeks ago');
    expect(screen.getByRole('status')).toHaveTextContent('7 Nov 2026');
    expect(kept).toEqual(['2026-11-07']);
    await userEvent.tab();
    expect(input()).toHaveValue('7 Nov 2026');
    expect(screen.queryByRole('status')).toBeNull();
  });

  it('keeps the day before while it cannot read what is typed, and says so', async () => {
    render(<Held first="2026-05-01" />);
    expect(input()).toHaveValue('1 May 2026');
    await userEvent.clear(input());
    await userEvent.type(input(), 'someday');
    expect(input()).toBeInvalid();
    expect(screen.getByRole('status')).toHaveTextContent('Which day? Try “1 May” or “3 weeks ago”.');
    await userEvent.keyboard('{Escape}');
    expect(kept).toEqual(['']);
  });

  it('does not send a form with what it cannot read', async () => {
    const onSubmit = jest.fn((event: { preventDefault: () => void }) => event.preventDefault());
    render(
      <form onSubmit={onSubmit}>
        <Held first="2026-05-01" />
        <button>Keep</button>
      </form>,
    );
    await userEvent.type(input(), 'soon{Enter}');
    expect(onSubmit).not.toHaveBeenCalled();
    await userEvent.clear(input());
    await userEvent.type(input(), 'tomorrow{Enter}');
    expect(onSubmit).toHaveBeenCalledTimes(1);
    expect(kept.at(-1)).toBe('2026-11-29');
  });

  it('takes no day behind the last that can be picked', async () => {
    render(<Held first="2026-11-01" max="2026-11-28" />);
    await userEvent.clear(input());
    await userEvent.type(input(), 'tomorrow');
    expect(screen.getByRole('status')).toHaveTextContent('That day is still to come.');
    expect(kept).toEqual(['']);
  });

  it('is picked in a calendar as well', async () => {
    const { container } = render(<Held first="2026-05-01" />);
    const calendar = container.querySelector<HTMLInputElement>('input[type=date]');
    if (!calendar) throw new Error('no calendar');
    calendar.showPicker = jest.fn();
    await userEvent.click(screen.getByRole('button', { name: 'Pick a day in a calendar' }));
    expect(calendar.showPicker).toHaveBeenCalled();
    fireEvent.change(calendar, { target: { value: '2026-06-02' } });
    expect(input()).toHaveValue('2 June 2026');
  });
});
