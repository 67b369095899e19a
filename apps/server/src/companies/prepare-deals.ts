import { minorUnits, type Catalogue, type Fact, type Fault } from '@eager-sieve/core';
import { type DealWrite, type PutDeals } from '@eager-sieve/contracts';
import { v7 as uuidV7 } from 'uuid';
import { companiesByOutsideId } from '../contacts/prepare-contacts';
import { originOfEdit } from '../contacts/origin';
import { readSubject, resolveContacts, subjectKey, type Subject } from '../contacts/resolve';
import { readSentFields } from '../contacts/sent-fields';
import { type Sql } from '../database/database';
import { iso } from '../engine/clock';
import { rejected, type EditCause, type EditContext, type EditResult, type PreparedEdits } from '../engine/edits.service';
import { withMade, type DealPayload, type InboxEntry } from '../engine/inbox';

interface KnownDeal {
  readonly id: number;
  readonly uid: string;
  readonly outside_id: string;
  readonly holder_id: number;
  readonly holder_lane: number;
  readonly contact_id: number | null;
  readonly company_id: number | null;
  readonly pipeline_id: number;
  readonly stage: string;
  readonly name: string;
  readonly amount: number | null;
  readonly opened_at: Date;
  readonly facts: Record<string, Fact>;
}
interface Holder {
  readonly id: number;
  readonly lane: number;
}

/** Reads what is sent of deals, finds those that are here and makes those that are new, and the contacts that they are of. */
export async function prepareDeals({ sql, catalogue, now }: EditContext, request: PutDeals, cause: EditCause): Promise<PreparedEdits> {
  const known = await knownDeals(
    sql,
    request.deals.flatMap(({ value }) => value?.outsideId ?? []),
  );
  const named = request.deals.flatMap(({ value }) => value?.company ?? []);
  const companies = new Map((await companiesByOutsideId(sql, named)).map((row) => [row.outside_id, row]));
  const read = request.deals.map((item): ReadDeal | Pick<ReadDeal, 'faults'> =>
    item.faults ? { faults: item.faults } : readDeal(item.value, catalogue, known.get(item.value.outsideId), companies),
  );
  const subjects = read.flatMap((each) => ('patch' in each && each.faults.length === 0 && each.contact ? [each.contact] : []));
  const origin = await originOfEdit(sql, cause);
  const { contacts, made } = await resolveContacts(sql, catalogue, subjects, now, () => origin);
  const entries: InboxEntry[] = [];
  const results: EditResult[] = [];
  for (const [index, each] of read.entries()) {
    if (!('patch' in each) || each.faults.length > 0) {
      results.push(rejected(index, each.faults));
      continue;
    }
    const before = known.get(each.patch.outsideId);
    if (before && request.onExisting === 'skip') {
      results.push({ index, uid: before.uid, status: 'skipped' });
      continue;
    }
    const holder = holderOf(each, before, contacts, companies);
    const deal = before ?? (await makeDeal(sql, each.patch, holder, now));
    entries.push(...(await writesOf(sql, before, { ...each.patch, id: deal.id }, holder, cause)));
    known.set(each.patch.outsideId, { ...deal, holder_id: holder.id, holder_lane: holder.lane });
    results.push({ index, status: before ? 'updated' : 'created', uid: deal.uid, subject: holder.id });
  }
  return { entries: withMade(entries, made, cause), results };
}

/** The edits that write a deal. If its holder changes, the new holder writes it whole and the old one drops it. */
async function writesOf(
  sql: Sql,
  before: KnownDeal | undefined,
  deal: DealPayload,
  holder: Holder,
  cause: EditCause,
): Promise<readonly InboxEntry[]> {
  const edit = (to: Holder, payload: object): InboxEntry => ({
    kind: 'edit',
    contactId: to.id,
    lane: to.lane,
    payload: { cause, ...payload },
  });
  if (!before || before.holder_id === holder.id) return [edit(holder, { deals: [deal] })];
  await sql.query('update deal set next_holder_id = $2 where id = $1', [deal.id, holder.id]);
  return [
    edit(holder, { deals: [whole(before, deal)] }),
    edit({ id: before.holder_id, lane: before.holder_lane }, { dealsGone: [deal.id] }),
  ];
}

interface ReadDeal {
  readonly faults: readonly Fault[];
  readonly contact: Subject | undefined;
  readonly patch: Omit<DealPayload, 'id'>;
}

function readDeal(
  written: DealWrite,
  catalogue: Catalogue,
  before: KnownDeal | undefined,
  companies: ReadonlyMap<string, { id: number }>,
): ReadDeal {
  const faults: Fault[] = [];
  const fault = (path: string, code: string, expected: string): void => void faults.push({ path: [path], code, expected });
  const pipelines = catalogue.all('pipeline');
  const only = pipelines.length === 1 ? pipelines[0] : undefined;
  const pipeline =
    written.pipeline === undefined
      ? before
        ? catalogue.get('pipeline', before.pipeline_id)
        : only
      : catalogue.find('pipeline', written.pipeline);
  if (!pipeline) fault('pipeline', 'pipeline.unknown', `one of ${pipelines.map((each) => each.key).join(', ') || '(there are none yet)'}`);
  const stages = pipeline?.body.stages.map((stage) => stage.key) ?? [];
  const stage = written.stage ?? (before && before.pipeline_id === pipeline?.id ? before.stage : stages[0]) ?? '';
  if (pipeline && !stages.includes(stage)) fault('stage', 'stage.unknown', `one of ${stages.join(', ')}`);
  const contact = written.contact === undefined ? undefined : readSubject(written.contact);
  if (written.contact !== undefined && !contact) fault('contact', 'contact.malformed', 'an email address, or id: and an outside id');
  if (written.company && !companies.has(written.company)) fault('company', 'company.unknown', 'the outside id of a company that exists');
  if (!before && !contact && !written.company) fault('contact', 'deal.holder', 'whose deal it is: a contact or a company');
  const amount =
    written.amount === undefined || written.amount === null
      ? written.amount
      : minorUnits(written.amount, written.currency, catalogue.workspace, ['amount']);
  if (amount && !amount.ok) faults.push(...amount.faults);
  const sent = readSentFields(written.fields ?? {}, 'deal', catalogue);
  faults.push(...sent.faults);
  return {
    faults,
    contact,
    patch: {
      outsideId: written.outsideId,
      name: written.name,
      pipeline: pipeline?.id ?? -1,
      stage,
      amount: amount && amount.ok ? amount.value : amount === null ? null : undefined,
      company: written.company === undefined ? undefined : written.company === null ? null : companies.get(written.company)?.id,
      facts: Object.fromEntries(sent.fields.map(({ id, fact }) => [id, fact])),
    },
  };
}

/** The known deals, locked until the end of the transaction, so that two requests cannot both give one a new holder. */
async function knownDeals(sql: Sql, outsideIds: readonly string[]): Promise<Map<string, KnownDeal>> {
  const rows = await sql.query<KnownDeal>(
    `select d.id, d.uid, d.outside_id, coalesce(d.next_holder_id, d.holder_id) as holder_id, d.contact_id, d.company_id, d.pipeline_id, d.stage, d.name, d.amount,
            d.opened_at, d.facts, coalesce((select lane from contact where id = coalesce(d.next_holder_id, d.holder_id)),
                                           (select lane from company where id = coalesce(d.next_holder_id, d.holder_id))) as holder_lane
       from deal d where d.outside_id = any($1::text[]) order by d.id for update of d`,
    [outsideIds],
  );
  return new Map(rows.map((row) => [row.outside_id, row]));
}

function holderOf(
  { contact, patch }: ReadDeal,
  before: KnownDeal | undefined,
  contacts: ReadonlyMap<string, Holder>,
  companies: ReadonlyMap<string, Holder>,
): Holder {
  if (contact) return contacts.get(subjectKey(contact)) as Holder;
  if (before) return { id: before.holder_id, lane: before.holder_lane };
  return [...companies.values()].find((company) => company.id === patch.company) as Holder;
}

/** Inserts the row of a new deal. Conditions do not see it until its holder's pass has written it. */
async function makeDeal(sql: Sql, patch: Omit<DealPayload, 'id'>, holder: Holder, now: number): Promise<KnownDeal> {
  const [row] = await sql.query<{ id: number; uid: string }>(
    `insert into deal (id, uid, outside_id, holder_id, pipeline_id, stage, name, opened_at, moved_at, details)
     values (nextval('deal_id_seq'), $1, $2, $3, $4, $5, $6, $7, $7, '{}') returning id, uid`,
    [uuidV7({ msecs: now }), patch.outsideId, holder.id, patch.pipeline, patch.stage, patch.name ?? patch.outsideId, iso(now)],
  );
  return {
    id: Number(row?.id),
    uid: row?.uid ?? '',
    outside_id: patch.outsideId,
    holder_id: holder.id,
    holder_lane: holder.lane,
    contact_id: null,
    company_id: null,
    pipeline_id: patch.pipeline,
    stage: patch.stage,
    name: patch.name ?? patch.outsideId,
    amount: null,
    opened_at: new Date(now),
    facts: {},
  };
}

/** The whole deal, for a new holder that has none of it yet. */
const whole = (before: KnownDeal, patch: DealPayload): DealPayload => ({
  ...patch,
  name: patch.name ?? before.name,
  amount: patch.amount === undefined ? before.amount : patch.amount,
  company: patch.company === undefined ? before.company_id : patch.company,
  opened: before.opened_at.getTime(),
  facts: { ...before.facts, ...patch.facts },
});
