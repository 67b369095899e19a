import { describe, isGroup, said, type Catalogue, type Condition, type Definition, type Explanation } from '@eager-sieve/core';
import { type ExplanationView } from '@eager-sieve/contracts';

/** The audience in words: its conditions, or that it is kept by hand. */
export function sentenceOf(audience: Definition<'audience'>, catalogue: Catalogue): string {
  const { condition, of } = audience.body;
  if (!condition) return 'A fixed list: who is on it is put there by hand, by an import or by a rule.';
  return describe(condition, catalogue, of === 'company' ? 'Companies' : 'People');
}

/** An explanation with each line of the condition in words. */
export function withWords(explanation: Explanation, condition: Condition, catalogue: Catalogue): ExplanationView {
  const words = isGroup(condition)
    ? { all: 'all of these hold', any: 'any of these holds', none: 'none of these holds' }[condition.match]
    : said(condition, catalogue);
  return {
    holds: explanation.holds,
    path: [...explanation.path],
    words,
    ...(explanation.seen ? { seen: explanation.seen } : {}),
    ...(explanation.of && isGroup(condition)
      ? { of: explanation.of.map((each, index) => withWords(each, condition.of[index] as Condition, catalogue)) }
      : {}),
  };
}
