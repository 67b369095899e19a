import { Controller, Req, Res, type OnModuleDestroy } from '@nestjs/common';
import { type FeedEvent, type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { Database } from '../database/database';
import { type Moved } from '../engine/feed';
import { Follower } from '../engine/follower';
import { Handles, SentHere } from '../http/route';
import { CallerIs, type Caller } from '../settings/access';
import { TodayService } from './today.service';

/** Open pages hear at most so often what moved. */
const EVERY_MS = 250;
const KEEP_ALIVE_MS = 20_000;
const MOST_CONTACTS = 100;

@Controller()
export class TodayController implements OnModuleDestroy {
  readonly #open = new Set<Response>();

  constructor(
    private readonly database: Database,
    private readonly service: TodayService,
    private readonly follower: Follower,
  ) {}

  @Handles('today')
  today() {
    return this.service.today();
  }

  @Handles('stream')
  stream() {
    return this.service.stream(60);
  }

  @Handles('search')
  search(@SentHere() { query }: Sent<'search'>, @CallerIs() caller: Caller) {
    return this.service.search(query.q, caller.capabilities.includes('contacts:read'));
  }

  /** Server-sent events: what moved and whom it concerned, ids only. What it says is asked for, with the asker's own access. */
  @Handles('events')
  events(@CallerIs() caller: Caller, @Req() request: Request, @Res() response: Response): void {
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache, no-transform', 'X-Accel-Buffering': 'no' });
    response.write('retry: 1000\n\n');
    this.#open.add(response);
    const mayKnowContacts = caller.capabilities.includes('contacts:read');
    let waiting: Moved[] = [];
    let timer: NodeJS.Timeout | undefined;
    const flush = (): void => {
      timer = undefined;
      const moved = waiting;
      waiting = [];
      void this.#eventOf(moved, mayKnowContacts).then(
        (event) => response.write(`data: ${JSON.stringify(event)}\n\n`),
        () => undefined,
      );
    };
    const heard = (moved: readonly Moved[]): void => {
      waiting.push(...moved);
      // The first is told at once, what follows closely waits a moment and is told together.
      timer ??= setTimeout(flush, waiting.length === moved.length ? 10 : EVERY_MS);
    };
    const alive = setInterval(() => response.write(': \n\n'), KEEP_ALIVE_MS);
    this.follower.events.on('moved', heard);
    request.on('close', () => {
      clearInterval(alive);
      clearTimeout(timer);
      this.follower.events.off('moved', heard);
      this.#open.delete(response);
    });
  }

  async #eventOf(moved: readonly Moved[], mayKnowContacts: boolean): Promise<FeedEvent> {
    const counts: Record<string, number> = {};
    const contacts = new Set<number>();
    for (const { delta } of moved) {
      for (const [name, n] of Object.entries(delta.counts)) counts[name] = (counts[name] ?? 0) + n;
      for (const id of delta.contacts) if (contacts.size < MOST_CONTACTS) contacts.add(id);
    }
    const uids =
      mayKnowContacts && contacts.size > 0
        ? await this.database.query<{ uid: string }>('select uid from contact where id = any($1::bigint[])', [[...contacts]])
        : [];
    return { topics: Object.keys(counts), contacts: uids.map((row) => row.uid), counts };
  }

  onModuleDestroy(): void {
    for (const response of this.#open) response.end();
  }
}
