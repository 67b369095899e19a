import { randomBytes } from 'node:crypto';
import { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import { storableJson, unfitIn, type Catalogue, type Fault } from '@eager-sieve/core';
import {
  cellsOf,
  importOptionsSchema,
  type HookBody,
  type HookView,
  type ImportOptions,
  type ImportRehearsal,
} from '@eager-sieve/contracts';
import { PublicAddress } from '../campaigns/public-address';
import { Database, type Sql } from '../database/database';
import { Hook, HookDeliveryRow } from '../database/entities';
import { iso } from '../engine/clock';
import { EditsService } from '../engine/edits.service';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound, ProblemError } from '../http/problem';
import { writeSetting } from '../ledger/settings-ledger';
import { DefinitionStore } from '../settings/definition-store';
import { isSigned, secretOf, type SignatureHeaders } from './hook-signature';
import { Cells } from './import-cells';
import { checkOptions } from './import-checks';
import { kindOf, type SignalRow, type Written } from './import-kinds';
import { ImportRehearsals } from './import-rehearsal';

const SHOWN = 20;
const KEPT = 50;
const LARGEST_KEPT = 32 * 1024;
const BETWEEN = ';';

/** What another program sends by itself: signed, read by a mapping, and taken in like a row of a file. */
@Injectable()
export class HooksService {
  constructor(
    private readonly database: Database,
    private readonly clock: ServerClock,
    private readonly store: DefinitionStore,
    private readonly edits: EditsService,
    private readonly address: PublicAddress,
  ) {}

  async list(): Promise<readonly HookView[]> {
    const hooks = await this.database.read(Hook).find({ order: { name: 'asc' } });
    return Promise.all(hooks.map((hook) => this.#view(hook, 0)));
  }

  async one(id: number): Promise<HookView> {
    return this.#view(await this.#find(id), SHOWN);
  }

  async make(body: HookBody, by: string): Promise<{ readonly id: number; readonly secret: string }> {
    await this.#check(body);
    const { name, isOn, ...reads } = body;
    const secret = secretOf(randomBytes(24));
    return this.database.transaction(async (sql) => {
      const token = randomBytes(18).toString('base64url');
      const sources = new Set((await sql.query<{ source: string }>('select source from hook')).map(({ source }) => source));
      const { id } = await sql.table(Hook).save({
        ...{ token, name, isOn, secret, reads, madeBy: by, madeAt: new Date(this.clock.now()) },
        source: freeName(name, sources),
      });
      await writeSetting(sql, 'webhook made', { name }, by, this.clock.now());
      return { id, secret };
    });
  }

  async change(id: number, body: HookBody, by: string): Promise<void> {
    await this.#check(body);
    const { name, isOn, ...reads } = body;
    await this.#write(id, 'webhook changed', by, (sql) =>
      sql.query('update hook set name = $2, is_on = $3, reads = $4 where id = $1', [id, name, isOn, reads]),
    );
  }

  /** The secret from before opens nothing from then on. */
  async renewSecret(id: number, by: string): Promise<{ readonly secret: string }> {
    const secret = secretOf(randomBytes(24));
    await this.database.transaction(async (sql) => {
      const hook = await sql.table(Hook).findOneBy({ id });
      if (!hook) throw notFound('webhook');
      await sql.table(Hook).update(id, { secret });
      await writeSetting(sql, 'secret of a webhook renewed', { name: hook.name }, by, this.clock.now());
    });
    return { secret };
  }

  remove(id: number, by: string): Promise<void> {
    return this.#write(id, 'webhook removed', by, (sql) => sql.query('delete from hook where id = $1', [id]));
  }

  async #write(id: number, verb: string, by: string, write: (sql: Sql) => Promise<unknown>): Promise<void> {
    await this.database.transaction(async (sql) => {
      const hook = await sql.table(Hook).findOneBy({ id });
      if (!hook) throw notFound('webhook');
      await write(sql);
      await writeSetting(sql, verb, { name: hook.name }, by, this.clock.now());
    });
  }

  /** What a sample would do. Nothing is kept of it. */
  async rehearse(body: HookBody, sample: Readonly<Record<string, unknown>>): Promise<ImportRehearsal> {
    await this.#check(body);
    const { compiled } = await this.store.current(this.database);
    const line = Readable.from([Buffer.from(`${JSON.stringify(sample)}\n`)]);
    return new ImportRehearsals(this.database, compiled, optionsOf(body), this.clock.now()).run(line);
  }

  /**
   * Takes what was sent to the address of a hook.
   *
   * @throws ProblemError 404 where there is no such hook or it is off, 401 where it is not signed, 422 where it cannot be read
   */
  async take(token: string, sent: Buffer, headers: SignatureHeaders): Promise<{ readonly state: 'taken' | 'known' }> {
    const hook = await this.database.read(Hook).findOneBy({ token });
    if (!hook?.isOn) throw notFound('webhook');
    if (!isSigned(hook.secret, sent, headers, this.clock.now()))
      throw new ProblemError(
        401,
        'webhook.signature',
        'What was sent is not signed with the secret of this webhook, or not within five minutes.',
      );
    const { compiled } = await this.store.current(this.database);
    const body = jsonIn(sent);
    const read = readHook({ ...hook.reads, name: hook.name, isOn: true }, body, compiled.catalogue);
    if (read.faults.length > 0) return this.#refuse(hook, body, read.faults);
    const options = optionsOf({ ...hook.reads, name: hook.name, isOn: true });
    const write = ownOf(read.write, hook.source, headers.id ?? '');
    const { results } = await this.edits.enqueue(async (context) => {
      const prepared = await kindOf(options).prepare(context, [write], options, { kind: 'api', ref: hook.source });
      const [result] = prepared.results;
      const state = result?.status === 'rejected' ? 'refused' : result?.status === 'skipped' ? 'known' : 'taken';
      await this.#keep(context.sql, hook.id, state, result?.faults ?? [], body);
      return prepared;
    });
    const [result] = results;
    if (result?.status === 'rejected') throw faulty(result.faults ?? []);
    return { state: result?.status === 'skipped' ? 'known' : 'taken' };
  }

  async #refuse(hook: Hook, body: unknown, faults: readonly Fault[]): Promise<never> {
    await this.database.transaction((sql) => this.#keep(sql, hook.id, 'refused', faults, body));
    throw faulty(faults);
  }

  async #keep(sql: Sql, id: number, state: HookDeliveryRow['state'], faults: readonly object[], body: unknown): Promise<void> {
    const kept = JSON.stringify(storableJson(body ?? null));
    await sql.query(
      `with latest as (insert into hook_delivery (hook_id, at, state, faults, body) values ($1, $2, $3, $4::jsonb, $5::jsonb)),
            old as (delete from hook_delivery where hook_id = $1 and id <= (select id from hook_delivery where hook_id = $1 order by id desc offset ${KEPT} limit 1))
       update hook set last_at = $2, taken = taken + ($3 = 'taken')::int, refused = refused + ($3 = 'refused')::int where id = $1`,
      [id, iso(this.clock.now()), state, JSON.stringify(faults), kept.length > LARGEST_KEPT ? 'null' : kept],
    );
  }

  async #check(body: HookBody): Promise<void> {
    const { catalogue } = (await this.store.current(this.database)).compiled;
    await checkOptions(this.database, catalogue, optionsOf(body));
  }

  async #find(id: number): Promise<Hook> {
    const hook = await this.database.read(Hook).findOneBy({ id });
    if (!hook) throw notFound('webhook');
    return hook;
  }

  async #view(hook: Hook, deliveries: number): Promise<HookView> {
    const { id, name, isOn, reads, madeAt, lastAt, taken, refused } = hook;
    const latest =
      deliveries === 0
        ? []
        : await this.database.read(HookDeliveryRow).find({ where: { hookId: id }, order: { id: 'desc' }, take: deliveries });
    return {
      ...reads,
      ...{ id, name, isOn, taken, refused },
      url: `${this.address.url}/in/${hook.token}`,
      madeAt: madeAt.toISOString(),
      lastAt: lastAt?.toISOString() ?? null,
      deliveries: latest.map((each) => ({
        at: each.at.toISOString(),
        state: each.state,
        faults: each.faults.map((fault) => ({ ...fault, path: [...fault.path] })),
        body: each.body,
      })),
    };
  }
}

const optionsOf = ({ name, of, signalType, matchBy, mapping }: HookBody): ImportOptions =>
  importOptionsSchema.parse({
    name,
    of,
    matchBy,
    mapping,
    format: 'ndjson',
    fires: true,
    ...(signalType === undefined ? {} : { signalType }),
  });

/** The name, or with a number behind it where another one goes by it. */
function freeName(name: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n += 1) {
    const free = n === 1 ? name : `${name} (${n})`;
    if (!taken.has(free)) return free;
  }
}

/** @returns undefined where it is no JSON object */
function jsonIn(sent: Buffer): object | undefined {
  try {
    const value: unknown = JSON.parse(sent.toString('utf8'));
    return typeof value === 'object' && value !== null && !Array.isArray(value) ? value : undefined;
  } catch {
    return undefined;
  }
}

function readHook(
  hook: HookBody,
  body: object | undefined,
  catalogue: Catalogue,
): { readonly write: Written; readonly faults: readonly Fault[] } {
  const options = optionsOf(hook);
  const unfit = body === undefined ? [{ path: [], code: 'body.json', expected: 'one JSON object' }] : unfitIn(body);
  const cells = new Cells(unfit.length > 0 || body === undefined ? {} : cellsOf(body, BETWEEN), options, catalogue);
  const write = kindOf(options).read(cells);
  return { write, faults: unfit.length > 0 ? unfit : cells.faults };
}

/** A signal goes by its own id if it has one, and otherwise by that of what was sent. */
const ownOf = (write: Written, source: string, sentId: string): Written =>
  'historic' in write ? ({ ...write, source, ...(write.hasOwnId ? {} : { id: sentId }) } satisfies SignalRow) : write;
