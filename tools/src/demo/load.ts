import { stringify } from 'csv-stringify/sync';
import { type ImportView } from '@eager-sieve/contracts';
import { callsByKey, idle } from '../calls';
import { say, ToldError } from '../say';
import { isFinder, loadTrade, sendSignals } from './doors';
import { SET_UP } from './set-up';
import { RULES } from './set-up/rules';
import { signalsOfDemo } from './signals';
import { CSV_COLUMNS, CSV_MAPPING, csvRows, makeContacts } from './world';

export interface DemoOptions {
  readonly address: string;
  readonly key: string;
  readonly size: number;
  readonly quiet?: boolean;
}

/**
 * Loads the demo into a running installation, all at once, through the same doors as real data: definitions, a CSV import, the signals API and
 * the public form.
 */
export async function loadDemo({ address, key, size, quiet = false }: DemoOptions): Promise<void> {
  const tell = quiet ? () => undefined : say;
  const call = callsByKey(address, key);
  tell(`loading the demo: ${size} contacts`);
  await call('PUT', '/api/v1/definitions', SET_UP);
  const contacts = makeContacts(size);
  const csv = stringify(csvRows(contacts), { header: true, columns: [...CSV_COLUMNS] });
  const options = encodeURIComponent(JSON.stringify({ name: 'fernhollow-customers.csv', mapping: CSV_MAPPING }));
  const imported = await call<ImportView>('POST', `/api/app/imports?options=${options}`, csv, 'text/csv');
  if (imported.state !== 'done') throw new ToldError(`The demo's contacts could not be imported: ${imported.error ?? imported.state}`);
  tell(`${imported.created} contacts in, ${imported.faulty} rows refused`);
  const { companies, links, deals } = await loadTrade(call, contacts);
  tell(`${companies} companies, ${deals} deals`);
  const signals = signalsOfDemo(contacts, links, Date.now());
  const answered = signals.filter(isFinder).slice(-12);
  const sent = signals.filter((signal) => !answered.includes(signal));
  await sendSignals(call, sent);
  for (const signal of answered)
    await call('POST', '/api/public/forms/find-your-clay/answers', {
      submission: crypto.randomUUID(),
      answers: (signal.data as { answers: unknown }).answers,
    });
  tell(`${signals.length} signals in`);
  await idle(call);
  await call('PUT', '/api/v1/definitions', RULES);
  await idle(call);
  tell('everything worked: rules, scores, audiences');
}
