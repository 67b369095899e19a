import { fireEvent, render, screen } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { placeWords, errorMessage } from '../app/errors';
import { Rehearsal } from '../rules/rehearsal';
import { count, people, signed, times } from './number';
import { Score } from './score';

describe('figures', () => {
  it('carry their sign and their word', () => {
    expect([count(12_345), people(1), people(0), signed(5), signed(-1_200), signed(0), times(1, 'line'), times(2, 'line')]).toEqual([
      '12,345',
      '1 person',
      '0 people',
      '+5',
      '−1,200',
      '0',
      '1 line',
      '2 lines',
    ]);
  });

  it('of a score stand beside a bar with its bands at their limits', () => {
    const { container } = render(
      <Score
        points={81.25}
        band="eager"
        card={{
          min: 0,
          max: 100,
          bands: [
            { key: 'quiet', name: 'quiet', from: 0 },
            { key: 'eager', name: 'eager', from: 60 },
          ],
        }}
        name="Keenness"
      />,
    );
    expect(container).toHaveTextContent('81.3 Keenness, eager');
    expect([...container.querySelectorAll<HTMLElement>('[style]')].map((element) => element.style.width || element.style.left)).toEqual([
      '81.25%',
      '60%',
    ]);
  });
});

describe('errors', () => {
  it('say what happened, what is wanted, and what was kept', () => {
    expect(errorMessage({ status: 'FETCH_ERROR' })).toContain('still here');
    expect(
      errorMessage({
        status: 422,
        data: {
          type: '',
          title: 'Nothing was saved.',
          status: 422,
          code: 'faulty',
          faults: [{ path: ['audiences', 'x'], code: 'c', expected: 'a tag that exists' }],
        },
      }),
    ).toBe('Nothing was saved. Needs a tag that exists.');
    const place = (...path: (string | number)[]) => placeWords(path);
    expect(place('rules', 'welcome', 'then', 0, 'value')).toBe('action 1, value');
    expect(place('audiences', 'glaze', 'condition', 'of', 1, 'of', 0, 'within', 'unit')).toBe('line 2, line 1, the time, unit');
    expect(place('condition', 'of', 2, 'op')).toBe('line 3, how it is compared');
    expect(place('questions', 3, 'options', 1)).toBe('question 4, choice 2');
    expect(errorMessage(undefined)).toBe('Something went wrong.');
  });
});

describe('a rehearsal', () => {
  const result = {
    steps: [
      { words: 'ordered at all', count: 40 },
      { words: 'would be touched', count: 12 },
    ],
    touched: 12,
    changes: { 'tag added': 12, 'membership joined': 3 },
    samples: [{ id: 'x', name: 'Ottoline Farrow', changes: ['+ glaze.ash'], setsOff: ['comes into Keepers'] }],
    pace: { times: 6, of: 'a week, lately' as const },
    everyone: true,
    work: null,
  };
  const shown = (more: object, stale = false) =>
    render(
      <MemoryRouter>
        <Rehearsal result={{ ...result, ...more }} stale={stale} />
      </MemoryRouter>,
    ).container;

  it('says how many would be touched, by what, and that nothing has changed', () => {
    const container = shown({});
    expect(container).toHaveTextContent('nothing has changed yet');
    expect(container).toHaveTextContent('12 now');
    expect(container).toHaveTextContent('12 tags added · 3 come into audiences');
    expect(screen.getByRole('link', { name: 'Ottoline Farrow' })).toHaveAttribute('href', '/people/x');
  });

  it('says that nobody is touched instead of an empty table', () => {
    const container = shown({ touched: 0, changes: {}, samples: [], everyone: false, work: null });
    expect(container).toHaveTextContent('It would have touched nobody yet.');
    expect(screen.queryByRole('table')).not.toBeInTheDocument();
  });

  it('says how often it comes to that only where that is known', () => {
    expect(shown({})).toHaveTextContent('About 6 a week in the last eight weeks.');
    expect(shown({ pace: { times: 1, of: 'the coming week' } })).toHaveTextContent('In the coming seven days the date comes for 1 person.');
    expect(shown({ pace: null })).not.toHaveTextContent('week');
  });

  it('says what it makes for people to do, beside what they have to do already, and how many tasks a day', () => {
    const work = [
      { who: 'sol@test.example', tasks: 12, notices: 0, contacts: 8, open: 31 },
      { who: null, tasks: 0, notices: 1, contacts: 0, open: 0 },
    ];
    const container = shown({ work, pace: { times: 14, of: 'a week, lately' } });
    expect(container).toHaveTextContent('sol@test.example 8 contacts to mind, 12 tasks · 31 tasks open already');
    expect(container).toHaveTextContent('nobody 1 notice');
    expect(container).toHaveTextContent('About 2 tasks a day after that.');
    expect(shown({ work: [] })).not.toHaveTextContent('Work for people');
  });

  it('says that its figures are of some only, and goes through all of them on request, which can be cancelled', () => {
    const [begin, cancel] = [jest.fn(), jest.fn()];
    const part = { done: 2_000, all: 86_600, secondsForAll: 77 };
    const page = (isUnderWay: boolean) => (
      <MemoryRouter>
        <Rehearsal result={{ ...result, part }} stale={false} whole={{ isUnderWay, begin, cancel }} />
      </MemoryRouter>
    );
    const { container, rerender } = render(page(false));
    expect(container).toHaveTextContent(/The figures are of 2.000 only, taken evenly from the 86.600 people it concerns./);
    expect(container).toHaveTextContent('12 of these');
    expect(container).toHaveTextContent('about 1 minute');
    expect(container).not.toHaveTextContent('the figures beside are of all');
    fireEvent.click(screen.getByRole('button', { name: 'Rehearse with all of them' }));
    expect(begin).toHaveBeenCalledTimes(1);
    rerender(page(true));
    expect(screen.getByRole('progressbar', { name: 'Rehearsing with all of them' })).toBeInTheDocument();
    fireEvent.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(cancel).toHaveBeenCalledTimes(1);
  });

  it('says when it is of an older rule, and that a rule from now on leaves the past as it is', () => {
    expect(shown({ everyone: false, work: null }, true)).toHaveTextContent('of the rule before your last change');
    expect(shown({ everyone: false, work: null })).toHaveTextContent('those before stay as they are');
  });
});
