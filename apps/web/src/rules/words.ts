import { describe, whereParts, type Catalogue, type RuleBody } from '@eager-sieve/core';

/** A rule as one faithful sentence. */
export function ruleSentence(rule: RuleBody, catalogue: Catalogue): string {
  const when =
    rule.when.kind === 'signal'
      ? `When a contact ${[catalogue.body('signalType', rule.when.type)?.verb ?? '…', ...whereParts(rule.when.where ?? [], [rule.when.type], catalogue).map((part) => part.text)].join(' ')}`
      : `When this becomes true of a contact: ${inner(rule.when.condition, catalogue)}`;
  const condition = rule.if ? `, and if ${inner(rule.if, catalogue)}` : '';
  return `${when}${condition}: ${rule.then.map((action) => actionWords(action, catalogue)).join(', ')}. ${capital(oftenWords(rule.howOften))}.`;
}

const inner = (condition: Parameters<typeof describe>[0], catalogue: Catalogue): string =>
  describe(condition, catalogue, '')
    .replace(/^ for whom this holds: /, '')
    .replace(/\.$/, '')
    .toLowerCase() || 'anything';
const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

export function actionWords(action: RuleBody['then'][number], catalogue: Catalogue): string {
  switch (action.do) {
    case 'add tag':
    case 'remove tag':
      return `${action.do} ${catalogue.get('tag', action.tag)?.key ?? '…'}`;
    case 'set field':
      return `set ${catalogue.get('field', action.field)?.name ?? '…'} to ${String(action.value)}`;
    case 'clear field':
      return `clear ${catalogue.get('field', action.field)?.name ?? '…'}`;
  }
}

export function oftenWords({ limit, pauseDays }: RuleBody['howOften']): string {
  const limited = limit === undefined ? '' : limit === 1 ? 'once per contact' : `at most ${limit} times per contact`;
  const paused = pauseDays === undefined ? '' : `not again within ${pauseDays === 1 ? 'a day' : `${pauseDays} days`}`;
  return [limited, paused].filter(Boolean).join(', ') || 'every time';
}
