import { Controller, Req, Res, type OnModuleDestroy } from '@nestjs/common';
import { type FeedEvent, type Sent } from '@eager-sieve/contracts';
import { type Request, type Response } from 'express';
import { Database } from '../database/database';
import { type Moved } from '../engine/feed';
import { Follower } from '../engine/follower';
import { Handles, SentHere } from '../http/route';
import { CallerIs, may, type Caller } from '../settings/access';
import { DefinitionStore } from '../settings/definition-store';
import { TodayService } from './today.service';

/** Open pages hear at most so often what moved. */
const EVERY_MS = 250;
const KEEP_ALIVE_MS = 20_000;
const MOST_NAMED = 100;

@Controller()
export class TodayController implements OnModuleDestroy {
  readonly #open = new Set<Response>();

  constructor(
    private readonly database: Database,
    private readonly service: TodayService,
    private readonly follower: Follower,
    private readonly store: DefinitionStore,
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
    return this.service.search(query.q, may(caller, 'contacts:read'));
  }

  /** Server-sent events: what moved and whom it concerned, ids only. What it says is asked for, with the asker's own access. */
  @Handles('events')
  events(@CallerIs() caller: Caller, @Req() request: Request, @Res() response: Response): void {
    response.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache, no-transform', 'X-Accel-Buffering': 'no' });
    response.write('retry: 1000\n\n');
    this.#open.add(response);
    const mayKnowContacts = may(caller, 'contacts:read');
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
    const subjects = new Set<number>();
    const things = new Set<number>();
    for (const { delta } of moved) {
      for (const [name, n] of Object.entries(delta.counts)) counts[name] = (counts[name] ?? 0) + n;
      for (const id of delta.contacts) subjects.add(id);
      for (const id of delta.things) things.add(id);
    }
    const { compiled, epoch } = await this.store.current(this.database);
    const named = mayKnowContacts ? [...subjects].slice(0, MOST_NAMED) : [];
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
    return { contacts: uids.map((row) => row.uid), more: subjects.size > named.length, definitions, counts, epoch };
  }

  onModuleDestroy(): void {
    for (const response of this.#open) response.end();
  }
}
