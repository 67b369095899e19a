import { type PersonView } from '@eager-sieve/contracts';
import { useId } from 'react';

/** The teams that there are, by name. */
export const teamsOf = (persons: readonly PersonView[]): readonly string[] =>
  [...new Set(persons.flatMap(({ team }) => team ?? []))].sort();

interface PersonTeamProps {
  readonly person: PersonView;
  readonly teams: readonly string[];
  readonly mayWrite: boolean;
  readonly onTeam: (team: string) => void;
  readonly onSees: (seesTeam: boolean) => void;
}

/** The team that somebody is in: one that there is, or a new one that is typed. Of a seller also whether they see the contacts of all of it. */
export function PersonTeam({ person: { name, role, team, seesTeam }, teams, mayWrite, onTeam, onSees }: PersonTeamProps) {
  const list = useId();
  const isSeller = role === 'seller' && team !== null;
  if (!mayWrite)
    return (
      <>
        {team ?? <span className="quiet">—</span>}
        {isSeller && seesTeam && <span className="quiet block text-[12.5px]">sees the contacts of all of it</span>}
      </>
    );
  const keep = (text: string): void => {
    if (text.trim() !== (team ?? '')) onTeam(text.trim());
  };
  return (
    <span className="flex flex-col items-start py-0.5">
      <input
        key={team ?? ''}
        className="input input-sm w-32"
        aria-label={`Team of ${name}`}
        list={list}
        placeholder="none"
        maxLength={80}
        defaultValue={team ?? ''}
        onKeyDown={(event) => event.key === 'Enter' && keep(event.currentTarget.value)}
        onBlur={(event) => keep(event.target.value)}
      />
      <datalist id={list}>
        {teams.map((each) => (
          <option key={each} value={each} />
        ))}
      </datalist>
      {isSeller && (
        <label className="flex min-h-[24px] items-center gap-1.5 text-[12.5px]">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            aria-label={`${name} sees the contacts of the whole team`}
            checked={seesTeam}
            onChange={(event) => onSees(event.target.checked)}
          />
          sees the contacts of all of it
        </label>
      )}
    </span>
  );
}
