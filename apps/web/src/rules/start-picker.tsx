import { RULE_STARTS, type Catalogue, type RuleBody } from '@eager-sieve/core';

interface StartPickerProps {
  readonly catalogue: Catalogue;
  readonly onPick: (name: string, body: RuleBody) => void;
}

/** Rules that are nearly ready, by what they are good for; whichever is picked is changed like any other. */
export function StartPicker({ catalogue, onPick }: StartPickerProps) {
  const possible = RULE_STARTS.flatMap((start) => {
    const body = start.body(catalogue);
    return body ? [{ ...start, body }] : [];
  });
  const purposes = [...new Set(possible.map(({ purpose }) => purpose))];
  return (
    <label className="mb-3 flex flex-wrap items-center gap-2">
      <span className="quiet">Begin with one that is nearly ready:</span>
      <select
        className="select select-sm w-auto max-w-80"
        value=""
        onChange={(event) => {
          const start = possible.find(({ key }) => key === event.target.value);
          if (start) onPick(start.name, start.body);
        }}
      >
        <option value="">choose …</option>
        {purposes.map((purpose) => (
          <optgroup key={purpose} label={purpose}>
            {possible
              .filter((start) => start.purpose === purpose)
              .map(({ key, name }) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
          </optgroup>
        ))}
      </select>
    </label>
  );
}
