import { z } from 'zod';
import { contactResultSchema, dealViewSchema, scoreViewSchema } from './contacts.ts';
import { itemsOf } from './items.ts';
import { cellSchema } from './table-cells.ts';
import { flag, pageSchema, searchText } from './page.ts';
import { faultSchema } from './problems.ts';

export const MAX_COMPANY_BATCH = 1_000;
const outsideId = z.string().min(1).max(200);

export const companyWriteSchema = z.strictObject({
  outsideId,
  name: z.string().max(500).optional(),
  fields: z.record(z.string(), z.unknown()).optional().describe('by key; null clears a field'),
  lists: z.record(z.string(), z.boolean()).optional().describe('fixed lists of companies by key: on it or not'),
});
export type CompanyWrite = z.infer<typeof companyWriteSchema>;
/** What can be changed of many companies alike. */
export const companyChangeSchema = companyWriteSchema.pick({ fields: true, lists: true });
export type CompanyChange = z.infer<typeof companyChangeSchema>;

/** Which of some companies are known, by their outside ids or names. */
export const findCompaniesSchema = z.strictObject({ named: z.array(z.string().min(1).max(500)).min(1).max(5_000) });
export const foundCompaniesSchema = z.object({
  known: z.array(z.object({ named: z.string(), id: z.string(), name: z.string() })),
  unknown: z.array(z.string()),
  several: z.array(z.string()).describe('names that more than one company has'),
});
export type FoundCompanies = z.infer<typeof foundCompaniesSchema>;

export const putCompaniesSchema = z.strictObject({
  matchBy: z.literal('outsideId').default('outsideId'),
  onExisting: z.enum(['update', 'skip']).default('update'),
  companies: itemsOf(companyWriteSchema, MAX_COMPANY_BATCH),
});
export type PutCompanies = z.infer<typeof putCompaniesSchema>;

const resultSchema = z.object({
  index: z.int(),
  status: contactResultSchema.shape.status,
  faults: z.array(faultSchema).optional(),
});
export const putCompaniesAnswerSchema = z.object({ results: z.array(resultSchema.extend({ company: z.string().nullable() })) });
export type PutCompaniesAnswer = z.infer<typeof putCompaniesAnswerSchema>;

export const dealWriteSchema = z.strictObject({
  outsideId,
  name: z.string().max(200).optional(),
  contact: z.string().max(300).optional().describe('whose deal it is: an email address, or id: and an outside id'),
  company: outsideId.nullable().optional().describe('the outside id of a company'),
  pipeline: z.string().max(80).optional().describe('the key of a pipeline; may be left out where there is only one, or for a known deal'),
  stage: z.string().max(80).optional().describe('the key of one of its stages; left out for a new deal it is the first'),
  amount: z
    .union([z.number(), z.string().max(20), z.null()])
    .optional()
    .describe('major units'),
  currency: z.string().max(3).optional(),
  fields: z.record(z.string(), z.unknown()).optional(),
});
export type DealWrite = z.infer<typeof dealWriteSchema>;
export const putDealsSchema = z.strictObject({
  matchBy: z.literal('outsideId').default('outsideId'),
  onExisting: z.enum(['update', 'skip']).default('update'),
  deals: itemsOf(dealWriteSchema, MAX_COMPANY_BATCH),
});
export type PutDeals = z.infer<typeof putDealsSchema>;
export const putDealsAnswerSchema = z.object({ results: z.array(resultSchema.extend({ deal: z.string().nullable() })) });
export type PutDealsAnswer = z.infer<typeof putDealsAnswerSchema>;

/** The stages that a deal went through, one after the other. */
export const dealHistorySchema = z.object({
  stages: z.array(
    z.object({
      name: z.string(),
      pipeline: z.string().describe('the name of the pipeline'),
      since: z.string(),
      until: z.string().nullable().describe('null where it stands now'),
      amount: z.string().nullable().describe('what it was worth when it came there'),
      because: z.string(),
    }),
  ),
});
export type DealHistory = z.infer<typeof dealHistorySchema>;

export const companyRowSchema = z.object({
  id: z.string(),
  outsideId: z.string(),
  name: z.string(),
  fields: z.array(z.object({ key: z.string(), name: z.string(), value: z.unknown(), shown: z.string() })),
  scores: z.array(scoreViewSchema),
  contacts: z.int(),
  since: z.string().optional(),
  cells: z.array(cellSchema).optional().describe('in the order of the columns that were asked for'),
});
export type CompanyRow = z.infer<typeof companyRowSchema>;
export const memberCompanySchema = companyRowSchema.omit({ cells: true }).partial({ fields: true, scores: true });
export type MemberCompany = z.infer<typeof memberCompanySchema>;
export const companiesQuerySchema = pageSchema.extend({
  search: searchText.optional().describe('only those whose name or outside id has this in it'),
});
export type CompaniesQuery = z.infer<typeof companiesQuerySchema>;
export const companiesAnswerSchema = z.object({ companies: z.array(companyRowSchema), after: z.string().nullable() });
export type CompaniesAnswer = z.infer<typeof companiesAnswerSchema>;

export const companyViewSchema = companyRowSchema.omit({ since: true, cells: true }).extend({
  people: z
    .array(z.object({ id: z.string(), name: z.string(), email: z.string().nullable(), part: z.string().nullable() }))
    .describe('its contacts, up to 500'),
  parts: z
    .array(z.object({ key: z.string(), name: z.string(), people: z.int() }))
    .describe('the parts that there are in a purchase, with how many of its contacts have each'),
  parent: z.object({ id: z.string(), name: z.string() }).nullable().describe('the company that it is a branch of'),
  branches: z
    .array(z.object({ id: z.string(), name: z.string(), contacts: z.int() }))
    .describe('its branches, each with its own contacts, by name, up to 500'),
  together: z.int().describe('its contacts, and those of its branches, and of theirs'),
  deals: z.array(dealViewSchema),
  audiences: z.array(z.object({ key: z.string(), name: z.string(), since: z.string() })),
});
export type CompanyView = z.infer<typeof companyViewSchema>;

/** The company that others with addresses at the same domain are in. */
export const companySuggestionSchema = z.object({
  suggested: z
    .object({
      id: z.string(),
      outsideId: z.string(),
      name: z.string(),
      domain: z.string(),
      people: z.int().describe('so many others at the domain are in it'),
    })
    .nullable(),
});
export type CompanySuggestion = z.infer<typeof companySuggestionSchema>;

const dealRowSchema = z.object({
  id: z.string(),
  outsideId: z.string(),
  name: z.string(),
  stage: z.string(),
  amount: z.string().nullable(),
  opened: z.string(),
  moved: z.string().describe('when its stage began'),
  closes: z.string().nullable().describe('the day by which it is expected to be won or lost'),
  owner: z.string().nullable().describe('who minds its contact'),
  contact: z.string().nullable(),
  contactName: z.string().nullable(),
  company: z.string().nullable(),
  companyName: z.string().nullable(),
});
export type DealRow = z.infer<typeof dealRowSchema>;

/** The deals of a pipeline, as a board shows them. */
export const dealBoardSchema = z.object({
  currency: z.string(),
  stages: z.array(
    z.object({ key: z.string(), deals: z.int(), amount: z.string().describe('the sum of all of them, also of those that are not listed') }),
  ),
  deals: z.array(dealRowSchema).describe('at most 100 of each stage, those first whose stage began last'),
});
export type DealBoard = z.infer<typeof dealBoardSchema>;

/** By what a list of deals is sorted. */
export const DEAL_SORTS = ['moved', 'opened', 'amount', 'name', 'stage', 'contact', 'owner', 'closes'] as const;
export type DealSort = (typeof DEAL_SORTS)[number];
export const dealListQuerySchema = pageSchema.extend({
  sort: z.enum(DEAL_SORTS).default('moved'),
  up: flag('the least first; left out, the greatest, or the latest'),
  stage: z.string().max(80).optional().describe('only those at this stage'),
});
export type DealListQuery = z.infer<typeof dealListQuerySchema>;
/** The open formats in which deals are given out. */
export const DEAL_FORMATS = { csv: 'text/csv', ndjson: 'application/x-ndjson' } as const;
export const dealFileQuerySchema = dealListQuerySchema
  .omit({ limit: true, after: true })
  .extend({ format: z.enum(Object.keys(DEAL_FORMATS) as [keyof typeof DEAL_FORMATS, ...(keyof typeof DEAL_FORMATS)[]]) });
export const dealListSchema = z.object({ currency: z.string(), deals: z.array(dealRowSchema), after: z.string().nullable() });
export type DealList = z.infer<typeof dealListSchema>;

export const dealBandsSchema = z.object({
  of: z.int().describe('how many deals there are'),
  bands: z.record(z.string(), z.int()).describe('how many stand in each band, by its key; a band in which none stands is left out'),
});
export type DealBands = z.infer<typeof dealBandsSchema>;
