import { type Definition } from '@eager-sieve/core';
import { useState } from 'react';
import { FactInput } from '../ui/fact-input';

/** A fact that is not known yet: which one, then its value. */
export function NewFact({
  fields,
  onSet,
}: {
  fields: readonly Definition<'field'>[];
  onSet: (key: string, value: unknown) => Promise<boolean>;
}) {
  const [key, setKey] = useState('');
  const field = fields.find((each) => each.key === key);
  return (
    <div className="mt-1.5 flex flex-wrap items-baseline gap-2">
      <select
        className="select select-sm w-auto max-w-44"
        aria-label="Add a fact"
        value={key}
        onChange={(event) => setKey(event.target.value)}
      >
        <option value="">+ fact</option>
        {fields.map((each) => (
          <option key={each.key} value={each.key}>
            {each.name}
          </option>
        ))}
      </select>
      {field && (
        <FactInput
          key={field.key}
          body={field.body}
          name={field.name}
          value={undefined}
          shown={undefined}
          onSet={async (value) => {
            const kept = await onSet(field.key, value);
            if (kept) setKey('');
            return kept;
          }}
        />
      )}
    </div>
  );
}
