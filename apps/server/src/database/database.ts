import { DataSource, QueryFailedError, type EntityTarget, type ObjectLiteral, type QueryRunner, type Repository } from 'typeorm';
import { types, type Client } from 'pg';
import { isWrite, noteCommit } from './commits';
import { statementName } from './statement-names';
import { ENTITIES } from './entities';
import { Foundations1700000000001 } from './migrations/1700000000001-foundations';
import { CompaniesAndDeals1700000000002 } from './migrations/1700000000002-companies-and-deals';
import { Pins1700000000003 } from './migrations/1700000000003-pins';
import { PhoneClaims1700000000004 } from './migrations/1700000000004-phone-claims';
import { EpochCauses1700000000005 } from './migrations/1700000000005-epoch-causes';
import { RulesForCompanies1700000000006 } from './migrations/1700000000006-rules-for-companies';
import { PlainNames1700000000007 } from './migrations/1700000000007-plain-names';
import { Access1700000000008 } from './migrations/1700000000008-access';
import { ConsentRequests1700000000009 } from './migrations/1700000000009-consent-requests';
import { Leases1700000000010 } from './migrations/1700000000010-leases';
import { ImportFiles1700000000011 } from './migrations/1700000000011-import-files';
import { SetAside1700000000012 } from './migrations/1700000000012-set-aside';
import { FormVisits1700000000013 } from './migrations/1700000000013-form-visits';
import { ImportFaults1700000000014 } from './migrations/1700000000014-import-faults';
import { Hooks1700000000015 } from './migrations/1700000000015-hooks';
import { Site1700000000016 } from './migrations/1700000000016-site';
import { Files1700000000017 } from './migrations/1700000000017-files';
import { TakenSignals1700000000018 } from './migrations/1700000000018-taken-signals';
import { Sweeps1700000000021 } from './migrations/1700000000021-sweeps';
import { TurnsAndTakingBack1700000000022 } from './migrations/1700000000022-turns-and-taking-back';
import { WorkOnMany1700000000023 } from './migrations/1700000000023-work-on-many';
import { TeamsAndFiles1700000000024 } from './migrations/1700000000024-teams-and-files';
import { PartsOfNames1700000000025 } from './migrations/1700000000025-parts-of-names';
import { OrderOfNames1700000000026 } from './migrations/1700000000026-order-of-names';
import { RunsOverCompanies1700000000027 } from './migrations/1700000000027-runs-over-companies';
import { TakenBackInTurn1700000000028 } from './migrations/1700000000028-taken-back-in-turn';
import { ColourOfPages1700000000029 } from './migrations/1700000000029-colour-of-pages';
import { BuildsAtOnce1700000000030 } from './migrations/1700000000030-builds-at-once';
import { YearsOfSignals1700000000031 } from './migrations/1700000000031-years-of-signals';
import { Watches1700000000019 } from './migrations/1700000000019-watches';
import { SignalsByForm1700000000020 } from './migrations/1700000000020-signals-by-form';
import { readTimestamp } from './timestamps';

// Parse bigint as a number: ids and counts are exact up to 2^53, and strings would compare as text.
types.setTypeParser(types.builtins.INT8, Number);
types.setTypeParser(types.builtins.TIMESTAMPTZ, readTimestamp);

/** Root of every error that the server throws on purpose. */
export class ServerError extends Error {
  override readonly name: string = 'ServerError';
}

export interface TransactionOptions {
  /** unless it says otherwise, each statement sees what was committed before it */
  readonly isolation?: 'REPEATABLE READ';
  /**
   * For statements that are run again and again: a connection parses and plans each of them once. With it a signal is told to an open page after
   * 71 ms instead of 109 (median); in bulk it makes no difference.
   */
  readonly isPrepared?: boolean;
}

/** Something that runs SQL: the pool, or one transaction. */
export interface Sql {
  /** The rows of one statement. Values go in as parameters only. */
  query<Row>(text: string, values?: readonly unknown[]): Promise<Row[]>;
  /** Read access to an entity's table. */
  read<Entity extends ObjectLiteral>(entity: EntityTarget<Entity>): Readable<Entity>;
}
type Readable<Entity extends ObjectLiteral> = Pick<Repository<Entity>, 'find' | 'findOne' | 'findOneBy' | 'existsBy' | 'maximum'>;

/** SQL inside one transaction. Entities are only written here, because an undone transaction is retried as a whole. */
export interface Transaction extends Sql {
  /** Read and write access to an entity's table. */
  table<Entity extends ObjectLiteral>(entity: EntityTarget<Entity>): Repository<Entity>;
}

const rowsOf = <Row>(result: unknown): Row[] => {
  // TypeORM answers UPDATE and DELETE with [rows, count].
  const answer = result as unknown[];
  return (answer.length === 2 && Array.isArray(answer[0]) && typeof answer[1] === 'number' ? answer[0] : answer) as Row[];
};

/**
 * Serialization failure and deadlock: the database undid the whole transaction, and asks for it to be tried again. So it is where two brought
 * the same key at once: the second finds what the first has made.
 */
const TRY_AGAIN: ReadonlySet<unknown> = new Set(['40001', '40P01', '23505']);
const MOST_TRIES = 10;
const LONGEST_PAUSE_MS = 500;

/** Retries what the database rolled back in favour of another transaction, with a growing pause. */
async function retried<Result>(work: () => Promise<Result>): Promise<Result> {
  for (let tries = 1; ; tries += 1) {
    try {
      return await work();
    } catch (error) {
      if (tries === MOST_TRIES || !TRY_AGAIN.has((error as { code?: unknown } | undefined)?.code)) throw error;
      // Random, so that two transactions that conflicted do not meet again.
      await new Promise((resolve) => setTimeout(resolve, Math.random() * Math.min(LONGEST_PAUSE_MS, 10 * 2 ** tries)));
    }
  }
}

/** The advisory lock that passes hold shared and that saving definitions holds exclusively. */
const EPOCH_LOCK = 7_263_001;

/**
 * A connection can be cut in the moment between being opened and being handed out, when nobody listens to it yet: an error that nobody hears
 * ends the process. Whoever uses the connection next is told by its first query.
 */
function withAListener(client: Client): void {
  client.on('error', () => undefined);
}

export class Database implements Sql {
  readonly source: DataSource;

  constructor(url: string, poolSize = 12) {
    this.source = new DataSource({
      type: 'postgres',
      url,
      entities: ENTITIES,
      migrations: [
        Foundations1700000000001,
        CompaniesAndDeals1700000000002,
        Pins1700000000003,
        PhoneClaims1700000000004,
        EpochCauses1700000000005,
        RulesForCompanies1700000000006,
        PlainNames1700000000007,
        Access1700000000008,
        ConsentRequests1700000000009,
        Leases1700000000010,
        ImportFiles1700000000011,
        SetAside1700000000012,
        FormVisits1700000000013,
        ImportFaults1700000000014,
        Hooks1700000000015,
        Site1700000000016,
        Files1700000000017,
        TakenSignals1700000000018,
        Watches1700000000019,
        SignalsByForm1700000000020,
        Sweeps1700000000021,
        TurnsAndTakingBack1700000000022,
        WorkOnMany1700000000023,
        TeamsAndFiles1700000000024,
        PartsOfNames1700000000025,
        OrderOfNames1700000000026,
        RunsOverCompanies1700000000027,
        TakenBackInTurn1700000000028,
        ColourOfPages1700000000029,
        BuildsAtOnce1700000000030,
        YearsOfSignals1700000000031,
      ],
      migrationsTableName: 'migration',
      synchronize: false,
      extra: { max: poolSize, application_name: 'eager-sieve', options: '-c timezone=UTC', onConnect: withAListener },
    });
  }

  async open(): Promise<this> {
    if (!this.source.isInitialized) await this.source.initialize();
    return this;
  }

  async migrate(): Promise<void> {
    await this.source.runMigrations({ transaction: 'each' });
  }

  async close(): Promise<void> {
    if (this.source.isInitialized) await this.source.destroy();
  }

  /** How many connections are open and idle, and how many ask for one and have to wait. */
  connections(): { readonly total: number; readonly idle: number; readonly waiting: number } {
    const { master } = this.source.driver as unknown as { master?: { totalCount: number; idleCount: number; waitingCount: number } };
    return { total: master?.totalCount ?? 0, idle: master?.idleCount ?? 0, waiting: master?.waitingCount ?? 0 };
  }

  async query<Row>(text: string, values: readonly unknown[] = []): Promise<Row[]> {
    const rows = rowsOf<Row>(await retried(() => this.source.query(text, [...values])));
    if (isWrite(text)) noteCommit();
    return rows;
  }

  read<Entity extends ObjectLiteral>(entity: EntityTarget<Entity>): Readable<Entity> {
    return this.source.getRepository(entity);
  }

  /**
   * All or nothing.
   *
   * @param work may be run again from the start where the database undid it for the sake of another transaction: it changes nothing outside
   */
  transaction<Result>(work: (sql: Transaction) => Promise<Result>, options: TransactionOptions = {}): Promise<Result> {
    return retried(() => this.#once(work, options));
  }

  async #once<Result>(work: (sql: Transaction) => Promise<Result>, { isolation, isPrepared = false }: TransactionOptions): Promise<Result> {
    const runner = this.source.createQueryRunner();
    const client = (await runner.connect()) as Client;
    try {
      await runner.startTransaction(isolation);
      const writing = new Writing(runner, isPrepared ? client : undefined);
      const result = await work(writing);
      await runner.commitTransaction();
      if (writing.hasWritten) noteCommit();
      return result;
    } catch (error) {
      if (runner.isTransactionActive) await runner.rollbackTransaction();
      throw error;
    } finally {
      await runner.release();
    }
  }

  /** A read transaction: all statements see what was committed before the first. */
  snapshot<Result>(work: (sql: Transaction) => Promise<Result>): Promise<Result> {
    return this.transaction(work, { isolation: 'REPEATABLE READ' });
  }

  /** A transaction in which no definition changes. */
  sharedEpoch<Result>(work: (sql: Transaction) => Promise<Result>, options: TransactionOptions = {}): Promise<Result> {
    return this.transaction(async (sql) => {
      await sql.query(`select pg_advisory_xact_lock_shared(${EPOCH_LOCK})`);
      return work(sql);
    }, options);
  }

  /** A transaction during which no pass runs: waits for running passes and holds off new ones. */
  withExclusiveEpochLock<Result>(work: (sql: Transaction) => Promise<Result>): Promise<Result> {
    return this.transaction(async (sql) => {
      await sql.query(`select pg_advisory_xact_lock(${EPOCH_LOCK})`);
      return work(sql);
    });
  }
}

/** One transaction, and whether anything has been written in it. */
class Writing implements Transaction {
  hasWritten = false;
  readonly #runner: QueryRunner;
  readonly #preparing: Client | undefined;

  /** @param preparing the connection, where it is to remember how it runs each statement */
  constructor(runner: QueryRunner, preparing: Client | undefined) {
    this.#runner = runner;
    this.#preparing = preparing;
  }

  async query<Row>(text: string, values: readonly unknown[] = []): Promise<Row[]> {
    this.hasWritten ||= isWrite(text);
    const name = this.#preparing && statementName(text);
    if (!this.#preparing || name === undefined) return rowsOf<Row>(await this.#runner.query(text, [...values]));
    try {
      return (await this.#preparing.query({ name, text, values: [...values] })).rows as Row[];
    } catch (error) {
      throw new QueryFailedError(text, [], error as Error);
    }
  }

  read<Entity extends ObjectLiteral>(entity: EntityTarget<Entity>): Readable<Entity> {
    return this.#runner.manager.getRepository(entity);
  }

  table<Entity extends ObjectLiteral>(entity: EntityTarget<Entity>): Repository<Entity> {
    this.hasWritten = true;
    return this.#runner.manager.getRepository(entity);
  }
}
