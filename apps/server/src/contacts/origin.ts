import { type Catalogue, type Definition, type OriginField } from '@eager-sieve/core';
import { type Sql } from '../database/database';
import { type EditCause } from '../engine/edits.service';
import { type MadeFacts } from '../engine/inbox';

/** How somebody first came, by the fields that keep it. What is not known is left out. */
export type Origin = Readonly<Partial<Record<OriginField, string>>>;

/** @returns by field id, as a contact is made with it */
export function originFacts(origin: Origin, catalogue: Catalogue): MadeFacts {
  const facts: Record<number, unknown> = {};
  for (const [key, value] of Object.entries(origin)) {
    const field = catalogue.find('field', key);
    if (field) facts[field.id] = value;
  }
  return facts;
}

/** Where those come from whom an edit makes. */
export async function originOfEdit(sql: Sql, { kind, ref }: EditCause): Promise<Origin> {
  if (kind === 'person') return { 'first-source': 'hand' };
  if (kind === 'api') return { 'first-source': 'program', 'first-through': ref.replace(/^key /, '') };
  const [run] = /^\d+$/.test(ref) ? await sql.query<{ name: string }>('select name from import_run where id = $1', [ref]) : [];
  return { 'first-source': 'import', ...(run ? { 'first-through': run.name } : {}) };
}

/** Where somebody comes from who was not known before this signal. */
export function originOfSignal(type: string, data: unknown, source: string, catalogue: Catalogue): Origin {
  const told = isObject(data) ? data : {};
  if (type === 'form.answered') {
    const form = catalogue.find('form', textOf(told['form']));
    const page = textOf(told['firstPage']);
    return {
      'first-source': 'form',
      'first-through': form?.name ?? textOf(told['form']),
      ...(page === '' ? {} : { 'first-page': page }),
      ...campaignOfAddress(page),
      ...campaignOfAnswers(told['answers'], form),
    };
  }
  const url = textOf(told['url']);
  const campaign = campaignOfAddress(url);
  if (type !== 'page.visited') return { 'first-source': 'program', 'first-through': source, ...campaign };
  return { 'first-source': 'page', ...(url === '' ? {} : { 'first-page': url }), ...campaign };
}

/** The parameters by which addresses commonly say from which campaign somebody comes. */
const PARAMETERS: Readonly<Record<string, OriginField>> = {
  utm_campaign: 'first-campaign',
  utm_source: 'first-campaign-source',
  utm_medium: 'first-campaign-medium',
};

/** What an address says of the campaign that led to it. */
export function campaignOfAddress(url: string): Origin {
  if (!URL.canParse(url)) return {};
  const { searchParams } = new URL(url);
  return namedOnly((parameter) => searchParams.get(parameter));
}

/** A form keeps them as the answers to its hidden questions. */
function campaignOfAnswers(answers: unknown, form: Definition<'form'> | undefined): Origin {
  if (!isObject(answers) || !form) return {};
  return namedOnly((parameter) => {
    const question = form.body.questions.find((each) => each.type === 'hidden' && each.parameter === parameter);
    return question ? textOf(answers[question.key]) : '';
  });
}

const namedOnly = (valueOf: (parameter: string) => string | null): Origin =>
  Object.fromEntries(
    Object.entries(PARAMETERS).flatMap(([parameter, field]) => {
      const value = valueOf(parameter)?.trim() ?? '';
      return value === '' ? [] : [[field, value.slice(0, 200)]];
    }),
  );

const isObject = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const textOf = (value: unknown): string => (typeof value === 'string' ? value : '');
