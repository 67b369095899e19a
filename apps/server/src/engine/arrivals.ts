import { readFact, type Arrival, type Catalogue, type Change, type DealPatch, type Fact, type Signal } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type DealPayload, type EditPayload, type InboxPayload, type SignalPayload } from './inbox';

export type InboxRow = InboxPayload & {
  readonly lane: number;
  readonly seq: number;
  readonly contact_id: number;
  readonly arrived_at: Date;
};
/** An inbox row worked in a pass of its subject. The others go to several subjects, or to a routing table. */
export type PassRow = Extract<InboxRow, { readonly kind: 'signal' | 'edit' | 'touch' | 'sweep' }>;
export const isPassRow = (row: InboxRow): row is PassRow => row.kind !== 'fan' && row.kind !== 'turn';

/** Facts of the companies that contacts are about to be linked to, by company. */
export type CompanyFacts = ReadonlyMap<number, ReadonlyMap<number, Fact>>;

/** What a row of the inbox is to its subject. */
export function arrivalOf(row: PassRow, catalogue: Catalogue, companies: CompanyFacts): Arrival {
  switch (row.kind) {
    case 'signal': {
      const { payload } = row;
      const made = payload.made && { made: fieldChanges(payload.made, catalogue) };
      return { kind: 'signal', signal: signalOf(payload), data: payload.data, ...made };
    }
    case 'touch': {
      const { on, cause, parent, hop = 0 } = row.payload;
      return { kind: 'touch', on, cause, parent, hop };
    }
    case 'sweep':
      return { kind: 'sweep', of: row.payload.of, cause: { kind: 'sweep', ref: String(row.payload.run) } };
    case 'edit': {
      const { payload } = row;
      return {
        kind: 'edit',
        changes: changesOf(payload, catalogue, row.arrived_at.getTime(), companies),
        ...(payload.parts ? { parts: payload.parts } : {}),
        cause: payload.cause,
        parent: payload.parent,
        hop: payload.hop ?? 0,
      };
    }
  }
}

const signalOf = (payload: SignalPayload): Signal => ({
  id: payload.id,
  typeId: payload.typeId,
  time: payload.time,
  source: payload.source,
  senderId: payload.senderId,
  details: payload.details,
  historic: payload.historic,
});

/** What an edit asks to be changed. */
export function changesOf(payload: EditPayload, catalogue: Catalogue, at: number, companies: CompanyFacts): readonly Change[] {
  const changes: Change[] = [];
  // The company first: later changes may be evaluated together with it.
  if (payload.company !== undefined) {
    const company = payload.company ?? undefined;
    changes.push({ kind: 'company', company, facts: company === undefined ? undefined : (companies.get(company) ?? new Map()) });
  }
  changes.push(...fieldChanges(payload.fields ?? {}, catalogue));
  const reason = payload.reason ?? { kind: 'api', ref: '' };
  for (const { tag, value } of payload.addTags ?? []) changes.push({ kind: 'tag', tag, add: true, reason, value });
  for (const tag of payload.removeTags ?? []) changes.push({ kind: 'tag', tag, add: false, reasons: 'all' });
  for (const [channel, state] of Object.entries(payload.consent ?? {}))
    changes.push({ kind: 'consent', channel: channel as 'email', state, at });
  // A stage or owner set by a person or program is taken as it is, also backwards.
  if (payload.stage !== undefined) changes.push({ kind: 'stage', stage: payload.stage ?? undefined, backward: true });
  if (payload.owner !== undefined) changes.push({ kind: 'owner', owner: payload.owner ?? undefined, replace: true });
  for (const [audience, on] of Object.entries(payload.lists ?? {})) changes.push({ kind: 'list', audience: Number(audience), on });
  for (const deal of payload.deals ?? []) changes.push({ kind: 'deal', deal: dealOf(deal) });
  for (const deal of payload.dealsGone ?? []) changes.push({ kind: 'deal gone', deal });
  changes.push(...(payload.asked ?? []));
  return changes;
}

const fieldChanges = (fields: Readonly<Record<number, unknown>>, catalogue: Catalogue): readonly Change[] =>
  Object.entries(fields).flatMap(([id, value]): readonly Change[] => {
    const field = catalogue.get('field', Number(id));
    const read = field && readFact(field.body, value, catalogue.workspace);
    return read?.ok ? [{ kind: 'field', field: Number(id), value: read.value }] : [];
  });

const dealOf = (deal: DealPayload): DealPatch => ({
  ...deal,
  facts: new Map(Object.entries(deal.facts).map(([field, fact]) => [Number(field), fact ?? undefined])),
});

/** The companies that these rows name. */
export const companiesIn = (rows: readonly InboxRow[]): readonly number[] => [
  ...new Set(rows.flatMap((row) => (row.kind === 'edit' ? (row.payload.company ?? []) : []))),
];

export async function takeFromInbox(sql: Sql, rows: readonly InboxRow[]): Promise<void> {
  await sql.query(
    'delete from inbox i using unnest($1::smallint[], $2::bigint[]) as r(lane, seq) where i.lane = r.lane and i.seq = r.seq',
    [rows.map((row) => row.lane), rows.map((row) => row.seq)],
  );
}
