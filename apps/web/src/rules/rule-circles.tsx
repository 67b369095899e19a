import { Catalogue, definitionKinds, type AnyDefinition, type Definition } from '@eager-sieve/core';
import { useMemo } from 'react';
import { type Draft } from '../app/use-draft';
import { CircleFound, DeadRule } from './rule-findings';
import { useTriedRules } from './use-tried-rules';

/** Stands for a rule that is not kept yet. */
const NEW_RULE = -1;

/** Whether the rule, as it stands in the draft, closes a circle once it is on, or can never run: said before it is turned on. */
export function RuleCircles({ draft, isAsked }: { draft: Draft<'rule'>; isAsked: boolean }) {
  const { catalogue, itemKey, name, body, isNew } = draft;
  const id: number = (isNew ? undefined : catalogue.find('rule', itemKey)?.id) ?? NEW_RULE;
  const withIt = useMemo(
    () => (isAsked ? catalogueWith(catalogue, { id, key: itemKey, name, body }) : undefined),
    [catalogue, id, itemKey, name, body, isAsked],
  );
  const tried = useTriedRules(withIt);
  const isDead = tried?.dead.includes(id) === true;
  const told = tried?.circles.filter(({ rules, verdict }) => rules.includes(id) && verdict !== 'ruled out') ?? [];
  if (!withIt || (told.length === 0 && !isDead)) return null;
  return (
    <div className="mb-3 flex flex-col gap-2">
      {isDead && <DeadRule id={id} catalogue={withIt} />}
      {told.map((circle) => (
        <CircleFound key={circle.rules.join(' ')} circle={circle} catalogue={withIt} />
      ))}
    </div>
  );
}

function catalogueWith(catalogue: Catalogue, { id, key, name, body }: Pick<Definition<'rule'>, 'id' | 'key' | 'name' | 'body'>): Catalogue {
  const others = definitionKinds.flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[]).filter((each) => each.id !== id);
  const rule: Definition<'rule'> = {
    id,
    kind: 'rule',
    key,
    name: name || 'this rule',
    version: 1,
    retired: false,
    epoch: 0,
    body: { ...body, on: true },
  };
  return new Catalogue(catalogue.workspace, [...others, rule as AnyDefinition]);
}
