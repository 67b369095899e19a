import { type AnyDefinition, type DefinitionKind } from '@eager-sieve/core';

interface DefinitionSelectProps {
  readonly label: string;
  /** where nothing is picked */
  readonly none: string;
  /** as `kind/key` */
  readonly value: string;
  readonly groups: readonly { readonly kind: DefinitionKind; readonly title: string; readonly definitions: readonly AnyDefinition[] }[];
  readonly onPick: (value: string) => void;
}

/** One of the definitions of several kinds, tags by their key. */
export function DefinitionSelect({ label, none, value, groups, onPick }: DefinitionSelectProps) {
  return (
    <select className="select select-sm w-auto max-w-64" aria-label={label} value={value} onChange={(event) => onPick(event.target.value)}>
      <option value="">{none}</option>
      {groups.map(
        ({ kind, title, definitions }) =>
          definitions.length > 0 && (
            <optgroup key={kind} label={title}>
              {definitions.map(({ key, name }) => (
                <option key={key} value={`${kind}/${key}`}>
                  {kind === 'tag' ? key : name}
                </option>
              ))}
            </optgroup>
          ),
      )}
    </select>
  );
}
