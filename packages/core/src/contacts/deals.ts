import { z } from 'zod';
import { type DetailField } from '../intake/signal-types.ts';
import { WORDS, type Details } from '../intake/details.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type DealId, type FieldId, type PipelineId } from '../settings/ids.ts';
import { keySchema, nameSchema } from '../settings/keys.ts';
import { fold, paddedWords } from '../text/fold.ts';
import { type Instant } from '../time/zone.ts';
import { type Fact } from './facts.ts';
import { storageOf, type FieldType } from './fields.ts';

export const outcomeSchema = z.enum(['won', 'lost']);

/** The stages that deals of one kind go through, in order. A stage without an outcome is open. */
export const pipelineBodySchema = z
  .strictObject({
    stages: z
      .array(z.strictObject({ key: keySchema, name: nameSchema, outcome: outcomeSchema.optional() }))
      .min(1)
      .max(30),
  })
  .refine(({ stages }) => new Set(stages.map((stage) => stage.key)).size === stages.length, {
    path: ['stages'],
    message: 'stages with different keys',
  });
export type PipelineBody = z.infer<typeof pipelineBodySchema>;

/** A deal as it belongs to a contact, or to a company alone. */
export interface Deal {
  readonly id: DealId;
  readonly outsideId: string;
  readonly name: string;
  readonly pipeline: PipelineId;
  readonly stage: string;
  /** minor units of the workspace's currency */
  readonly amount: number | undefined;
  readonly company: number | undefined;
  readonly opened: Instant;
  /** when its present stage began */
  readonly moved: Instant;
  readonly facts: ReadonlyMap<FieldId, Fact>;
}

/** What is to change of a deal; what is left out stays as it is. */
export interface DealPatch {
  readonly id: DealId;
  readonly outsideId: string;
  readonly name?: string | undefined;
  readonly pipeline: PipelineId;
  readonly stage: string;
  /** null takes it away */
  readonly amount?: number | null | undefined;
  readonly company?: number | null | undefined;
  readonly opened?: Instant | undefined;
  /** undefined empties a field */
  readonly facts: ReadonlyMap<FieldId, Fact | undefined>;
}

/** The deal after a patch. */
export function patched(before: Deal | undefined, patch: DealPatch, now: Instant): Deal {
  const facts = new Map(before?.facts);
  for (const [field, fact] of patch.facts) {
    if (fact === undefined) facts.delete(field);
    else facts.set(field, fact);
  }
  const sameStage = before?.stage === patch.stage && before.pipeline === patch.pipeline;
  return {
    id: patch.id,
    outsideId: patch.outsideId,
    name: patch.name ?? before?.name ?? patch.outsideId,
    pipeline: patch.pipeline,
    stage: patch.stage,
    amount: patch.amount === undefined ? before?.amount : (patch.amount ?? undefined),
    company: patch.company === undefined ? before?.company : (patch.company ?? undefined),
    opened: before?.opened ?? patch.opened ?? now,
    moved: sameStage ? before.moved : now,
    facts,
  };
}

const DETAIL_TYPE: Record<FieldType, DetailField['type']> = {
  text: 'text',
  'long text': 'text',
  link: 'text',
  phone: 'text',
  number: 'number',
  money: 'money',
  date: 'date',
  'date-time': 'date-time',
  'yes/no': 'yes/no',
  'one choice': 'text',
  'several choices': 'list',
};

const OWN_DETAILS: readonly DetailField[] = [
  { key: 'pipeline', type: 'text' },
  { key: 'stage', type: 'text' },
  { key: 'outcome', type: 'text' },
  { key: 'amount', type: 'money' },
  { key: 'name', type: 'text' },
  { key: 'opened', type: 'date-time' },
  { key: 'moved', type: 'date-time' },
];

/** What a condition can ask of a deal: what every deal has, and the fields of deals. */
export function dealDetails(catalogue: Catalogue): readonly DetailField[] {
  const fields = catalogue.all('field').filter((field) => field.body.of === 'deal');
  return [...OWN_DETAILS, ...fields.map((field) => ({ key: field.key, label: field.name, type: DETAIL_TYPE[field.body.type] }))];
}

/** A deal's details as conditions compare them. */
export function detailsOfDeal(deal: Deal, catalogue: Catalogue): Details {
  const pipeline = catalogue.get('pipeline', deal.pipeline);
  const details: Record<string, Details[string]> = {
    outcome: pipeline?.body.stages.find((stage) => stage.key === deal.stage)?.outcome ?? 'open',
    opened: deal.opened,
    moved: deal.moved,
  };
  const text = (key: string, value: string): void => {
    if (value === '') return;
    details[key] = value;
    const words = paddedWords(value);
    if (words !== ` ${value} `) details[key + WORDS] = words;
  };
  text('pipeline', pipeline?.key ?? '');
  text('stage', deal.stage);
  text('name', fold(deal.name));
  if (deal.amount !== undefined) details['amount'] = deal.amount;
  for (const [id, fact] of deal.facts) {
    const field = catalogue.get('field', id);
    if (!field) continue;
    if (typeof fact === 'object') details[field.key] = fact.map((value) => ({ value }));
    else if (storageOf[field.body.type] === 'text' || storageOf[field.body.type] === 'choice') text(field.key, String(fact));
    else details[field.key] = fact;
  }
  return details;
}

declare module '../settings/definitions.ts' {
  interface Bodies {
    pipeline: PipelineBody;
  }
}
