import { type MigrationInterface, type QueryRunner } from 'typeorm';

/** Years that are made beforehand, whether or not anything ever happens in them, are looked into by each statement that reads signals. */
export class YearsOfSignals1700000000031 implements MigrationInterface {
  readonly name = 'YearsOfSignals1700000000031';

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      do $$
      declare
        year record;
        is_used boolean;
      begin
        for year in select inhrelid::regclass as name from pg_inherits where inhparent = 'signal'::regclass and inhrelid <> 'signal_other'::regclass loop
          execute format('select exists (select from %s)', year.name) into is_used;
          if not is_used then execute format('drop table %s', year.name); end if;
        end loop;
      end $$`);
  }

  async down(): Promise<void> {
    // Nothing is lost with an empty table, and what has none of its own stands in signal_other.
  }
}
