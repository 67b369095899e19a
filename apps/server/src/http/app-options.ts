import { type Portion } from '../engine/turn';
import { type Logger } from 'pino';
import { type Database } from '../database/database';
import { type DemoDoor } from '../today/demo-door';
import { type ServerClock } from '../engine/server-clock';

export interface AppOptions {
  readonly database: Database;
  readonly databaseUrl: string;
  /** from which everyone is loaded to be counted, at the start */
  readonly replicaUrl?: string | undefined;
  readonly clock: ServerClock;
  readonly workers: number;
  /** how much a worker takes in a turn */
  readonly portion?: Portion;
  /** whether workers have threads of their own. They have their own clock then, set by the database's */
  readonly threads?: boolean;
  /** where contacts are held to be counted: in a thread of its own, in this one, or nowhere, so that SQL counts. Nowhere if left out */
  readonly counting?: 'thread' | 'here' | undefined;
  /** where the counting index is kept between two starts; left out, it is loaded from the database each time */
  readonly snapshotFolder?: string | undefined;
  /** the built interface; left out where only the API is wanted */
  readonly webDirectory?: string;
  /** asks for the demo to be loaded, where somebody can do that */
  readonly demo?: DemoDoor;
  readonly log?: Logger;
}
