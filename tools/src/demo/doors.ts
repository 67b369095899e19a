import {
  type CloudEvent,
  type DealWrite,
  type PutCompaniesAnswer,
  type PutContactsAnswer,
  type PutDealsAnswer,
  type SignalsAnswer,
} from '@eager-sieve/contracts';
import { callsOf, type Call } from '../calls';
import { ToldError } from '../say';
import { makeCompanies, makeDeals, makeDealSteps, makeLinks } from './trade';
import { type makeContacts } from './world';

export interface SignIn {
  readonly email: string;
  readonly password: string;
}

/** Signs somebody in, as their browser does. */
export async function sessionOf(address: string, { email, password }: SignIn): Promise<Call> {
  const response = await fetch(`${address}/api/app/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password }),
  });
  if (!response.ok) throw new ToldError(`${email} could not be signed in: ${response.status}.`);
  const { csrf } = (await response.json()) as { csrf: string };
  return callsOf(address, { cookie: response.headers.getSetCookie()[0]?.split(';')[0] ?? '', 'x-csrf-token': csrf });
}

const BATCH = 1_000;

export async function sendSignals(call: Call, signals: readonly CloudEvent[]): Promise<void> {
  for (let start = 0; start < signals.length; start += BATCH) {
    const batch = signals.slice(start, start + BATCH);
    const answer = await call<SignalsAnswer>('POST', '/api/v1/signals', batch, 'application/cloudevents-batch+json');
    if (answer.rejected.length > 0) throw new ToldError(`A signal of the demo was refused: ${JSON.stringify(answer.rejected[0])}`);
  }
}

/**
 * The trade: companies, who is at which, and their deals.
 *
 * @param days over which the deals move to where they end; without it they are there at once
 */
export async function loadTrade(
  call: Call,
  contacts: ReturnType<typeof makeContacts>,
  days?: number,
): Promise<{ companies: number; links: ReturnType<typeof makeLinks>; deals: number; steps: ReturnType<typeof makeDealSteps> }> {
  const companies = makeCompanies(contacts.length);
  const links = makeLinks(contacts, companies);
  const deals = makeDeals(links);
  const steps = days === undefined ? new Map([[0, deals]]) : makeDealSteps(deals, days);
  for (let start = 0; start < companies.length; start += BATCH)
    refused((await call<PutCompaniesAnswer>('PUT', '/api/v1/companies', { companies: companies.slice(start, start + BATCH) })).results);
  for (let start = 0; start < links.length; start += BATCH)
    refused((await call<PutContactsAnswer>('PUT', '/api/v1/contacts', { contacts: links.slice(start, start + BATCH) })).results);
  await putDeals(call, steps.get(0) ?? []);
  return { companies: companies.length, links, deals: deals.length, steps };
}

export async function putDeals(call: Call, deals: readonly DealWrite[]): Promise<void> {
  for (let start = 0; start < deals.length; start += BATCH)
    refused((await call<PutDealsAnswer>('PUT', '/api/v1/deals', { deals: deals.slice(start, start + BATCH) })).results);
}

function refused(results: readonly { status: string; faults?: unknown }[]): void {
  const bad = results.find((result) => result.status === 'rejected');
  if (bad) throw new ToldError(`Something of the demo's trade was refused: ${JSON.stringify(bad)}`);
}

export const isFinder = (signal: CloudEvent): boolean =>
  signal.type === 'form.answered' && (signal.data as { form?: string }).form === 'find-your-clay';
