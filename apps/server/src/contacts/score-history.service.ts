import { Injectable } from '@nestjs/common';
import { atClock, localDay, Moment, recordedFor, scoreOf, startOfDay, writeDay, type Score } from '@eager-sieve/core';
import { type ScoreHistory } from '@eager-sieve/contracts';
import { Database } from '../database/database';
import { iso } from '../engine/clock';
import { ALL, loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { giverName } from './contact-view';
import { ContactsService } from './contacts.service';
import { type Own } from './own';

const MOST_MOVED = 4;

/** How scores stood on past days. They are worked out of the signals that there were: no day of them is kept. */
@Injectable()
export class ScoreHistoryService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
  ) {}

  async of(named: string, key: string, days: number, own: Own): Promise<ScoreHistory> {
    return this.database.snapshot(async (sql) => {
      const { id } = await this.contacts.find(sql, named);
      const { compiled } = await this.store.seen(sql, own);
      const { catalogue } = compiled;
      const definition = catalogue.find('scorecard', key);
      const derived = compiled
        .derivedFor('contact')
        .find((each) => each.kind === 'score' && each.of === 'contact' && each.id === definition?.id);
      const state = (await loadStates(sql, catalogue, [id], ALL)).get(id);
      if (!definition || derived?.kind !== 'score' || !state) throw notFound('scorecard');
      const { zone } = catalogue;
      const now = Math.max(this.clock.now(), state.lastNow);
      const today = localDay(now, zone);
      const scoreAt = (instant: number): Score => {
        const moment = new Moment(instant, zone);
        return scoreOf(derived.card, atClock(compiled, state, moment), recordedFor(state, definition.id, undefined, instant), moment);
      };
      const nameOf = (line: string): string =>
        line.startsWith('rule:') ? giverName(catalogue, line) : (definition.body.lines.find((each) => each.key === line)?.name ?? line);
      let before = scoreAt(startOfDay(today - days + 1, zone) - 1);
      const history: ScoreHistory['days'] = [];
      for (let day = today - days + 1; day <= today; day += 1) {
        const score = scoreAt(Math.min(now, startOfDay(day + 1, zone) - 1));
        history.push({ day: writeDay(day), points: score.points / 1_000, band: score.band, moved: movedBetween(before, score, nameOf) });
        before = score;
      }
      const crossings = await sql.query<{ at: Date; before: string | null; after: string | null }>(
        `select l.at, coalesce(v.before, l.before) #>> '{}' as before, coalesce(v.after, l.after) #>> '{}' as after
           from ledger l left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id
          where l.contact_id = $1 and l.kind = 'band' and l.verb = 'crossed' and l.definition_id = $2 and l.at >= $3 order by l.id`,
        [id, definition.id, iso(startOfDay(today - days + 1, zone))],
      );
      return {
        days: history,
        crossings: crossings.map(({ at, before: from, after: to }) => ({
          at: at.toISOString(),
          day: writeDay(localDay(at.getTime(), zone)),
          ...{ from, to },
        })),
      };
    });
  }
}

/** Which lines of a score moved, the most first. */
function movedBetween(before: Score, after: Score, nameOf: (line: string) => string): ScoreHistory['days'][number]['moved'] {
  const moved = new Map(after.lines.map(({ key, points }) => [key, points]));
  for (const { key, points } of before.lines) moved.set(key, (moved.get(key) ?? 0) - points);
  return [...moved]
    .filter(([, points]) => points !== 0)
    .sort((a, b) => Math.abs(b[1]) - Math.abs(a[1]))
    .slice(0, MOST_MOVED)
    .map(([line, points]) => ({ line: nameOf(line), points: points / 1_000 }));
}
