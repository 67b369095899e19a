import { GROUP_WORDS, type Group } from '@eager-sieve/core';

/** How the lines of a group hold together: all of them, any, none and so on. */
export function MatchPicker({ group, readOnly, onChange }: { group: Group; readOnly: boolean; onChange: (match: Group['match']) => void }) {
  if (readOnly) return <>{GROUP_WORDS[group.match]}</>;
  return (
    <select
      className="cursor-pointer bg-transparent font-medium [field-sizing:content]"
      aria-label="how the lines of this group hold together"
      value={group.match}
      onChange={(event) => onChange(event.target.value as Group['match'])}
    >
      {Object.entries(GROUP_WORDS).map(([match, words]) => (
        <option key={match} value={match}>
          {words}
        </option>
      ))}
    </select>
  );
}
