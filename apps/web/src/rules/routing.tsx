import { keyFrom, saidOfThem, type RoutingBody } from '@eager-sieve/core';
import { useState } from 'react';
import { type Draft } from '../app/use-draft';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { FaultsAt } from '../ui/faults-at';
import { Opener } from '../ui/opener';
import { PersonsInput, useFirstPerson, useTeams } from '../ui/person-input';
import { RoutingPeople } from './routing-people';
import { RoutingRehearsal } from './routing-rehearsal';
import { RoutingTold } from './routing-told';

type Row = RoutingBody['rows'][number];

/** Who gets a contact: the first row that fits and in which somebody is free; where it names several, they take turns. */
function Routing({ draft }: { draft: Draft<'routing'> }) {
  const { body } = draft;
  const put = (next: RoutingBody): void => draft.setBody(next);
  return (
    <DefinitionPage
      draft={draft}
      thing="routing table"
      sentence="The first row that fits says who minds the contact; where it names several, they take turns."
    >
      <Editing>
        <RoutingRows draft={draft} />
        <RoutingPeople body={body} onChange={put} />
        <RoutingTold body={body} onChange={put} />
      </Editing>
      <RoutingRehearsal draft={draft} />
    </DefinitionPage>
  );
}

function RoutingRows({ draft }: { draft: Draft<'routing'> }) {
  const { body, catalogue } = draft;
  const { rows } = body;
  const [open, setOpen] = useState<number | null>(null);
  const first = useFirstPerson();
  const put = (next: Row[]): void => draft.setBody({ ...body, rows: next });
  const putIf = (index: number, row: Row, condition: ReturnType<typeof asGroup>): void => {
    const { if: _if, ...rest } = row;
    put(rows.with(index, condition.of.length === 0 ? rest : { ...rest, if: condition }));
  };
  return (
    <>
      <ol className="panel divide-base-300/60 divide-y">
        {rows.map((row, index) => (
          <li key={row.key} className="px-4 py-2.5">
            <FaultsAt path={['rows', index]} />
            <div className="flex flex-wrap items-center gap-2">
              <span className="quiet w-5">{index + 1}</span>
              <Opener open={open === index} onToggle={() => setOpen(open === index ? null : index)}>
                {row.if ? `if ${saidOfThem(row.if, catalogue)}` : index === 0 ? 'everyone' : 'everyone else'}
              </Opener>
              <span className="quiet">to</span>
              <PersonsInput
                label={`Owners of row ${index + 1}`}
                values={row.owners.filter(Boolean)}
                onChange={(owners) => put(rows.with(index, { ...row, owners }))}
              />
              <TeamOf row={row} index={index} onChange={(next) => put(rows.with(index, next))} />
              {(row.owners.length > 1 || row.team !== undefined) && <span className="quiet">in turn</span>}
              {rows.length > 1 && (
                <button type="button" className="btn btn-xs ml-auto" onClick={() => put(rows.toSpliced(index, 1))}>
                  Remove
                </button>
              )}
            </div>
            {open === index && (
              <div className="appears mt-2">
                <Outline
                  at={['rows', index, 'if']}
                  value={asGroup(row.if)}
                  catalogue={catalogue}
                  onChange={(condition) => putIf(index, row, condition)}
                />
              </div>
            )}
          </li>
        ))}
      </ol>
      <button
        type="button"
        className="btn btn-xs mt-2 self-start"
        onClick={() => put([...rows, { key: keyFrom('row', new Set(rows.map((row) => row.key))), owners: [first] }])}
      >
        + row
      </button>
    </>
  );
}

/** A team whose people take turns too, as they are in it then. */
function TeamOf({ row, index, onChange }: { row: Row; index: number; onChange: (row: Row) => void }) {
  const teams = useTeams(row.team);
  const { team, ...rest } = row;
  if (teams.length === 0) return null;
  return (
    <select
      className="select select-sm w-auto"
      aria-label={`Team of row ${index + 1}`}
      value={team ?? ''}
      onChange={(event) => onChange(event.target.value === '' ? rest : { ...rest, team: event.target.value })}
    >
      <option value="">and no team</option>
      {teams.map((each) => (
        <option key={each} value={each}>
          and the team {each}
        </option>
      ))}
    </select>
  );
}

export default definitionRoute({
  kind: 'routing',
  thing: 'routing table',
  all: ['/rules', 'All rules'],
  address: '/rules/routing',
  useNew: () => ({ rows: [{ key: 'everyone', owners: [useFirstPerson()] }] }),
  Editor: Routing,
});
