import { type Logger } from 'pino';
import { type Database } from '../database/database';
import { type ServerClock } from '../engine/server-clock';

export interface AppOptions {
  readonly database: Database;
  readonly databaseUrl: string;
  readonly clock: ServerClock;
  readonly workers: number;
  /** the built interface; left out where only the API is wanted */
  readonly webDirectory?: string;
  readonly log?: Logger;
}
