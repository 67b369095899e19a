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
  const { text, values } = fulfilled(rule, moment);
  if (rule.of === 'company')
    return { text: `select c.id, c.id as company_id from company c where c.last_now is not null and ${text} order by c.id`, values };
  return {
    text: `select c.id, c.company_id from contact c
            where c.last_now is not null and c.merged_into is null and ${text} order by c.company_id nulls last, c.id`,
    values,
  };
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
