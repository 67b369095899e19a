import { realpathSync } from 'node:fs';
import { join } from 'node:path';
import { ask } from '../ask';
import { asArgs, freePort, type Cluster } from '../cluster';
import { postgresPrograms } from '../packages';
import { must } from '../run';

/** A PostgreSQL that follows another one by streaming, on loopback. */
export interface Replica {
  url(database: string): string;
  /** makes it the one that writes, as an operator would when the other is gone */
  promote(): Promise<void>;
  stop(): Promise<void>;
}

/** Makes a replica of a cluster beside it. From then on the cluster answers a commit only when the replica has it too. */
export async function startReplica(primary: Cluster, directory: string): Promise<Replica> {
  const programs = postgresPrograms() ?? '';
  const data = join(realpathSync(directory), 'replica');
  const port = await freePort();
  const as = (program: string, args: readonly string[], quiet = false): Promise<string> => {
    const [first, rest] = asArgs(join(programs, program), args);
    return must(first, rest, { cwd: '/', ...(quiet ? { stdio: 'ignore' as const } : {}) });
  };
  await as('pg_basebackup', ['-D', data, '-R', '-X', 'stream', '-c', 'fast', '-d', primary.url('postgres')]);
  const settings = `-c listen_addresses=127.0.0.1 -p ${port} -c unix_socket_directories='' -c max_connections=120 -c hot_standby_feedback=on`;
  await as('pg_ctl', ['-D', data, '-w', '-l', join(data, '..', 'replica.log'), '-o', settings, 'start'], true);
  await ask(primary.url('postgres'), `alter system set synchronous_standby_names = '*'`);
  await ask(primary.url('postgres'), 'select pg_reload_conf()');
  return {
    url: (database) => Object.assign(new URL(primary.url(database)), { port: String(port) }).href,
    promote: async () => void (await as('pg_ctl', ['-D', data, '-w', 'promote'], true)),
    stop: async () => void (await as('pg_ctl', ['-D', data, '-m', 'immediate', '-w', 'stop'], true)),
  };
}
