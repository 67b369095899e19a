import { type Status } from '@eager-sieve/contracts';
import { type Sql } from '../database/database';

/** The rules, maps and bundles that are being run once and the changes of many contacts, and how far each run is. */
export const runningSweeps = (sql: Sql): Promise<Status['sweeps']> =>
  sql.query(
    `select r.id, coalesce(d.name, r.what) as name, coalesce(d.kind, 'change') as kind, coalesce(d.key, '') as key, r.total,
            r.total - (select count(*)::int from sweep_waiting w where w.run_id = r.id) as done
       from sweep_run r left join definition d on d.id = r.definition_id where r.state = 'running' order by r.id`,
  );
