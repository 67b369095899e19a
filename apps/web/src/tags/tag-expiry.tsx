import { localDay, writeDay, type Catalogue, type TagBody, type WrittenCondition } from '@eager-sieve/core';
import { useState } from 'react';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { FaultsAt } from '../ui/faults-at';
import { people } from '../ui/number';

interface TagExpiryProps {
  readonly tagKey: string;
  readonly body: TagBody;
  /** as it is kept */
  readonly kept: TagBody;
  readonly catalogue: Catalogue;
  readonly onChange: (body: TagBody) => void;
}

const FIRST_DAYS = 30;

/** Whether the tag goes by itself, and from how many it would go at once. */
export function TagExpiry({ tagKey, body, kept, catalogue, onChange }: TagExpiryProps) {
  const { expires } = body;
  const put = (next: TagBody['expires']): void => {
    const { expires: _expires, ...rest } = body;
    onChange(next === undefined ? rest : { ...rest, expires: next });
  };
  const days = typeof expires === 'object' ? expires.afterDays : undefined;
  return (
    <div className="mt-3">
      <span className="mb-1 block font-medium">It goes by itself</span>
      <div className="flex flex-wrap items-center gap-2">
        <Choice
          label="When it goes by itself"
          value={expires === undefined ? 'never' : expires === 'on its date' ? 'date' : 'days'}
          choices={[
            ['never', 'never'],
            ['days', 'some days after it came on'],
            ...(body.value === 'date' ? [['date', 'when its date comes'] as const] : []),
          ]}
          onPick={(when) => put(when === 'never' ? undefined : when === 'date' ? 'on its date' : { afterDays: FIRST_DAYS })}
        />
        {days !== undefined && (
          <>
            <span className="quiet">after</span>
            <input
              className="input input-sm w-20"
              type="number"
              min={1}
              max={3_650}
              aria-label="Days after which it goes"
              value={days}
              onChange={(event) => put({ afterDays: Math.min(3_650, Math.max(1, Math.trunc(Number(event.target.value)) || 1)) })}
            />
            <span className="quiet">days; being given again meanwhile does not prolong it</span>
          </>
        )}
      </div>
      <FaultsAt path={['expires']} />
      {expires !== undefined && JSON.stringify(expires) !== JSON.stringify(kept.expires) && (
        <GoesAtOnce tagKey={tagKey} expires={expires} catalogue={catalogue} />
      )}
    </div>
  );
}

/** From how many it goes as soon as this is kept. */
function GoesAtOnce({
  tagKey: tag,
  expires,
  catalogue,
}: {
  tagKey: string;
  expires: NonNullable<TagBody['expires']>;
  catalogue: Catalogue;
}) {
  const mayCount = useMay('audiences:read');
  const [now] = useState(() => Date.now());
  const has = { kind: 'tag', tag, op: 'has' } as const;
  const condition: WrittenCondition =
    expires === 'on its date'
      ? { ...has, value: { op: 'before', value: writeDay(localDay(now, catalogue.zone) + 1) } }
      : { ...has, since: { olderThan: expires.afterDays, unit: 'days' } };
  const { data } = api.useCountQuery({ body: { condition, sieve: false } }, { skip: !mayCount });
  if (!data) return null;
  return (
    <p className="mt-1.5 text-[12.5px]" role="status">
      {data.count === 0
        ? 'Nobody loses it when this is kept.'
        : `${people(data.count)} lose it when this is kept. No rule runs because of that, and each of them stands in the ledger.`}
    </p>
  );
}
