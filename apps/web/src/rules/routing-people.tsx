import { withTeams, type RoutingBody, type RoutingPerson } from '@eager-sieve/core';
import { use } from 'react';
import { FaultsAt } from '../ui/faults-at';
import { Persons } from '../ui/person-input';
import { ReadOnly } from '../ui/offer';
import { DayInput } from '../ui/day-input';
import { Wide } from '../ui/wide';

interface Props {
  readonly body: RoutingBody;
  readonly onChange: (body: RoutingBody) => void;
}

/** How many turns each person takes, how many contacts at most, and until when none. Who takes one turn like everybody else is not written down. */
export function RoutingPeople({ body, onChange }: Props) {
  const persons = use(Persons);
  const membersOf = (team: string): string[] => persons.flatMap((person) => (person.team === team ? [person.email] : []));
  const everyone = [...new Set(withTeams(body, membersOf).rows.flatMap((row) => row.owners.filter(Boolean)))];
  const named = body.people ?? [];
  const put = (person: RoutingPerson): void => {
    const others = named.filter(({ who }) => who !== person.who);
    const people = isPlain(person) ? others : [...others, person].sort((a, b) => everyone.indexOf(a.who) - everyone.indexOf(b.who));
    const { people: _people, ...rest } = body;
    onChange(people.length > 0 ? { ...rest, people } : rest);
  };
  return (
    <section className="mt-4" aria-label="Turns">
      <h2 className="mb-1.5 text-[15px]">
        Turns <span className="quiet font-sans text-[13px] font-normal">when somebody is away or has enough, the others take theirs</span>
      </h2>
      <FaultsAt path={['people']} />
      <div className="panel px-4 py-2">
        <Wide>
          <table className="table w-full min-w-[560px] table-fixed">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="w-[38%]">Person</th>
                <th>Turns</th>
                <th>At most a day</th>
                <th>Away, back on</th>
              </tr>
            </thead>
            <tbody>
              {everyone.map((who) => (
                <Person
                  key={who}
                  name={persons.find((person) => person.email === who)?.name ?? who}
                  person={named.find((each) => each.who === who) ?? { who, share: 1 }}
                  onPut={put}
                />
              ))}
            </tbody>
          </table>
        </Wide>
      </div>
    </section>
  );
}

const isPlain = ({ share, perDay, backOn }: RoutingPerson): boolean => share === 1 && perDay === undefined && backOn === undefined;

function Person({ name, person, onPut }: { name: string; person: RoutingPerson; onPut: (person: RoutingPerson) => void }) {
  const readOnly = use(ReadOnly);
  const { share, perDay, backOn } = person;
  const whole = (text: string, most: number): number | undefined => {
    const n = Math.trunc(Number(text));
    return text === '' || Number.isNaN(n) ? undefined : Math.min(most, Math.max(1, n));
  };
  const put = (next: { share?: number; perDay?: number | undefined; backOn?: string | undefined }): void => {
    const { share: turns, perDay: most, backOn: back } = { ...person, ...next };
    onPut({ who: person.who, share: turns ?? 1, ...(most === undefined ? {} : { perDay: most }), ...(back ? { backOn: back } : {}) });
  };
  return (
    <tr className="border-base-300/60 border-b last:border-b-0">
      <td className="truncate font-medium" title={person.who}>
        {name}
      </td>
      {readOnly ? (
        <>
          <td>{share}</td>
          <td>{perDay ?? <span className="quiet">any number</span>}</td>
          <td>{backOn ?? <span className="quiet">no</span>}</td>
        </>
      ) : (
        <>
          <td>
            <input
              className="input input-sm w-20"
              type="number"
              min={1}
              max={100}
              aria-label={`Turns of ${name}`}
              value={share}
              onChange={(event) => put({ share: whole(event.target.value, 100) ?? 1 })}
            />
          </td>
          <td>
            <input
              className="input input-sm w-32"
              type="number"
              min={1}
              max={10_000}
              placeholder="any number"
              aria-label={`Contacts that ${name} takes a day at most`}
              value={perDay ?? ''}
              onChange={(event) => put({ perDay: whole(event.target.value, 10_000) })}
            />
          </td>
          <td>
            <DayInput label={`Day on which ${name} is back`} value={backOn ?? ''} onChange={(day) => put({ backOn: day || undefined })} />
          </td>
        </>
      )}
    </tr>
  );
}
