import { type AudienceView, type CountAnswer, type ImportView, type LedgerRow, type Status } from '@eager-sieve/contracts';

/** Whole answers of the server, for tests that care for a part of them. */
export const anAudience = (said: Partial<AudienceView> = {}): AudienceView => ({
  key: 'experienced',
  name: 'Experienced',
  kind: 'live',
  of: 'contact',
  team: null,
  version: 1,
  sentence: '',
  members: 12,
  reachable: 9,
  came: 2,
  left: 1,
  pinned: { in: 0, out: 0 },
  building: false,
  broken: false,
  ...said,
});

export const aCount = (said: Partial<CountAnswer> = {}): CountAnswer => ({
  count: 0,
  of: 0,
  reachable: 0,
  asOf: '2026-05-01T08:00:00Z',
  ...said,
});

export const anImport = (said: Partial<ImportView> = {}): ImportView => ({
  id: 9,
  name: 'all.csv',
  state: 'running',
  bytes: 1_000,
  bytesRead: 250,
  stored: 0,
  canGoOn: false,
  rows: 1_200,
  created: 1_000,
  updated: 150,
  unchanged: 50,
  faulty: 0,
  faults: [],
  error: null,
  startedAt: '2026-05-01T08:00:00Z',
  finishedAt: null,
  by: 'wren@test.example',
  ...said,
});

export const aStatus = (said: Partial<Status> = {}): Status => ({
  version: 'test',
  idle: true,
  backlog: 0,
  oldestWaitingSeconds: null,
  workers: 1,
  builds: [],
  sweeps: [],
  takeBacks: [],
  countingIndex: 'ready',
  waitingForRates: [],
  ...said,
});

export const aLedgerRow = (said: Partial<LedgerRow> = {}): LedgerRow => ({
  id: 1,
  at: '2026-05-01T08:00:00Z',
  contact: null,
  contactName: null,
  company: null,
  companyName: null,
  kind: 'tag',
  verb: 'added',
  words: '',
  thing: null,
  thingName: null,
  before: null,
  after: null,
  cause: { kind: 'person', ref: 'wren@test.example', words: 'by wren@test.example' },
  rule: null,
  ruleVersion: null,
  parent: null,
  ...said,
});
