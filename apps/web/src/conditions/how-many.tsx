import { toKeys, type Catalogue, type Condition, type SubjectKind } from '@eager-sieve/core';
import { useEffect, useState } from 'react';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { count } from '../ui/number';

interface HowManyProps {
  readonly condition: Condition;
  readonly catalogue: Catalogue;
  readonly of: SubjectKind;
}

const SETTLED_MS = 250;

/** For how many a condition holds right now, asked when it has stood still for a moment. */
export function HowMany(props: HowManyProps) {
  return props.of !== 'deal' ? <Counted {...props} /> : null;
}

function Counted({ condition, catalogue, of }: HowManyProps) {
  const mayCount = useMay('audiences:read');
  const [isSettled, setSettled] = useState(false);
  const written = JSON.stringify(condition);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(true), SETTLED_MS);
    return () => {
      clearTimeout(timer);
      setSettled(false);
    };
  }, [written]);
  const group = toKeys({ match: 'all', of: [condition] }, catalogue);
  const { currentData } = api.useCountQuery(
    { body: { condition: group, of: of === 'company' ? 'company' : 'contact' } },
    { skip: !mayCount || !isSettled },
  );
  return currentData ? <>{count(currentData.count)}</> : mayCount ? <>…</> : null;
}
