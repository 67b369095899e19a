import { type Status } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';

/** The rules that are being run once, and how far each run is. */
export const runningSweeps = (sql: Sql): Promise<Status['sweeps']> =>
  sql.query(
    `select r.id, d.name, d.kind, d.key, r.total,
            r.total - (select count(*)::int from sweep_waiting w where w.run_id = r.id) as done
       from sweep_run r join definition d on d.id = r.definition_id where r.state = 'running' order by r.id`,
  );
