import { toKeys, type AudienceBody, type Catalogue, type Group, type Leaf } from '@eager-sieve/core';
import { useMemo } from 'react';
import { api } from '../app/api';
import { type Draft } from '../app/use-draft';
import { asGroup } from '../conditions/tree';
import { companies, count, people } from '../ui/number';
import { useSettled } from '../ui/use-settled';

/** What is counted of a live audience: of the draft as it stands, and of what is kept. */
export function useAudienceFigures({ body, saved, itemKey, catalogue, isNew, changed }: Draft<'audience'>) {
  const { of } = body;
  const group = useMemo(() => asGroup(body.condition), [body.condition]);
  const settled = useSettled(group);
  const condition = useMemo(() => toKeys(settled, catalogue), [settled, catalogue]);
  const counted = api.useCountQuery({ body: { condition, of, sieve: true } });
  const answer = counted.currentData ?? counted.data;
  const view = api.useAudienceQuery({ key: itemKey }, { skip: isNew }).data;
  // A pin makes a member of whom the conditions do not let through, or none of whom they do: what they change is told without.
  const kept = api.useCountQuery(
    { body: { condition: toKeys(asGroup(saved.body.condition), catalogue), of } },
    { skip: isNew || !changed },
  );
  // Of what is kept, pins count too; of a draft the conditions alone can be counted.
  const pinned = view ? view.pinned.in + view.pinned.out : 0;
  const stands = !changed && view?.broken === true;
  const members = !changed && (pinned > 0 || stands) ? view?.members : undefined;
  const inWords = of === 'company' ? companies : people;
  const total = members ?? answer?.count;
  return {
    group,
    settled,
    condition,
    answer,
    view,
    pinned,
    /** it is broken, and its members are those it had when it broke */
    stands,
    /** whether its members are those of what is shown, and not still being brought up to it */
    settledDown: !changed && !isNew && (view?.building === false || view?.broken === true),
    /** how many more the draft lets through than what is kept */
    difference: answer && kept.data ? answer.count - kept.data.count : 0,
    total: total === undefined ? '…' : inWords(total),
    isFetching: counted.isFetching,
    error: counted.error,
  };
}
export type AudienceFigures = ReturnType<typeof useAudienceFigures>;

/** What a line that is being typed would let through, before it is a line. */
export function DraftFigures({ draft, of, group, catalogue }: { draft: Leaf; of: AudienceBody['of']; group: Group; catalogue: Catalogue }) {
  const settled = useSettled(draft);
  const condition = useMemo(() => toKeys({ ...group, of: [...group.of, settled] }, catalogue), [group, settled, catalogue]);
  const { currentData } = api.useCountQuery({ body: { condition, of, sieve: true } });
  const line = currentData?.lines?.at(-1);
  return line ? (
    <>
      {count(line.alone)} would pass, {count(line.remain)} remain
    </>
  ) : (
    <>…</>
  );
}
