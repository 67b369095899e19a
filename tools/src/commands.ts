import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { type ParseArgsConfig } from 'node:util';
import { type DefinitionsAnswer } from '@eager-sieve/contracts';
import { bench, quickBench, soakBench } from './bench';
import { readBackup, writeBackup } from './backup';
import { build } from './build';
import { clusterPlaces, stopClusterAt } from './cluster';
import { colleagues, furnish } from './demo/furnish';
import { DEMO_PEOPLE } from './demo/people';
import { DATA } from './places';
import { say, ToldError } from './say';
import { Site } from './site';
import { openDatabase, serverCommand, startServer, superviseCluster, type RunningServer } from './server';
import { test, TEST_PARTS } from './test';

export const HELP = `Eager Sieve

  ./sieve start [--empty] [--port N] [--size N]   start it; the first time with the demo (5,000 contacts unless --size says otherwise)
  ./sieve stop                                    stop what was left running
  ./sieve test [checks|unit|server|browser]       every check and test, or one part of them
  ./sieve test changed                            what the last change touches
  ./sieve test matrix|fuzz|kills|upgrades [--runs N] [--seed N]   who may see what; odd requests; kills of the server and PostgreSQL; older databases
  ./sieve reset [--yes]                           throw away this installation's data
  ./sieve verify                                  work out everything from scratch and compare it with what is kept
  ./sieve export FILE                             write the definitions down as one document
  ./sieve import FILE                             take definitions from such a document; what it does not name stays
  ./sieve backup FILE                             write everything down as of one moment, while it runs
  ./sieve restore FILE [--yes]                    put a backup in the place of everything; messages then wait to be let go
  ./sieve key create --name N --scopes a,b        make a key for the API; it is shown once
  ./sieve person reset EMAIL                      make a link by which somebody who is locked out sets a new password
  ./sieve bench [--quick] [--contacts N] [--signals N]   measure it on this machine (100,000 contacts, 1,000,000 signals)
  ./sieve bench --soak MINUTES                    a thousand signals a second for so long, with kills of the server
  ./sieve help

  DATABASE_URL   a PostgreSQL of your own      SIEVE_DATA_DIR   where the data is kept (.sieve)
  PORT           the port (4600)               SIEVE_WORKERS    workers inside the server (2)
  SIEVE_COUNTING=sql   count by SQL alone, without the index in memory`;

interface Command {
  readonly usage: string;
  readonly options: NonNullable<ParseArgsConfig['options']>;
  readonly positionals: number;
  readonly run: (options: Record<string, string | boolean | undefined>, positionals: readonly string[]) => Promise<void>;
}

const DEFAULT_PORT = 4600;
const PID_FILE = join(DATA, 'server.pid');

function wholeNumber(value: string | boolean | undefined, name: string, least: number, most: number): number | undefined {
  if (value === undefined) return undefined;
  const number = Number(value);
  if (!Number.isInteger(number) || number < least || number > most)
    throw new ToldError(`--${name} takes a whole number from ${least} to ${most}, not “${String(value)}”.`);
  return number;
}

async function start(options: Record<string, string | boolean | undefined>): Promise<void> {
  const port = wholeNumber(options['port'] ?? process.env['PORT'], 'port', 1, 65_535) ?? DEFAULT_PORT;
  const size = wholeNumber(options['size'], 'size', 1, 1_000_000) ?? 5_000;
  const running = runningServer();
  if (running !== undefined) throw new ToldError(`It is running already (process ${running}). ./sieve stop stops it.`);
  // Written first, so that a command that runs meanwhile leaves the database to this one.
  mkdirSync(DATA, { recursive: true });
  writeFileSync(PID_FILE, String(process.pid));
  const isStory = options['empty'] !== true;
  const { server, url, cluster } = await open(port, isStory ? size : undefined).catch((error: unknown) => {
    rmSync(PID_FILE, { force: true });
    throw error;
  });
  const supervised = cluster && superviseCluster(cluster);
  let stopping: Promise<void> | undefined;
  let endedByItself: (status: number | null) => void = () => undefined;
  const site = new Site(server, {
    databaseUrl: url,
    furnish: async (began, toStop) => {
      const { people } = await serverCommand<People>(url, 'people');
      await furnish({ databaseUrl: url, port, size, people: colleagues(people), toStop }, began);
    },
    endedByItself: (status) => endedByItself(status),
  });
  const stop = (): Promise<void> =>
    (stopping ??= (async () => {
      await site.stop();
      await supervised?.();
      await cluster?.stop();
      rmSync(PID_FILE, { force: true });
    })());
  const ended = new Promise<void>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) {
      process.on(signal, () => {
        if (!stopping) console.log('\n· stopping');
        void stop().then(resolve);
      });
    }
    endedByItself = (status) => {
      console.error(`The server ended by itself with ${status ?? 'a signal'}.`);
      process.exitCode = 1;
      void stop().then(resolve);
    };
  });
  let known: readonly string[] = [];
  try {
    // Until the first person has come in, each start gives a new link.
    const { people, token } = await serverCommand<People & { readonly token: string | null }>(url, 'first');
    known = people;
    if (token) console.log(`\n  Begin here: ${server.url}/welcome/${token}\n\n  The link opens once, to whoever has it.`);
  } catch (error) {
    if (!stopping) {
      await stop();
      throw error;
    }
  }
  if (!stopping) {
    say('ready');
    console.log([`\n  ${server.url}`, signIns(known), '  Ctrl-C stops it.'].filter(Boolean).join('\n\n'));
  }
  await ended;
}

/** @param demo of how many contacts, where an empty installation begins with the demo */
async function open(
  port: number,
  demo: number | undefined,
): Promise<Awaited<ReturnType<typeof openDatabase>> & { readonly server: RunningServer }> {
  await build();
  const database = await openDatabase();
  try {
    if (demo !== undefined) await furnish({ databaseUrl: database.url, port, size: demo, people: DEMO_PEOPLE, onlyIfEmpty: true });
    return { ...database, server: await startServer(database.url, port) };
  } catch (error) {
    await database.cluster?.stop();
    throw error;
  }
}

interface People {
  readonly people: readonly string[];
}

/** The sign-ins that this installation was given; who was added since knows their own. */
const signIns = (people: readonly string[]): string =>
  DEMO_PEOPLE.filter((person) => people.includes(person.email))
    .map((person) => `  ${person.role.padEnd(7)} ${person.email}   ${person.password}`)
    .join('\n');

function runningServer(): number | undefined {
  if (!existsSync(PID_FILE)) return undefined;
  const pid = Number(readFileSync(PID_FILE, 'utf8'));
  try {
    process.kill(pid, 0);
    return pid;
  } catch {
    rmSync(PID_FILE, { force: true });
    return undefined;
  }
}

async function stop(): Promise<void> {
  const pid = runningServer();
  if (pid !== undefined) {
    process.kill(pid, 'SIGTERM');
    for (let waited = 0; runningServer() !== undefined && waited < 200; waited += 1)
      await new Promise((resolve) => setTimeout(resolve, 100));
  }
  const cluster = await stopClusterAt(join(DATA, 'cluster'));
  say(pid !== undefined || cluster ? 'stopped' : 'nothing was running');
}

/** Asks once more before what cannot be undone. */
async function sure(options: Record<string, string | boolean | undefined>, word: string, what: string): Promise<void> {
  if (options['yes'] === true) return;
  if (!process.stdin.isTTY) throw new ToldError(`${what}. Say so with --yes.`);
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  const answer = await terminal.question(`${what}. Type “${word}” to do it: `);
  terminal.close();
  if (answer.trim() !== word) throw new ToldError('Nothing was changed.');
}

async function reset(options: Record<string, string | boolean | undefined>): Promise<void> {
  if (!existsSync(DATA)) return say('there is no data to throw away');
  await sure(options, 'reset', `This throws away all data of this installation in ${DATA}: contacts, signals, definitions, everything`);
  await stop();
  for (const place of [...clusterPlaces(join(DATA, 'cluster')), DATA]) rmSync(place, { recursive: true, force: true });
  say('all data of this installation is gone');
}

async function withDatabase<Result>(work: (url: string) => Promise<Result>): Promise<Result> {
  await build();
  const { url, cluster } = await openDatabase({ isSupervised: runningServer() !== undefined });
  try {
    return await work(url);
  } finally {
    if (cluster?.startedHere && runningServer() === undefined) await cluster.stop();
  }
}

async function verify(): Promise<void> {
  const found = await withDatabase((url) =>
    serverCommand<{ contacts: number; differences: number; byKind: Record<string, number>; first: { contact: string; what: string }[] }>(
      url,
      'verify',
    ),
  );
  say(`${found.contacts} contacts compared, ${found.differences} differences`);
  for (const [kind, count] of Object.entries(found.byKind)) console.log(`  ${kind}: ${count}`);
  for (const { contact, what } of found.first.slice(0, 20)) console.log(`  ${contact}  ${what}`);
  if (found.differences > 0) process.exitCode = 1;
}

async function key(options: Record<string, string | boolean | undefined>, [action]: readonly string[]): Promise<void> {
  if (action !== 'create' || !options['name'] || !options['scopes'])
    throw new ToldError('Usage: ./sieve key create --name N --scopes signals:write,contacts:read');
  const made = await withDatabase((url) => serverCommand<{ key: string }>(url, 'key', String(options['name']), String(options['scopes'])));
  console.log(made.key);
}

async function backup(_options: Record<string, string | boolean | undefined>, [file]: readonly string[]): Promise<void> {
  if (!file) throw new ToldError('Usage: ./sieve backup FILE');
  await withDatabase((url) => writeBackup(url, file));
}

async function restore(options: Record<string, string | boolean | undefined>, [file]: readonly string[]): Promise<void> {
  if (!file) throw new ToldError('Usage: ./sieve restore FILE [--yes]');
  if (runningServer() !== undefined) throw new ToldError('It is running: stop it first with ./sieve stop.');
  await sure(options, 'restore', 'This puts what the backup holds in the place of all data of this installation');
  await withDatabase(async (url) => {
    await readBackup(url, file);
    await serverCommand(url, 'pause');
  });
  say('everything is as it was when the backup was made. Messages wait until somebody lets them go, in the post room');
}

async function person(_options: Record<string, string | boolean | undefined>, [action, email]: readonly string[]): Promise<void> {
  if (action !== 'reset' || !email) throw new ToldError('Usage: ./sieve person reset EMAIL');
  const { token } = await withDatabase((url) => serverCommand<{ token: string }>(url, 'reset', email));
  console.log(`/welcome/${token}`);
  say(`${email} is signed out everywhere, and sets a new password at this address of the server, once, within seven days`);
}

/** The definitions as one document that another installation takes. */
async function exportTo(_options: Record<string, string | boolean | undefined>, [file]: readonly string[]): Promise<void> {
  if (!file) throw new ToldError('Usage: ./sieve export FILE');
  const document = await withDatabase((url) => serverCommand<Record<string, unknown>>(url, 'export'));
  writeFileSync(file, `${JSON.stringify(document, null, 2)}\n`);
  say(`the definitions are in ${file}`);
}

async function importFrom(_options: Record<string, string | boolean | undefined>, [file]: readonly string[]): Promise<void> {
  if (!file) throw new ToldError('Usage: ./sieve import FILE');
  if (!existsSync(file)) throw new ToldError(`There is no file ${file}.`);
  try {
    JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    throw new ToldError(`${file} is not JSON.`);
  }
  const answer = await withDatabase((url) => serverCommand<DefinitionsAnswer>(url, 'import', resolve(file)));
  for (const { item, faults } of answer.refused) {
    for (const fault of faults) console.error(`  ${item}: ${fault.path.join('.')} should be ${fault.expected}`);
  }
  if (answer.refused.length > 0) throw new ToldError('Nothing was taken.');
  say(
    `${answer.made.length} made, ${answer.changed.length} changed, ${answer.retired.length} retired, ${answer.kept.length} kept as they are`,
  );
}

export const commands: Readonly<Record<string, Command>> = {
  start: {
    usage: 'start [--empty] [--port N] [--size N]',
    options: { empty: { type: 'boolean' }, port: { type: 'string' }, size: { type: 'string' } },
    positionals: 0,
    run: start,
  },
  stop: { usage: 'stop', options: {}, positionals: 0, run: stop },
  reset: { usage: 'reset [--yes]', options: { yes: { type: 'boolean' } }, positionals: 0, run: reset },
  test: {
    usage: `test [${TEST_PARTS.join('|')}] [--runs N] [--seed N]`,
    options: { runs: { type: 'string' }, seed: { type: 'string' } },
    positionals: 1,
    run: (options, [part]) =>
      test(part, {
        runs: wholeNumber(options['runs'], 'runs', 1, 1_000_000),
        seed: wholeNumber(options['seed'], 'seed', 1, 2_147_483_647),
      }),
  },
  verify: { usage: 'verify', options: {}, positionals: 0, run: verify },
  key: {
    usage: 'key create --name N --scopes a,b',
    options: { name: { type: 'string' }, scopes: { type: 'string' } },
    positionals: 1,
    run: key,
  },
  backup: { usage: 'backup FILE', options: {}, positionals: 1, run: backup },
  restore: { usage: 'restore FILE [--yes]', options: { yes: { type: 'boolean' } }, positionals: 1, run: restore },
  person: { usage: 'person reset EMAIL', options: {}, positionals: 2, run: person },
  export: { usage: 'export FILE', options: {}, positionals: 1, run: exportTo },
  import: { usage: 'import FILE', options: {}, positionals: 1, run: importFrom },
  bench: {
    usage: 'bench [--quick] [--soak MINUTES] [--contacts N] [--signals N]',
    options: { quick: { type: 'boolean' }, soak: { type: 'string' }, contacts: { type: 'string' }, signals: { type: 'string' } },
    positionals: 0,
    run: async (options) => {
      const minutes = wholeNumber(options['soak'], 'soak', 1, 10_000);
      if (minutes !== undefined) return soakBench(minutes);
      if (options['quick'] === true) return quickBench();
      return bench(
        wholeNumber(options['contacts'], 'contacts', 100, 10_000_000) ?? 100_000,
        wholeNumber(options['signals'], 'signals', 1_000, 100_000_000) ?? 1_000_000,
      );
    },
  },
};
