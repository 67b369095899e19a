import { toSql, type CompiledRule, type Moment } from '@eager-sieve/core';

export interface CandidatesSql {
  readonly text: string;
  readonly values: readonly unknown[];
}

/**
 * Every contact or company for which a rule's *when* has ever been fulfilled, as a query of `id` and `company_id`, contacts of a company together.
 * Its passes then judge each of them exactly.
 */
export function candidatesSql(rule: CompiledRule, moment: Moment): CandidatesSql {
  const { text, values } = among(rule, moment);
  return rule.of === 'company'
    ? { text: `select c.id, c.id as company_id ${text} order by c.id`, values }
    : { text: `select c.id, c.company_id ${text} order by c.company_id nulls last, c.id`, values };
}

/** How many they are. */
export function candidatesCountSql(rule: CompiledRule, moment: Moment): CandidatesSql {
  const { text, values } = among(rule, moment);
  return { text: `select count(*)::int as n ${text}`, values };
}

/**
 * About one in so many of them, by an even spread of ids (multiplied by 2³²/φ, of which the lower 32 bits count). Contacts of one company are
 * taken together, or none of them.
 */
export function someCandidatesSql(rule: CompiledRule, moment: Moment, every: number): CandidatesSql {
  const { text, values } = among(rule, moment);
  const [all, company] = rule.of === 'company' ? ['c.id', 'c.id'] : ['coalesce(c.company_id, c.id)', 'c.company_id'];
  return {
    text: `select c.id, ${company} as company_id ${text} and (${all} * 2654435769) & 4294967295 < 4294967296 / $${values.length + 1}::int
            order by ${company} nulls last, c.id`,
    values: [...values, every],
  };
}

function among(rule: CompiledRule, moment: Moment): CandidatesSql {
  const { text, values } = fulfilled(rule, moment);
  const stands =
    rule.of === 'company'
      ? 'from company c where c.last_now is not null'
      : 'from contact c where c.last_now is not null and c.merged_into is null';
  return { text: `${stands} and (${text})`, values };
}

function fulfilled({ when, of, if: only }: CompiledRule, moment: Moment): CandidatesSql {
  switch (when.kind) {
    case 'becomes':
      return toSql(when.node, moment, 1, of);
    case 'sweep':
      return toSql(only, moment, 1, of);
    case 'date':
      return { text: 'true', values: [] };
    case 'signal':
      return { text: 'c.id in (select contact_id from signal_sum where type_id = $1)', values: [when.type] };
  }
}
