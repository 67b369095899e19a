import { Injectable } from '@nestjs/common';
import {
  changesAt,
  effectWords,
  EVERYONE,
  explain,
  isGroup,
  said,
  Moment,
  thingOf,
  withClock,
  type Catalogue,
  type Condition,
  type Explanation,
} from '@eager-sieve/core';
import { type TraceQuery, type TraceView } from '@eager-sieve/contracts';
import { type Own } from '../contacts/own';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { notFound } from '../http/problem';
import { summaryOf } from '../intake/summary';
import { DefinitionStore, type Epoch } from '../settings/definition-store';
import { EFFECT_COLUMNS, EFFECT_TABLES, type StoredEffect } from './ledger.service';
import { causeWords, viaWords } from './words';

export type Traced = TraceQuery['of'];
/** Those that came before the latest, one by one. */
const BEFORE_SHOWN = 20;
/** Facts that a contact has one of, which are traced without a key. */
const ONE_EACH: readonly Traced[] = ['stage', 'owner'];
type Step = TraceView['steps'][number];
const DEEPEST = 40;

/** Explains one fact about a contact or a company: the chain of causes from it back to the signal, and what else the same signal did. */
@Injectable()
export class TraceService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
  ) {}

  /** What is asked has the key of the tag, scorecard, audience or field; for consent the channel */
  async trace(subject: number, { of: traced, key }: TraceQuery, own: Own): Promise<TraceView> {
    const epoch = await this.store.seen(this.database, own);
    const { catalogue } = epoch.compiled;
    const kind = ({ tag: 'tag', band: 'scorecard', membership: 'audience', field: 'field' } as const)[traced as 'tag'];
    const named = traced !== 'consent' && !ONE_EACH.includes(traced);
    const thing = named ? catalogue.find(kind, key) : undefined;
    if (named && !thing) throw notFound(kind);
    const history = await this.database.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES}
        where l.contact_id = $1 and l.kind = $2 and ($3::int is null or l.definition_id = $3) and ($4::text is null or l.channel = $4) order by l.id desc limit ${BEFORE_SHOWN + 2}`,
      [subject, traced, thing?.id ?? null, traced === 'consent' ? key : null],
    );
    const now = traced === 'membership' ? await this.#membershipNow(epoch, subject, thing?.id ?? -1) : undefined;
    const [latest] = history;
    const chain = latest ? await this.#chain(this.database, latest) : [];
    const steps = [...(now?.steps ?? []), ...(await this.#steps(this.database, catalogue, subject, chain))];
    return {
      title: titleOf(traced, thing?.name ?? key, now?.isIn ?? latest?.verb !== 'removed'),
      since: latest?.at.toISOString() ?? null,
      until: now?.until ?? null,
      steps,
      also: latest ? [...(await this.#also(this.database, catalogue, subject, latest, new Set(chain.map((effect) => effect.id))))] : [],
      takeBack: takenWith(chain),
      before: [
        ...history
          .slice(1, BEFORE_SHOWN + 1)
          .map((effect) => ({ words: `${effectWords(effect, catalogue)} · ${effect.at.toISOString()}` })),
        ...(history.length > BEFORE_SHOWN + 1 ? [{ words: 'What came before that stands in the ledger.' }] : []),
      ],
    };
  }

  async #membershipNow(
    epoch: Epoch,
    contactId: number,
    audienceId: number,
  ): Promise<{ steps: readonly Step[]; until: string | null; isIn: boolean } | undefined> {
    const { compiled } = epoch;
    const derived = compiled.derived.find((each) => each.kind === 'audience' && each.id === audienceId);
    const audience = compiled.catalogue.get('audience', audienceId);
    const state = (await loadStates(this.database, compiled.catalogue, [contactId], compiled.needs)).get(contactId);
    if (derived?.kind !== 'audience' || !audience || !state) return undefined;
    const moment = new Moment(Math.max(this.clock.now(), state.lastNow), compiled.catalogue.zone);
    const explanation = explain(derived.node, state, moment);
    const changes = changesAt(derived.node, withClock(compiled, state, moment), moment);
    const lines = leafWords(explanation, audience.body.condition ?? EVERYONE, compiled.catalogue);
    const isIn = state.memberships.has(audienceId);
    const pin = state.pins.get(audienceId);
    const pinned: readonly Step[] = pin
      ? [
          {
            title: pin.in ? 'Pinned in, whatever the lines say' : 'Pinned out, whatever the lines say',
            detail: [pin.reason, `by ${pin.by}`, pin.until === undefined ? '' : `until ${iso(pin.until)}`].filter(Boolean).join(' · '),
            at: iso(pin.since),
            link: `/audiences/${audience.key}`,
          },
        ]
      : [];
    const next = pin ? (pin.until ?? Number.POSITIVE_INFINITY) : changes;
    return {
      isIn,
      until: Number.isFinite(next) ? iso(next) : null,
      steps: [
        ...pinned,
        {
          title: explanation.holds ? 'The lines hold' : 'Not all lines hold',
          detail: lines.map((line) => `${line.holds ? '✓' : '✗'} ${line.words}`).join('\n'),
          at: iso(moment.instant),
          link: `/audiences/${audience.key}`,
        },
      ],
    };
  }

  async #chain(sql: Sql, latest: StoredEffect): Promise<readonly StoredEffect[]> {
    const chain = [latest];
    while (chain.length < DEEPEST) {
      const parent = chain.at(-1)?.parent;
      if (parent === null || parent === undefined) break;
      const [next] = await sql.query<StoredEffect>(`select ${EFFECT_COLUMNS} from ${EFFECT_TABLES} where l.id = $1`, [parent]);
      if (!next) break;
      chain.push(next);
    }
    return chain;
  }

  async #steps(sql: Sql, catalogue: Catalogue, subject: number, chain: readonly StoredEffect[]): Promise<readonly Step[]> {
    const steps: Step[] = chain.map((effect) => ({
      // What was done to another says to whom.
      title: effect.contact_id === subject ? stepWords(effect, catalogue) : `${effect.subject_name}: ${stepWords(effect, catalogue)}`,
      detail: [becauseWords(effect, catalogue), effect.kind === 'firing' || effect.rule_id === null ? '' : ruleWords(effect, catalogue)]
        .filter(Boolean)
        .join(' · '),
      at: effect.at.toISOString(),
      link: linkOf(effect, catalogue),
    }));
    const root = chain.at(-1);
    if (!root) return steps;
    if (root.cause_kind === 'signal') return [...steps, ...(await this.#signalStep(sql, catalogue, root, Number(root.cause_ref)))];
    const [words] = await causeWords(sql, catalogue, [root]);
    const cause: Step = { title: CAUSE_TITLES[root.cause_kind] ?? 'Cause', detail: words ?? '', at: root.at.toISOString(), link: null };
    // A rule that included the past worked on an old signal: that signal is its cause.
    const pastSignal = root.kind === 'firing' ? (root.after as { signal?: number } | null)?.signal : undefined;
    return [...steps, cause, ...(pastSignal === undefined ? [] : await this.#signalStep(sql, catalogue, root, pastSignal))];
  }

  async #signalStep(sql: Sql, catalogue: Catalogue, { contact_id }: StoredEffect, signalId: number): Promise<readonly Step[]> {
    const [signal] = await sql.query<{ type_id: number; time: Date; received_at: Date; sender_id: string; source: string; data: unknown }>(
      `select s.type_id, s.time, s.received_at, s.sender_id, o.name as source, s.data from signal s join source o on o.id = s.source_id where (s.contact_id = $1 or s.contact_id in (select id from contact where company_id = $1)) and s.id = $2`,
      [contact_id, signalId],
    );
    if (!signal) return [];
    const type = catalogue.get('signalType', signal.type_id);
    return [
      {
        title: `Signal ${type?.key ?? ''}`,
        detail: [
          summaryOf(type?.key ?? '', signal.data, catalogue),
          `${signal.source} / ${signal.sender_id}`,
          `arrived ${signal.received_at.toISOString()}`,
        ]
          .filter(Boolean)
          .join('\n'),
        at: signal.time.toISOString(),
        link: null,
      },
    ];
  }

  async #also(
    sql: Sql,
    catalogue: Catalogue,
    contactId: number,
    latest: StoredEffect,
    shown: ReadonlySet<number>,
  ): Promise<readonly { words: string }[]> {
    if (latest.cause_kind !== 'signal') return [];
    const rows = await sql.query<StoredEffect>(
      `select ${EFFECT_COLUMNS} from ${EFFECT_TABLES} where l.contact_id = $1 and l.cause_kind = 'signal' and l.cause_ref = $2 order by l.id`,
      [contactId, latest.cause_ref],
    );
    return rows
      .filter((row) => !shown.has(row.id) && !catalogue.hidden.has(row.definitionId ?? -1))
      .map((row) => ({ words: effectWords(row, catalogue) }));
  }
}

/** What rules and people did can be taken back; what signals, imports and the clock did cannot. */
function takenWith(chain: readonly StoredEffect[]): number | null {
  const fired = chain.find((effect) => effect.kind === 'firing' && effect.verb === 'fired');
  if (fired) return fired.reversed ? null : fired.id;
  const root = chain.at(-1);
  return root && root.cause_kind === 'person' && !root.reversed && !root.reverses ? root.id : null;
}

const CAUSE_TITLES: Readonly<Record<string, string>> = {
  person: 'By hand',
  import: 'An import',
  api: 'The API',
  clock: 'The clock',
  sweep: 'A run',
  definition: 'A definition was saved',
  effect: 'What was done to another',
  'take back': 'Taken back',
  again: 'Done again',
};

function titleOf(traced: Traced, name: string, holds: boolean): string {
  switch (traced) {
    case 'tag':
      return holds ? `Why ${name}?` : `${name} is gone. Why?`;
    case 'band':
      return `Why this band of ${name}?`;
    case 'membership':
      return holds ? `Why in ${name}?` : `Why not in ${name}?`;
    case 'consent':
      return `Why this consent to ${name}?`;
    case 'field':
      return `Where does ${name} come from?`;
    case 'stage':
      return 'Why this stage?';
    case 'owner':
      return 'Why this owner?';
  }
}

const stepWords = (effect: StoredEffect, catalogue: Catalogue): string =>
  catalogue.hidden.has(effect.definitionId ?? -1) ? `Something ${catalogue.absence(effect.definitionId)}` : effectWords(effect, catalogue);

function becauseWords(effect: StoredEffect, catalogue: Catalogue): string {
  const words = viaWords(effect.via, catalogue);
  return words && `because ${words} changed`;
}

const ruleWords = (effect: StoredEffect, catalogue: Catalogue): string => {
  const rule = effect.rule_id === null ? undefined : catalogue.get('rule', effect.rule_id);
  return rule ? `rule ${rule.name}, version ${effect.ruleVersion ?? ''}` : '';
};

function linkOf(effect: StoredEffect, catalogue: Catalogue): string | null {
  const key = thingOf(effect, catalogue)?.key;
  if (!key) return null;
  const place = ({ membership: 'audiences', firing: 'rules', band: 'scores', tag: 'tags' } as Record<string, string>)[effect.kind];
  return place ? (place === 'tags' ? '/tags' : `/${place}/${key}`) : null;
}

/** For each line, whether it is as the audience needs it: inside "none of these" a line must not hold. */
function leafWords(
  explanation: Explanation,
  condition: Condition,
  catalogue: Catalogue,
  turned = false,
): readonly { holds: boolean; words: string }[] {
  if (isGroup(condition)) {
    const inner = condition.match === 'none' ? !turned : turned;
    return (explanation.of ?? []).flatMap((each, index) => leafWords(each, condition.of[index] as Condition, catalogue, inner));
  }
  const { seen } = explanation;
  const saw =
    seen?.kind === 'signals'
      ? `${seen.count} counted`
      : seen?.kind === 'points'
        ? `${seen.points / 1_000} points`
        : seen?.kind === 'value' && seen.value === null
          ? 'no value'
          : '';
  return [
    {
      holds: explanation.holds !== turned,
      words: `${said(turned ? { match: 'none', of: [condition] } : condition, catalogue)}${saw ? ` (${saw})` : ''}`,
    },
  ];
}
