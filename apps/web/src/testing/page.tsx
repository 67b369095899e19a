import { type AnyDefinition } from '@eager-sieve/core';
import {
  capabilities,
  ROUTES,
  type Capability,
  type FeedEvent,
  type Problem,
  type Route,
  type SessionView,
  type TodayView,
} from '@eager-sieve/contracts';
import { act, render } from '@testing-library/react';
import { type ReactNode } from 'react';
import { Provider } from 'react-redux';
import { createMemoryRouter, MemoryRouter, RouterProvider } from 'react-router';
import { z } from 'zod';
import { routes } from '../app/router';
import { makeStore } from '../app/store';
import { aStatus } from './answers';
import { definitions } from './catalogue';

export interface SentRequest {
  readonly path: string;
  readonly query: Readonly<Record<string, string>>;
  readonly body: unknown;
}
type Answer = (asked: SentRequest) => unknown;
/** What the server says, by method and address: `GET /api/app/today`. The last part of an address may be `:id`, which is any. */
export type Answers = Readonly<Record<string, Answer | object>>;

/** An answer that is no success. */
export class Refused {
  constructor(
    readonly status: number,
    readonly problem: Partial<Problem> = {},
  ) {}
}
/** An answer that no server should give: what a page does then. */
export class Malformed {
  constructor(readonly body: unknown) {}
}
/** No answer at all. */
export const SILENT = new Refused(0);

const FLOW: TodayView['flow'] = {
  signals: 1_234,
  tagsAdded: 5,
  tagsRemoved: 2,
  rulesRan: 7,
  bandsCrossed: 3,
  joined: 4,
  left: 1,
  sent: 0,
};
export const TODAY: TodayView = {
  since: '2026-05-01T00:00:00Z',
  contacts: 5_000,
  demo: { state: 'none', day: 0, days: 0 },
  flow: FLOW,
  usual: null,
  moved: [],
  attention: [],
  signalsByHour: [],
};

export const sessionOf = (may: readonly Capability[]): SessionView => ({
  person: { id: 1, email: 'wren@test.example', name: 'Wren', role: 'admin', secondFactor: false, dailyMail: true },
  own: null,
  capabilities: [...may],
  browser: 'b1',
  csrf: 'token',
  workspace: { name: 'Test', timeZone: 'Europe/Stockholm' },
});

export const catalogueView = (extra: readonly AnyDefinition[]) => ({
  workspace: { name: 'Test', timeZone: 'Europe/Stockholm', currency: 'SEK', rates: {}, colour: null },
  epoch: 1,
  definitions: [...definitions, ...extra],
  broken: [],
});

/** The row of a route, by what was asked. */
const rowOf = (method: string, pathname: string): Route | undefined =>
  Object.values<Route>(ROUTES).find(
    (route) => route.method === method && new RegExp(`^${route.path.replaceAll(/\{\w+\}/g, '[^/]+')}$`).test(pathname),
  );

/** How an answer differs from what the row of its route says, or undefined. */
function difference(method: string, pathname: string, said: unknown): string | undefined {
  const row = rowOf(method, pathname);
  if (!row) return 'no route handles it';
  if (!row.answers) return undefined;
  const read = row.answers.safeParse(said);
  if (!read.success) return z.prettifyError(read.error);
  // Reading drops what the schema does not name.
  const kept = new Set(namesOf(read.data));
  const unknown = namesOf(said).filter((name) => !kept.has(name));
  return unknown.length > 0 ? `no such properties: ${unknown.join(', ')}` : undefined;
}
const differing: string[] = [];
afterEach(() => {
  expect(differing.splice(0)).toEqual([]);
});
const namesOf = (value: unknown, at = ''): readonly string[] =>
  typeof value === 'object' && value !== null
    ? Object.entries(value).flatMap(([name, inner]) => (inner === undefined ? [] : [`${at}${name}`, ...namesOf(inner, `${at}${name}.`)]))
    : [];

/** The line to the server on which it tells what moved. */
class Line {
  static readonly CLOSED = 2;
  static open: Line[] = [];
  readyState = 1;
  onopen?: () => void;
  onerror?: () => void;
  onmessage?: (message: { data: string }) => void;
  constructor(readonly address: string) {
    Line.open.push(this);
  }
  close(): void {
    Line.open = Line.open.filter((each) => each !== this);
  }
}
const line = (): Line => {
  const open = Line.open.at(-1);
  if (!open) throw new Error('There is no line to the server.');
  return open;
};
export const feed = {
  lines: (): number => Line.open.length,
  opens: () => act(() => line().onopen?.()),
  tells: (said: Partial<FeedEvent>) =>
    act(() =>
      line().onmessage?.({
        data: JSON.stringify({ contacts: [], more: false, definitions: [], counts: {}, ...said } satisfies FeedEvent),
      }),
    ),
  breaks: (forGood = false) =>
    act(() => {
      if (forGood) line().readyState = Line.CLOSED;
      line().onerror?.();
    }),
};

interface Served {
  /** what the server was asked, by the same names as its answers, the latest last */
  readonly asked: (name: string) => readonly SentRequest[];
}
interface Workspace {
  readonly may?: readonly Capability[];
  readonly more?: readonly AnyDefinition[];
}
interface Opened extends Served {
  /** where the browser is now */
  readonly at: () => string;
}

/** A server that says what the test wants it to say. What is asked beside that is answered as an empty workspace of an administrator would. */
function serve(answers: Answers, { may = capabilities, more = [] }: Workspace): Served {
  const all: Answers = {
    'GET /api/app/session': sessionOf(may),
    'GET /api/app/catalogue': catalogueView(more),
    'GET /api/app/today': TODAY,
    'GET /api/app/people/names': [],
    'GET /api/app/values': { fields: [], details: [], held: [] },
    'GET /api/v1/tasks': { tasks: [], all: 0, late: 0, after: null },
    'GET /api/app/notices': { notices: [], all: 0 },
    'GET /api/app/imports': [],
    'GET /api/v1/status': aStatus(),
    ...answers,
  };
  const log: (SentRequest & { readonly name: string })[] = [];
  const answer = async (request: Request): Promise<Response> => {
    const { pathname, searchParams } = new URL(request.url);
    const exact = `${request.method} ${pathname}`;
    const name = exact in all ? exact : exact.replace(/[^/]+$/, ':id');
    const text = await request.text();
    const asked: SentRequest = {
      path: pathname,
      query: Object.fromEntries(searchParams),
      body: request.headers.get('content-type')?.includes('json') && text !== '' ? JSON.parse(text) : text,
    };
    log.push({ name, ...asked });
    const found = all[name];
    if (found === undefined) throw new Error(`The test has no answer to ${exact}.`);
    const said = typeof found === 'function' ? await (found as Answer)(asked) : found;
    if (said === SILENT) throw new TypeError('no connection');
    if (said instanceof Refused) return Response.json({ title: 'No.', ...said.problem, status: said.status }, { status: said.status });
    if (said instanceof Malformed) return Response.json(said.body);
    const differs = difference(request.method, pathname, said);
    if (differs) differing.push(`${exact}: ${differs}`);
    return said === undefined ? new Response(null, { status: 204 }) : Response.json(said);
  };
  Line.open = [];
  Object.assign(globalThis, { fetch: answer, EventSource: Line });
  return { asked: (name) => log.filter((each) => each.name === name) };
}

// What comes from the server comes when it comes, as in a browser: tests wait for what they want to see.
const waits = (): unknown => Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: false });

/** Opens the whole application at an address. */
export function openPage(address: string, answers: Answers = {}, workspace: Workspace = {}): Opened {
  const served = serve(answers, workspace);
  const router = createMemoryRouter(routes, { initialEntries: [address] });
  render(
    <Provider store={makeStore()}>
      <RouterProvider router={router} />
    </Provider>,
  );
  waits();
  return { ...served, at: () => `${router.state.location.pathname}${router.state.location.search}` };
}

/** Shows a part of the interface alone. */
export function openPart(part: ReactNode, answers: Answers = {}, workspace: Workspace = {}): Served {
  const served = serve(answers, workspace);
  render(
    <Provider store={makeStore()}>
      <MemoryRouter>{part}</MemoryRouter>
    </Provider>,
  );
  return served;
}
