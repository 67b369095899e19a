import { EVERYONE, type Catalogue, type RuleAction, type RuleBody, type RuleSubject } from '@eager-sieve/core';
import { begun } from './action-editors';

const NOTIFY: RuleAction = { do: 'notify', text: 'Look at this' };

/** A rule to begin with: it gives a tag, or tells somebody while there is no tag yet. */
export function newRule(catalogue: Catalogue, of: RuleSubject): RuleBody {
  const then = begun(of === 'company' ? 'set company field' : 'add tag', catalogue, of) ?? NOTIFY;
  const type = catalogue.find('signalType', 'form.answered');
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
