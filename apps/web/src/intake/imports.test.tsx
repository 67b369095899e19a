import { type ImportView } from '@eager-sieve/contracts';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { anImport } from '../testing/answers';
import { openPart, Refused, type Answers } from '../testing/page';
import { Imports } from './imports';

/** One that is under way, half of it stored. */
const run = (said: Partial<ImportView> = {}): ImportView =>
  anImport({ id: 1, bytes: 24, bytesRead: 12, stored: 12, created: 1_200, updated: 3, faulty: 12, ...said });
const stopped = run({ state: 'failed', canGoOn: true, error: 'The upload was cut.' });
const REST = 'POST /api/app/imports/1/rest';
const goOn = (): Promise<HTMLElement> => screen.findByLabelText('Go on with the same file');
const file = (name: string, text = 'mail\na@test.example\nb@test.example\n'.slice(0, 24)): File =>
  new File([text], name, { type: 'text/csv' });
const open = (imports: readonly ImportView[], answers: Answers = {}) =>
  openPart(<Imports />, { 'GET /api/app/imports': imports, ...answers });

describe('the list of imports', () => {
  it('says so where there is none', async () => {
    open([]);
    expect(await screen.findByText('Nothing has been imported yet.')).toBeInTheDocument();
  });

  it('shows how far one is, and cancels it', async () => {
    const { asked } = open([run()], { 'DELETE /api/app/imports/1': run({ state: 'cancelled' }) });
    expect(await screen.findByRole('progressbar', { name: 'Progress of all.csv' })).toHaveAttribute('value', '12');
    expect(screen.getByText(/1,200 new, 3 changed, 12 refused/)).toBeInTheDocument();
    await userEvent.click(await screen.findByRole('button', { name: 'Cancel' }));
    expect(asked('DELETE /api/app/imports/1')).toHaveLength(1);
  });

  it('says why one stopped, and sends what is missing of the same file', async () => {
    const { asked } = open([stopped], { [REST]: run({ state: 'done' }) });
    expect(await screen.findByText('The upload was cut.')).toBeInTheDocument();
    const same = file('all.csv');
    const cut = jest.spyOn(same, 'slice');
    await userEvent.upload(await goOn(), same);
    await waitFor(() => expect(asked(REST)).toHaveLength(1));
    expect(asked(REST)[0]?.query).toEqual({ from: '12' });
    expect(cut).toHaveBeenCalledWith(12);
  });

  it.each([file('other.csv'), file('all.csv', 'mail\n')])('does not go on with another file', async (other) => {
    const { asked } = open([stopped], { [REST]: run() });
    await screen.findByText('The upload was cut.');
    await userEvent.upload(await goOn(), other);
    expect(await screen.findByText('That is not the file that stopped: it was all.csv, 24 bytes.')).toBeInTheDocument();
    expect(asked(REST)).toEqual([]);
  });

  it('says why it could not go on', async () => {
    open([stopped], { [REST]: new Refused(409, { title: 'Somebody else goes on with it.' }) });
    await screen.findByText('The upload was cut.');
    await userEvent.upload(await goOn(), file('all.csv'));
    expect(await screen.findByText('Somebody else goes on with it.')).toBeInTheDocument();
  });

  it('offers nothing to who may only read', async () => {
    openPart(<Imports />, { 'GET /api/app/imports': [stopped, run({ id: 2 })] }, { may: ['contacts:read'] });
    await screen.findByText('The upload was cut.');
    expect(screen.queryByRole('button')).not.toBeInTheDocument();
    expect(screen.queryByLabelText('Go on with the same file')).not.toBeInTheDocument();
  });
});
