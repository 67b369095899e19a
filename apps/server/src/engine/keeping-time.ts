import { type Sql } from '../database/database';
import { DatabaseClock, type Clock } from './clock';
import { every } from './every';

const SET_EVERY_MS = 60_000;

/** Sets the clock of a process by the database's each minute, beside its other work. */
export const keepingTime = (clock: Clock, sql: Sql): (() => Promise<false>) =>
  every(
    SET_EVERY_MS,
    () => Date.now(),
    () => (clock instanceof DatabaseClock ? clock.set(sql) : Promise.resolve()),
  );
