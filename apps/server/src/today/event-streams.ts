import { Injectable, type OnModuleDestroy, type OnModuleInit } from '@nestjs/common';
import { type FeedEvent } from '@eager-sieve/contracts';
import { type Response } from 'express';
import { Database } from '../database/database';
import { subjectsOf, type Moved } from '../engine/feed';
import { Follower } from '../engine/follower';
import { ProblemError } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { SessionsService } from '../settings/sessions.service';

/** Open pages hear at most so often what moved. */
const EVERY_MS = 250;
const FIRST_AFTER_MS = 10;
const KEEP_ALIVE_MS = 20_000;
const MOST_NAMED = 100;
/** A browser opens one stream a page. */
const MOST_OF_A_SESSION = 8;
/** Whoever does not read is cut off, and asks for everything anew when they come back. */
const MOST_UNREAD_BYTES = 1024 * 1024;

interface Stream {
  readonly response: Response;
  readonly session: string;
  readonly mayKnowContacts: boolean;
}

/** Tells open pages what moved. An event is made once, however many listen, and a stream ends with the session that opened it. */
@Injectable()
export class EventStreams implements OnModuleInit, OnModuleDestroy {
  readonly #open = new Set<Stream>();
  #waiting: Moved[] = [];
  #timer: NodeJS.Timeout | undefined;
  #alive: NodeJS.Timeout | undefined;

  constructor(
    private readonly database: Database,
    private readonly follower: Follower,
    private readonly store: DefinitionStore,
    private readonly sessions: SessionsService,
  ) {}

  onModuleInit(): void {
    this.follower.events.on('moved', this.#heard);
    this.sessions.events.on('ended', this.#endOf);
    this.#alive = setInterval(() => void this.#keepAlive(), KEEP_ALIVE_MS);
  }

  onModuleDestroy(): void {
    clearInterval(this.#alive);
    clearTimeout(this.#timer);
    this.follower.events.off('moved', this.#heard);
    this.sessions.events.off('ended', this.#endOf);
    for (const { response } of this.#open) response.end();
  }

  /** @throws ProblemError 429 if the session has as many as it may */
  open(response: Response, session: string, mayKnowContacts: boolean): void {
    if ([...this.#open].filter((stream) => stream.session === session).length >= MOST_OF_A_SESSION)
      throw new ProblemError(429, 'events.too-many', `At most ${MOST_OF_A_SESSION} open pages of one browser are told what moves.`, {
        retryAfterSeconds: KEEP_ALIVE_MS / 1_000,
      });
    const stream = { response, session, mayKnowContacts };
    this.#open.add(stream);
    response.on('close', () => this.#open.delete(stream));
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store, no-transform', 'X-Accel-Buffering': 'no' });
    response.write('retry: 1000\n\n');
  }

  readonly #endOf = (sessions: readonly string[]): void => {
    for (const { session, response } of this.#open) if (sessions.includes(session)) response.end();
  };

  /** A session may also end by itself, or in another process. */
  async #keepAlive(): Promise<void> {
    for (const stream of this.#open) this.#write(stream, ': \n\n');
    const open = [...new Set([...this.#open].map(({ session }) => session))];
    if (open.length === 0) return;
    const living = await this.sessions.living(open).catch(() => undefined);
    if (living) this.#endOf(open.filter((session) => !living.has(session)));
  }

  readonly #heard = (moved: readonly Moved[]): void => {
    if (this.#open.size === 0) return;
    this.#waiting.push(...moved);
    // The first is told at once, what follows closely waits a moment and is told together.
    this.#timer ??= setTimeout(() => void this.#tell(), this.#waiting.length === moved.length ? FIRST_AFTER_MS : EVERY_MS);
  };

  async #tell(): Promise<void> {
    const moved = this.#waiting;
    this.#waiting = [];
    try {
      const event = await this.#eventOf(moved);
      const full = `data: ${JSON.stringify(event)}\n\n`;
      const nameless: FeedEvent = { ...event, contacts: [], more: event.more || event.contacts.length > 0 };
      const bare = `data: ${JSON.stringify(nameless)}\n\n`;
      for (const stream of this.#open) this.#write(stream, stream.mayKnowContacts ? full : bare);
    } catch {
      // The database was away for a moment: it is told when it can be.
      this.#waiting.unshift(...moved);
    } finally {
      this.#timer = this.#waiting.length > 0 ? setTimeout(() => void this.#tell(), EVERY_MS) : undefined;
    }
  }

  #write({ response }: Stream, text: string): void {
    if (response.writableLength > MOST_UNREAD_BYTES) response.destroy();
    else response.write(text);
  }

  async #eventOf(moved: readonly Moved[]): Promise<FeedEvent> {
    const counts: Record<string, number> = {};
    const subjects = new Set<number>();
    const things = new Set<number>();
    for (const { delta } of moved) {
      for (const [name, n] of Object.entries(delta.counts)) counts[name] = (counts[name] ?? 0) + n;
      for (const id of subjectsOf(delta)) subjects.add(id);
      for (const id of delta.things) things.add(id);
    }
    const { compiled } = await this.store.current(this.database);
    const named = [...subjects].slice(0, MOST_NAMED);
    const uids =
      named.length > 0
        ? await this.database.query<{ uid: string }>(
            'select uid from contact where id = any($1::bigint[]) union all select uid from company where id = any($1::bigint[])',
            [named],
          )
        : [];
    const definitions = [...things].flatMap((id) => {
      const found = compiled.catalogue.any(id);
      return found ? [{ kind: found.kind, key: found.key }] : [];
    });
    return { contacts: uids.map((row) => row.uid), more: subjects.size > named.length, definitions, counts };
  }
}
