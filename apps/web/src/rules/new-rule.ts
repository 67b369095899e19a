import { EVERYONE, type Catalogue, type RuleBody, type RuleSubject } from '@eager-sieve/core';
import { begun } from './action-editors';

/** A rule to begin with. Nothing where there is not yet what it needs: one of contacts gives a tag. */
export function newRule(catalogue: Catalogue, of: RuleSubject): RuleBody | undefined {
  const then = begun(of === 'company' ? 'set company field' : 'add tag', catalogue, of) ?? begun('notify', catalogue, of);
  const type = catalogue.find('signalType', 'form.answered');
  if (!then || (of === 'contact' && (then.do !== 'add tag' || !type))) return undefined;
  const form = catalogue.all('form')[0];
  const answered = {
    kind: 'signal',
    type: type?.id ?? -1,
    ...(form ? { where: [{ path: 'form', op: 'is', value: form.key }] } : {}),
  } as const;
  return {
    of,
    when: of === 'company' ? { kind: 'becomes', condition: EVERYONE } : answered,
    then: [then],
    howOften: {},
    beginsWith: 'from now on',
    maxAgeDays: 7,
    position: 100,
    on: false,
  };
}
