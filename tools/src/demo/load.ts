import { stringify } from 'csv-stringify/sync';
import {
  type CloudEvent,
  type ImportView,
  type PutCompaniesAnswer,
  type PutContactsAnswer,
  type PutDealsAnswer,
  type SignalsAnswer,
  type Status,
} from '@eager-sieve/contracts';
import { say, ToldError } from '../say';
import { SET_UP } from './set-up';
import { RULES } from './set-up/rules';
import { makeCompanies, makeDeals, makeLinks, makeTradeSignals } from './trade';
import { CSV_COLUMNS, CSV_MAPPING, csvRows, makeContacts, makeSignals } from './world';

export interface DemoOptions {
  readonly address: string;
  readonly key: string;
  readonly size: number;
  readonly quiet?: boolean;
}

/** Loads the demo through the same doors as real data: definitions, a CSV import, the signals API and the public form. */
export async function loadDemo({ address, key, size, quiet = false }: DemoOptions): Promise<void> {
  const tell = quiet ? () => undefined : say;
  const call = async <Answer>(method: string, path: string, body: unknown, type = 'application/json'): Promise<Answer> => {
    const response = await fetch(`${address}${path}`, {
      method,
      headers: { authorization: `Bearer ${key}`, ...(body === undefined ? {} : { 'content-type': type }) },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    if (!response.ok)
      throw new ToldError(
        `The demo could not be loaded: ${method} ${path} answered ${response.status}: ${(await response.text()).slice(0, 2_000)}`,
      );
    return (response.status === 204 ? undefined : await response.json()) as Answer;
  };
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
  const signals = [...makeSignals(contacts, Date.now()), ...makeTradeSignals(contacts, links, Date.now())];
  const answered = signals.filter((signal) => signal.type === 'form.answered' && isFinder(signal)).slice(-12);
  const sent = signals.filter((signal) => !answered.includes(signal));
  for (let start = 0; start < sent.length; start += 1_000) {
    const answer = await call<SignalsAnswer>(
      'POST',
      '/api/v1/signals',
      sent.slice(start, start + 1_000),
      'application/cloudevents-batch+json',
    );
    if (answer.rejected.length > 0) throw new ToldError(`A signal of the demo was refused: ${JSON.stringify(answer.rejected[0])}`);
  }
  for (const signal of answered) await call('POST', '/api/public/forms/find-your-clay/answers', formAnswer(signal));
  tell(`${signals.length} signals in`);
  await idle(call);
  await call('PUT', '/api/v1/definitions', RULES);
  await idle(call);
  tell('everything worked: rules, scores, audiences');
}

const isFinder = (signal: CloudEvent): boolean => (signal.data as { form?: string }).form === 'find-your-clay';

function formAnswer(signal: CloudEvent): { submission: string; answers: unknown } {
  return { submission: crypto.randomUUID(), answers: (signal.data as { answers: unknown }).answers };
}

type Call = <Answer>(method: string, path: string, body: unknown) => Promise<Answer>;
const BATCH = 1_000;

/** The trade: companies, who is at which, and their deals. */
async function loadTrade(
  call: Call,
  contacts: ReturnType<typeof makeContacts>,
): Promise<{ companies: number; links: ReturnType<typeof makeLinks>; deals: number }> {
  const companies = makeCompanies(contacts.length);
  const links = makeLinks(contacts, companies);
  const deals = makeDeals(links);
  const refused = (results: readonly { status: string; faults?: unknown }[]): void => {
    const bad = results.find((result) => result.status === 'rejected');
    if (bad) throw new ToldError(`Something of the demo's trade was refused: ${JSON.stringify(bad)}`);
  };
  for (let start = 0; start < companies.length; start += BATCH)
    refused((await call<PutCompaniesAnswer>('PUT', '/api/v1/companies', { companies: companies.slice(start, start + BATCH) })).results);
  for (let start = 0; start < links.length; start += BATCH)
    refused((await call<PutContactsAnswer>('PUT', '/api/v1/contacts', { contacts: links.slice(start, start + BATCH) })).results);
  for (let start = 0; start < deals.length; start += BATCH)
    refused((await call<PutDealsAnswer>('PUT', '/api/v1/deals', { deals: deals.slice(start, start + BATCH) })).results);
  return { companies: companies.length, links, deals: deals.length };
}

async function idle(call: Call): Promise<void> {
  for (;;) {
    const status = await call<Status>('GET', '/api/v1/status', undefined);
    if (status.idle) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}
