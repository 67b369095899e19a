import { once } from 'node:events';
import { type ContactView, type SignalsAnswer } from '@eager-sieve/contracts';
import { loadDemo } from '../demo/load';
import { DEMO_PEOPLE } from '../demo/people';
import { say } from '../say';
import { median, quantile } from './figures';
import { indexReady } from './index-ready';

const ROUNDS = 60;

/** A small workspace, the demo: how long from a signal to the changed membership on an open page, and how long an exact count takes. */
export async function pageDelay(address: string, key: string, contacts: number): Promise<void> {
  await loadDemo({ address, key, size: contacts });
  const [person] = DEMO_PEOPLE;
  const signedIn = await fetch(`${address}/api/app/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: person.email, password: person.password }),
  });
  const cookie = (signedIn.headers.get('set-cookie') ?? '').split(';')[0] ?? '';
  const times = await fromSignalToPage(address, key, cookie);
  say(
    `signal posted → open page told of the changed membership, ${ROUNDS} rounds: median ${median(times.told).toFixed(0)} ms, p95 ${quantile(times.told, 0.95).toFixed(0)} ms (wanted: median 300 ms)`,
  );
  say(`signal posted → accepted: median ${median(times.accepted).toFixed(0)} ms`);
  await indexReady(address, key);
  const count = await counting(address, key);
  say(
    `exact count of a four-line audience: median ${median(count.count).toFixed(0)} ms; with its sieve: median ${median(count.sieve).toFixed(0)} ms`,
  );
}

/** Each round: a new contact orders glaze, and the audience of glaze buyers' page hears of it and is asked again. */
async function fromSignalToPage(address: string, key: string, cookie: string): Promise<{ told: number[]; accepted: number[] }> {
  const told: number[] = [];
  const accepted: number[] = [];
  const events = await fetch(`${address}/api/app/events`, { headers: { cookie } });
  const reader = (events.body as ReadableStream<Uint8Array>).getReader();
  const decoder = new TextDecoder();
  const heard = new EventTarget();
  void (async () => {
    for (;;) {
      const { value, done } = await reader.read().catch(() => ({ value: undefined, done: true }));
      if (done) return;
      if (decoder.decode(value).includes('"joined"')) heard.dispatchEvent(new Event('joined'));
    }
  })();
  for (let round = 0; round < ROUNDS; round += 1) {
    const email = `bench-${round}@lantern.example`;
    const begin = performance.now();
    const joined = once(heard, 'joined');
    const response = await fetch(`${address}/api/v1/signals`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/cloudevents+json' },
      body: JSON.stringify({
        specversion: '1.0',
        source: 'bench',
        id: `bench-${round}`,
        type: 'consent.given',
        subject: email,
        data: { channel: 'email' },
      }),
    });
    const answer = (await response.json()) as SignalsAnswer;
    if (answer.accepted !== 1) throw new Error(`not accepted: ${JSON.stringify(answer)}`);
    accepted.push(performance.now() - begin);
    await joined;
    const contact = (await (
      await fetch(`${address}/api/v1/contacts/${email}`, { headers: { authorization: `Bearer ${key}` } })
    ).json()) as ContactView;
    if (!contact.audiences.some((audience) => audience.key === 'reachable')) throw new Error('told of a membership that is not there');
    told.push(performance.now() - begin);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  await reader.cancel();
  return { told, accepted };
}

async function counting(address: string, key: string): Promise<{ count: number[]; sieve: number[] }> {
  const headers = { authorization: `Bearer ${key}`, 'content-type': 'application/json' };
  const document = (await (await fetch(`${address}/api/v1/definitions`, { headers })).json()) as {
    audiences: { key: string; condition: unknown }[];
  };
  const condition = document.audiences.find((audience) => audience.key === 'glaze-keepers')?.condition;
  const times = { count: [] as number[], sieve: [] as number[] };
  for (let round = 0; round < 20; round += 1) {
    for (const sieve of [false, true]) {
      const begin = performance.now();
      await (
        await fetch(`${address}/api/v1/audiences/count`, { method: 'POST', headers, body: JSON.stringify({ condition, sieve }) })
      ).json();
      times[sieve ? 'sieve' : 'count'].push(performance.now() - begin);
    }
  }
  return times;
}
