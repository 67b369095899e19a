import { type WatchedPlaces, type WatchView } from '@eager-sieve/contracts';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';

const PLACES: WatchedPlaces = {
  folder: '/srv/incoming',
  files: [{ name: 'guild.csv', bytes: 52, changedAt: '2026-05-01T08:00:00Z' }],
  hosts: [],
};
const HEAD = { name: 'guild.csv', bytes: 52, head: btoa('mail;town\nanna@place.example;Mill End\n') };
const LAST = {
  ...{ id: 12, name: 'Guild', state: 'done' as const, bytes: 52, bytesRead: 52, stored: 0, canGoOn: false },
  ...{ rows: 3, created: 2, updated: 1, unchanged: 0, faulty: 0, faults: [], error: null, by: 'ada' },
  ...{ startedAt: '2026-05-01T08:00:00Z', finishedAt: '2026-05-01T08:00:01Z' },
};
const WATCH: WatchView = {
  ...{ id: 3, name: 'Guild', isOn: true, place: { kind: 'file', name: 'guild.csv' }, timetable: { everyMinutes: 15 } },
  options: {
    ...{ name: 'guild.csv', of: 'contact', fires: false, format: 'csv', matchBy: 'email', onExisting: 'update', emptyCells: 'keep' },
    ...{ separator: ';', encoding: 'utf-8', dates: 'year first', addTags: ['glaze.ash'], mapping: { email: 'mail' } },
  },
  gone: { takeOff: true },
  login: null,
  ...{ readAt: '2026-05-01T08:00:00Z', nextAt: '2026-05-01T08:15:00Z', error: null, people: 3, held: 0, heldNames: [], last: LAST },
};
const [LOOK, MAKE, CHANGE] = ['POST /api/app/watches/look', 'POST /api/app/watches', 'PUT /api/app/watches/3'];
const served = { 'GET /api/app/watched-places': PLACES, [LOOK]: HEAD };
const open = (watch: WatchView, more: object = {}) =>
  openPage('/intake/watched/3', { ...served, 'GET /api/app/watches/3': watch, ...more });

describe('a watched file', () => {
  it('is chosen in the folder, read as it looks, and watched by a timetable', async () => {
    const { asked, at } = openPage('/intake/watched/new', {
      ...served,
      [MAKE]: { id: 3 },
      'GET /api/app/watches/3': WATCH,
    });
    await userEvent.type(await screen.findByLabelText('Name'), 'Guild');
    await userEvent.selectOptions(await screen.findByLabelText('The file'), 'guild.csv');
    await userEvent.click(screen.getByRole('button', { name: 'Look into it' }));
    expect(await screen.findByLabelText('Column mail goes to')).toHaveDisplayValue('email address');
    await userEvent.selectOptions(screen.getByLabelText('It is looked at'), 'once a day');
    await userEvent.selectOptions(screen.getByLabelText('Hour'), 'at 5:00');
    expect(screen.getByLabelText(/loses the tags and the list/)).toBeDisabled();
    await userEvent.selectOptions(screen.getByLabelText('Add a tag for all rows'), 'glaze.ash');
    await userEvent.click(screen.getByLabelText(/loses the tags and the list/));
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(at()).toBe('/intake/watched/3'));
    expect(asked(MAKE)[0]?.body).toMatchObject({
      name: 'Guild',
      place: { kind: 'file', name: 'guild.csv' },
      timetable: { hour: 5 },
      gone: { takeOff: true },
      options: { separator: ';', mapping: { email: 'mail' }, addTags: ['glaze.ash'] },
    });
  });

  it('takes a login for an address, and keeps a password that is known without showing it', async () => {
    const place = { kind: 'address' as const, url: 'http://localhost:5232/members.csv' };
    const { asked } = open({ ...WATCH, place, login: { user: 'guild' } }, { [CHANGE]: () => undefined });
    expect(await screen.findByLabelText('Password')).toHaveAttribute('placeholder', 'stays as it is');
    await waitFor(() => expect(asked(LOOK)[0]?.body).toEqual({ place, login: { user: 'guild' }, watch: 3 }));
    await userEvent.type(screen.getByLabelText('Password'), 'clay');
    await userEvent.click(screen.getByRole('button', { name: 'Look into it' }));
    await waitFor(() => expect(asked(LOOK)[1]?.body).toEqual({ place, login: { user: 'guild', password: 'clay' }, watch: 3 }));
    await userEvent.clear(screen.getByLabelText('Password'));
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(asked(CHANGE)[0]?.body).toMatchObject({ place, login: { user: 'guild' } }));
    await userEvent.clear(screen.getByLabelText('User, if it wants a login'));
    expect(screen.queryByLabelText('Password')).not.toBeInTheDocument();
  });

  it('shows how it is read, and what the last reading did; a change of it is kept', async () => {
    const { asked } = open(WATCH, { [CHANGE]: () => undefined });
    expect(await screen.findByText(/3 people in it/)).toBeInTheDocument();
    expect(screen.getByText(/2 new, 1 brought up to date, 0 left as they were, 0 refused/)).toBeInTheDocument();
    expect(await screen.findByLabelText('Column mail goes to')).toHaveDisplayValue('email address');
    expect(screen.getByLabelText('Column town goes to')).toHaveDisplayValue('leave out');
    expect(screen.getByRole('button', { name: 'Keep' })).toBeDisabled();
    await userEvent.selectOptions(screen.getByLabelText('It is looked at'), 'every hour');
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    expect(await screen.findByText('Guild is kept, and is read anew.')).toBeInTheDocument();
    expect(asked(CHANGE)[0]?.body).toMatchObject({ timetable: { everyMinutes: 60 }, options: { mapping: { email: 'mail' } } });
  });

  it('from which many are gone asks whether that is right', async () => {
    let held = 40;
    const ANSWER = 'POST /api/app/watches/3/gone';
    const { asked } = openPage('/intake/watched/3', {
      ...served,
      'GET /api/app/watches/3': () => ({ ...WATCH, held, heldNames: held > 0 ? ['Anna Moss', 'Bo Reed'] : [] }),
      [ANSWER]: () => void (held = 0),
    });
    const question = within(await screen.findByRole('status', { name: 'Gone from the file' }));
    expect(question.getByText(/Not found in the file any more: 40 of 43 people/)).toBeInTheDocument();
    expect(question.getByText('Anna Moss, Bo Reed and 38 more')).toBeInTheDocument();
    await userEvent.click(question.getByRole('button', { name: 'They stay as they are' }));
    await waitFor(() => expect(screen.queryByRole('status', { name: 'Gone from the file' })).not.toBeInTheDocument());
    expect(asked(ANSWER)[0]?.body).toEqual({ act: false });
  });

  it('that cannot be read says why, and its timetable can still be changed', async () => {
    const { asked } = open(
      { ...WATCH, error: 'There is no file guild.csv in the watched folder.' },
      { [LOOK]: new Refused(422, { title: 'There is no file guild.csv in the watched folder.' }), [CHANGE]: () => undefined },
    );
    expect(await screen.findByRole('alert')).toHaveTextContent('There is no file guild.csv in the watched folder.');
    await userEvent.click(screen.getByLabelText('It is looked at by its timetable'));
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(asked(CHANGE)[0]?.body).toMatchObject({ isOn: false, options: { mapping: { email: 'mail' } } }));
  });

  it('may lie at an address', async () => {
    const { asked } = openPage('/intake/watched/new', served);
    await userEvent.selectOptions(await screen.findByLabelText('It lies'), 'at an address');
    await userEvent.type(screen.getByLabelText('The address'), 'http://localhost:5232/members.vcf');
    await userEvent.click(screen.getByRole('button', { name: 'Look into it' }));
    await screen.findByLabelText('Column mail goes to');
    expect(asked(LOOK)[0]?.body).toEqual({ place: { kind: 'address', url: 'http://localhost:5232/members.vcf' } });
  });
});
