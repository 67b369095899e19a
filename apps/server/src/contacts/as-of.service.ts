import { Injectable } from '@nestjs/common';
import {
  groupedMoney,
  keptValueWords,
  localDay,
  moneyText,
  readDay,
  startOfDay,
  tagValueWords,
  type Catalogue,
  type Instant,
  type KeptValue,
  type SubjectState,
} from '@eager-sieve/core';
import { type AsOf, type AsOfRow } from '@eager-sieve/contracts';
import { Database, type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { ALL, loadStates } from '../engine/load-states';
import { ServerClock } from '../engine/server-clock';
import { faulty, notFound } from '../http/problem';
import { DefinitionStore } from '../settings/definition-store';
import { fieldViews } from './contact-view';
import { ContactsService } from './contacts.service';
import { type Own } from './own';

/** A contact as it stood at the end of a past day, beside how it stands now. The ledger knows: nothing changes without an entry there. */
@Injectable()
export class AsOfService {
  constructor(
    private readonly database: Database,
    private readonly store: DefinitionStore,
    private readonly clock: ServerClock,
    private readonly contacts: ContactsService,
  ) {}

  /**
   * @param written a day of the workspace, such as 2026-11-25
   * @throws ProblemError 422 for no day, or one that is still to come
   */
  async of(named: string, written: string, own: Own): Promise<AsOf> {
    const day = readDay(written);
    if (day === undefined) throw faulty([{ path: ['day'], code: 'date.malformed', expected: 'a day like 2026-11-25' }]);
    return this.database.snapshot(async (sql) => {
      const contact = await this.contacts.find(sql, named);
      const { catalogue } = (await this.store.seen(sql, own)).compiled;
      const state = (await loadStates(sql, catalogue, [contact.id], ALL)).get(contact.id);
      if (!state) throw notFound('contact');
      const now = Math.max(this.clock.now(), state.lastNow);
      if (day > localDay(now, catalogue.zone)) throw faulty([{ path: ['day'], code: 'date.ahead', expected: 'today, or a day before' }]);
      const at = Math.min(now, startOfDay(day + 1, catalogue.zone) - 1);
      const wasHere = contact.made_at.getTime() <= at;
      const last = wasHere ? await lastBy(sql, contact.id, at) : [];
      const companies = await companyNames(sql, [state.company, ...last.map(companyIn)]);
      const values = wasHere ? await valuesBy(sql, contact.id, at) : new Map<number, number | null>();
      const telling = { catalogue, companies, values, deals: await dealNames(sql, last) };
      const bands = wasHere ? await bandsBy(sql, contact.id, at, state) : new Map<number, string>();
      const then = [...last.flatMap((row) => thenOf(row, telling)), ...bandsOf(bands, catalogue)];
      return { at: iso(at), wasHere, rows: rowsOf(then, nowOf(state, telling)) };
    });
  }
}

interface Telling {
  readonly catalogue: Catalogue;
  /** names by id */
  readonly companies: ReadonlyMap<number, string>;
  /** what tags carried, by the ids of the tags */
  readonly values: ReadonlyMap<number, number | null>;
  /** names of deals by their outside ids */
  readonly deals: ReadonlyMap<string, string>;
}

/** One thing that stands: what it is, and as people read it. */
interface Stands extends Pick<AsOfRow, 'of' | 'name'> {
  /** by which it is told from others of its kind */
  readonly key: string | number;
  readonly words: string;
}

/** The last effect on one thing, which is a definition, or what there is one of for each contact. */
interface LastRow {
  readonly kind: 'tag' | 'field' | 'consent' | 'stage' | 'owner' | 'company' | 'membership' | 'deal';
  readonly verb: string;
  readonly thing: number | null;
  /** of consent, or the outside id of a deal */
  readonly channel: string | null;
  /** the pipeline of a deal */
  readonly pipeline: number | null;
  readonly after: unknown;
}

const lastBy = (sql: Sql, contact: number, at: Instant): Promise<LastRow[]> =>
  sql.query(
    `select distinct on (l.kind, l.thing, l.about) l.kind, l.verb, l.thing, l.about as channel, l.pipeline, coalesce(v.after, l.after) as after
       from (select *, case when kind in ('stage', 'owner', 'company', 'deal') then null else definition_id end as thing,
                    case when kind = 'deal' then definition_id end as pipeline,
                    -- Of a deal that went over to somebody else the id is kept, and of all others the outside id.
                    case when kind = 'deal' and verb = 'removed' then (select d.outside_id from deal d where d.id::text = channel) else channel end as about
               from ledger
              where contact_id = $1 and at <= $2
                and (kind in ('field', 'consent', 'stage', 'owner', 'company', 'membership', 'deal')
                     or (kind = 'tag' and verb in ('added', 'removed')))) l
       left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id
      order by l.kind, l.thing, l.about, l.id desc`,
    [contact, iso(at)],
  );

/** What tags carried by an instant: as they came, or as they were given another value since. */
async function valuesBy(sql: Sql, contact: number, at: Instant): Promise<ReadonlyMap<number, number | null>> {
  const rows = await sql.query<{ tag: number; value: number | null }>(
    `select distinct on (tag) tag, value from (
       select l.id, l.verb, l.definition_id as tag, coalesce(v.after, l.after) -> 'value' as value
         from ledger l left join ledger_value v on v.contact_id = l.contact_id and v.ledger_id = l.id
        where l.contact_id = $1 and l.at <= $2 and l.kind = 'tag' and l.verb in ('added', 'valued', 'reason added')) l
      where verb = 'added' or value is not null order by tag, id desc`,
    [contact, iso(at)],
  );
  return new Map(rows.map(({ tag, value }) => [tag, value]));
}

/** What deals are called now, by their outside ids. */
async function dealNames(sql: Sql, last: readonly LastRow[]): Promise<ReadonlyMap<string, string>> {
  const ids = last.flatMap(({ kind, channel }) => (kind === 'deal' && channel !== null ? [channel] : []));
  const rows = await sql.query<{ id: string; name: string }>(
    `select outside_id as id, coalesce(nullif(name, ''), outside_id) as name from deal where outside_id = any($1::text[])`,
    [ids],
  );
  return new Map(rows.map(({ id, name }) => [id, name]));
}

/** The bands by an instant: of what was crossed since, the one from which it was first. */
async function bandsBy(sql: Sql, contact: number, at: Instant, state: SubjectState): Promise<ReadonlyMap<number, string>> {
  const crossed = await sql.query<{ card: number; before: string }>(
    `select distinct on (definition_id) definition_id as card, before #>> '{}' as before from ledger
      where contact_id = $1 and kind = 'band' and verb = 'crossed' and at > $2 order by definition_id, id`,
    [contact, iso(at)],
  );
  return new Map([
    ...[...state.scores].map(([card, { band }]) => [card, band] as const),
    ...crossed.map(({ card, before }) => [card, before] as const),
  ]);
}

const companyIn = ({ kind, after }: LastRow): number | undefined => (kind === 'company' && after !== null ? Number(after) : undefined);

async function companyNames(sql: Sql, ids: readonly (number | undefined)[]): Promise<ReadonlyMap<number, string>> {
  const rows = await sql.query<{ id: number; name: string }>(
    `select id, coalesce(nullif(name, ''), outside_id) as name from company where id = any($1::bigint[])`,
    [ids.filter((id) => id !== undefined)],
  );
  return new Map(rows.map(({ id, name }) => [id, name]));
}

const standing = (name: string, words: string | undefined): readonly Stands[] =>
  words === undefined ? [] : [{ of: 'standing', key: name, name, words }];
const tagged = (id: number | null, value: number | null | undefined, catalogue: Catalogue): readonly Stands[] => {
  const tag = catalogue.get('tag', id ?? -1);
  if (!tag) return [];
  return [{ of: 'tag', key: tag.id, name: tag.key, words: value == null ? 'has it' : tagValueWords(catalogue, tag.id, value) }];
};
/** At which stage a deal stands, and what it is worth. */
function dealStands(
  outsideId: string,
  name: string,
  pipeline: number | null,
  deal: { stage: string; amount: number | null },
  { catalogue }: Telling,
): Stands {
  const stage = catalogue.body('pipeline', pipeline ?? -1)?.stages.find(({ key }) => key === deal.stage)?.name ?? deal.stage;
  const { currency } = catalogue.workspace;
  const worth = deal.amount === null ? '' : `, ${groupedMoney(moneyText(deal.amount, currency))} ${currency}`;
  return { of: 'deal', key: outsideId, name, words: `${stage}${worth}` };
}
const inside = (id: number | null, catalogue: Catalogue): readonly Stands[] => {
  const audience = catalogue.get('audience', id ?? -1);
  return audience ? [{ of: 'audience', key: audience.id, name: audience.name, words: 'in it' }] : [];
};
const bandsOf = (bands: ReadonlyMap<number, string>, catalogue: Catalogue): readonly Stands[] =>
  [...bands].flatMap(([id, band]) => {
    const card = catalogue.get('scorecard', id);
    return card
      ? [{ of: 'score', key: card.id, name: card.name, words: card.body.bands.find(({ key }) => key === band)?.name ?? band }]
      : [];
  });
const companyWords = (id: number, { companies }: Telling): string => companies.get(id) ?? 'a company that is gone';
const stageWords = (id: number, { catalogue }: Telling): string => catalogue.get('stage', id)?.name ?? 'a stage that is gone';

function thenOf({ kind, verb, thing, channel, pipeline, after }: LastRow, telling: Telling): readonly Stands[] {
  const { catalogue } = telling;
  switch (kind) {
    case 'tag':
      return verb === 'added' ? tagged(thing, telling.values.get(thing ?? -1), catalogue) : [];
    case 'membership':
      return verb === 'joined' ? inside(thing, catalogue) : [];
    case 'field': {
      const field = catalogue.get('field', thing ?? -1);
      return field && after !== null
        ? [{ of: 'fact', key: field.id, name: field.name, words: factWords(field.id, after as KeptValue, telling) }]
        : [];
    }
    case 'consent':
      return standing(`consent to ${channel ?? ''}`, String(after));
    case 'stage': {
      const { stage } = after as { readonly stage: number | null };
      return standing('stage', stage === null ? undefined : stageWords(stage, telling));
    }
    case 'deal': {
      if (verb === 'removed' || channel === null) return [];
      return [
        dealStands(channel, telling.deals.get(channel) ?? channel, pipeline, after as { stage: string; amount: number | null }, telling),
      ];
    }
    case 'owner':
      return standing('owner', after === null ? undefined : String(after));
    case 'company':
      return standing('company', after === null ? undefined : companyWords(Number(after), telling));
  }
}

function factWords(field: number, value: KeptValue, { catalogue }: Telling): string {
  const money = catalogue.body('field', field)?.type === 'money' ? ` ${catalogue.workspace.currency}` : '';
  return `${keptValueWords(catalogue, field, value)}${money}`;
}

function nowOf(state: SubjectState, telling: Telling): readonly Stands[] {
  const { catalogue } = telling;
  return [
    ...standing('stage', state.stage && stageWords(state.stage.id, telling)),
    ...standing('owner', state.owner),
    ...standing('company', state.company === undefined ? undefined : companyWords(state.company, telling)),
    ...[...state.consent].flatMap(([channel, consent]) => standing(`consent to ${channel}`, consent.state)),
    ...[...state.tags].flatMap(([id, { value }]) => tagged(id, value, catalogue)),
    ...[...state.deals.values()].map(({ outsideId, name, pipeline, stage, amount }) =>
      dealStands(outsideId, name || outsideId, pipeline, { stage, amount: amount ?? null }, telling),
    ),
    ...bandsOf(new Map([...state.scores].map(([card, { band }]) => [card, band])), catalogue),
    ...[...state.memberships.keys()].flatMap((id) => inside(id, catalogue)),
    ...fieldViews(catalogue, state, 'contact').map(({ key, name, shown }): Stands => ({
      of: 'fact',
      key: catalogue.find('field', key)?.id ?? key,
      name,
      words: shown,
    })),
  ];
}

const ORDER: readonly AsOfRow['of'][] = ['standing', 'score', 'deal', 'tag', 'audience', 'fact'];
const inOrder = (a: AsOfRow, b: AsOfRow): number => ORDER.indexOf(a.of) - ORDER.indexOf(b.of) || a.name.localeCompare(b.name, 'en');

function rowsOf(then: readonly Stands[], now: readonly Stands[]): AsOfRow[] {
  const rows = new Map<string, AsOfRow>();
  const put = (which: 'then' | 'now', { of, key, name, words }: Stands): void => {
    const row = `${of} ${key}`;
    rows.set(row, { ...(rows.get(row) ?? { of, name, then: null, now: null }), [which]: words });
  };
  for (const each of then) put('then', each);
  for (const each of now) put('now', each);
  return [...rows.values()].sort(inOrder);
}
