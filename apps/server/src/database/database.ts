import { DataSource, type QueryRunner } from 'typeorm';
import { types } from 'pg';
import { Foundations1700000000001 } from './migrations/1700000000001-foundations';
import { CompaniesAndDeals1700000000002 } from './migrations/1700000000002-companies-and-deals';

// Ids and counts fit a double exactly up to 2^53; as strings they would be compared as text.
types.setTypeParser(types.builtins.INT8, Number);

/** Root of every error that the server throws on purpose. */
export class ServerError extends Error {
  override readonly name: string = 'ServerError';
}

/** Something that runs SQL: the pool, or one transaction. */
export interface Sql {
  /** The rows of one statement. Values go in as parameters only. */
  query<Row>(text: string, values?: readonly unknown[]): Promise<Row[]>;
}

const rowsOf = <Row>(result: unknown): Row[] => {
  // TypeORM answers UPDATE and DELETE with [rows, count].
  const answer = result as unknown[];
  return (answer.length === 2 && Array.isArray(answer[0]) && typeof answer[1] === 'number' ? answer[0] : answer) as Row[];
};

/** The advisory lock that passes share and that saving a definition takes alone. */
const EPOCH_LOCK = 7_263_001;

export class Database implements Sql {
  readonly source: DataSource;

  constructor(url: string, poolSize = 12) {
    this.source = new DataSource({
      type: 'postgres',
      url,
      migrations: [Foundations1700000000001, CompaniesAndDeals1700000000002],
      migrationsTableName: 'migration',
      synchronize: false,
      extra: { max: poolSize, application_name: 'eager-sieve' },
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

  async query<Row>(text: string, values: readonly unknown[] = []): Promise<Row[]> {
    return rowsOf<Row>(await this.source.query(text, [...values]));
  }

  /** All or nothing. `isolation` is PostgreSQL's default: each statement sees what was committed before it. */
  async transaction<Result>(work: (sql: Sql) => Promise<Result>): Promise<Result> {
    const runner = this.source.createQueryRunner();
    await runner.connect();
    try {
      await runner.startTransaction();
      const result = await work(over(runner));
      await runner.commitTransaction();
      return result;
    } catch (error) {
      if (runner.isTransactionActive) await runner.rollbackTransaction();
      throw error;
    } finally {
      await runner.release();
    }
  }

  /** A transaction in which no definition changes. */
  sharedEpoch<Result>(work: (sql: Sql) => Promise<Result>): Promise<Result> {
    return this.transaction(async (sql) => {
      await sql.query(`select pg_advisory_xact_lock_shared(${EPOCH_LOCK})`);
      return work(sql);
    });
  }

  /** A transaction in which no pass runs: waits for those under way, and holds off the next. */
  aloneInEpoch<Result>(work: (sql: Sql) => Promise<Result>): Promise<Result> {
    return this.transaction(async (sql) => {
      await sql.query(`select pg_advisory_xact_lock(${EPOCH_LOCK})`);
      return work(sql);
    });
  }
}

const over = (runner: QueryRunner): Sql => ({
  query: async <Row>(text: string, values: readonly unknown[] = []) => rowsOf<Row>(await runner.query(text, [...values])),
});
