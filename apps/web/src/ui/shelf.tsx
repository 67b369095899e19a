import { type Bodies, type DefinitionKind } from '@eager-sieve/core';
import { useId, useState, type ReactNode } from 'react';
import { type Draft } from '../app/use-draft';
import { FaultsAt } from './faults-at';
import { Labelled } from './labelled';
import { Writable } from './offer';
import { useTeams } from './person-input';

/** Where a definition is put among others of its kind, and what is noted of it. */
interface Shelved {
  readonly folder?: string | undefined;
  readonly labels?: readonly string[] | undefined;
  readonly description?: string | undefined;
  readonly team?: string | undefined;
}
type ShelvedKind = { [Kind in DefinitionKind]: Bodies[Kind] extends { folder?: string | undefined } ? Kind : never }[DefinitionKind];
const SHELVED: ReadonlySet<DefinitionKind> = new Set<ShelvedKind>(['audience', 'rule', 'scorecard', 'message', 'form']);
export const isShelved = (kind: DefinitionKind): boolean => SHELVED.has(kind);

const labelsIn = (text: string): string[] => [...new Set(text.split(',').map((each) => each.trim()))].filter(Boolean);

/** Folder, labels and description, under what a definition says. */
export function ShelfInputs<Kind extends DefinitionKind>({ draft }: { draft: Draft<Kind> }) {
  const body = draft.body as unknown as Shelved;
  const [typed, setTyped] = useState((body.labels ?? []).join(', '));
  const id = useId();
  const mayKeep = draft.kind === 'audience';
  const folders = [...new Set(draft.catalogue.all(draft.kind).flatMap((each) => (each.body as unknown as Shelved).folder ?? []))].sort();
  const put = (part: keyof Shelved, value: string | string[]): void => {
    const { [part]: _before, ...rest } = body;
    draft.setBody((value.length === 0 ? rest : { ...rest, [part]: value }) as unknown as Bodies[Kind]);
  };
  // What was undone or put back stands in the draft, and not in what was typed.
  const shown = labelsIn(typed).join() === (body.labels ?? []).join() ? typed : (body.labels ?? []).join(', ');
  return (
    <details className="mt-4 max-w-[760px]">
      <summary className="leads cursor-pointer">
        {mayKeep ? 'Folder, team, labels and description' : 'Folder, labels and description'}
        <span className="quiet"> {[body.folder, body.team && keptTo(body.team), ...(body.labels ?? [])].filter(Boolean).join(' · ')}</span>
      </summary>
      <Writable needs="definitions:write">
        <div className="mt-2 flex flex-wrap gap-3">
          <Labelled label="Folder">
            <input
              className="input input-sm w-56"
              list={`${id}-folders`}
              maxLength={80}
              value={body.folder ?? ''}
              onChange={(event) => put('folder', event.target.value)}
            />
            <datalist id={`${id}-folders`}>
              {folders.map((folder) => (
                <option key={folder} value={folder} />
              ))}
            </datalist>
          </Labelled>
          {mayKeep && <TeamInput team={body.team} onPick={(team) => put('team', team)} />}
          <Labelled label="Labels, with commas">
            <input
              className="input input-sm w-72"
              value={shown}
              onChange={(event) => {
                setTyped(event.target.value);
                put('labels', labelsIn(event.target.value));
              }}
            />
          </Labelled>
          <Labelled label="Description" className="basis-full">
            <textarea
              className="textarea textarea-sm h-20 w-full py-1.5"
              maxLength={1_000}
              value={body.description ?? ''}
              onChange={(event) => put('description', event.target.value)}
            />
          </Labelled>
        </div>
      </Writable>
      {(['folder', 'team', 'labels', 'description'] as const).map((part) => (
        <FaultsAt key={part} path={[part]} />
      ))}
    </details>
  );
}

/** Of an audience that is not shown to all sellers. */
export const keptTo = (team: string): string => `kept to the team ${team}`;

/** Which sellers are shown an audience: all, or those of one of the teams that there are. */
function TeamInput({ team, onPick }: { team: string | undefined; onPick: (team: string) => void }) {
  const teams = useTeams(team);
  return (
    <div>
      <Labelled label="Which sellers see it">
        <select className="select select-sm w-56" value={team ?? ''} onChange={(event) => onPick(event.target.value)}>
          <option value="">all sellers</option>
          {teams.map((each) => (
            <option key={each} value={each}>
              only those of {each}
            </option>
          ))}
        </select>
      </Labelled>
      <p className="quiet mt-1 max-w-56 text-[12px]">
        {teams.length === 0
          ? 'Teams are named with the people who have access, in the settings.'
          : 'What names it, such as a rule, is kept from other sellers too.'}
      </p>
    </div>
  );
}

interface ShelvesProps<Item> {
  readonly items: readonly Item[];
  readonly of: (item: Item) => Shelved | undefined;
  readonly keyOf: (item: Item) => string;
  readonly children: (item: Item) => ReactNode;
}

/** A list by its folders, those without one first; labels narrow it. */
export function Shelves<Item>({ items, of, keyOf, children }: ShelvesProps<Item>) {
  const [label, setLabel] = useState<string>();
  const labels = [...new Set(items.flatMap((item) => of(item)?.labels ?? []))].sort();
  const shown = label === undefined ? items : items.filter((item) => of(item)?.labels?.includes(label));
  const folders = [...new Set(shown.map((item) => of(item)?.folder ?? ''))].sort((a, b) => a.localeCompare(b));
  return (
    <>
      {labels.length > 0 && (
        <p className="mb-2 flex flex-wrap items-baseline gap-1.5">
          <span className="quiet">labels</span>
          {labels.map((each) => (
            <button
              key={each}
              type="button"
              className={`btn btn-xs ${each === label ? 'btn-primary' : ''}`}
              aria-pressed={each === label}
              onClick={() => setLabel(each === label ? undefined : each)}
            >
              {each}
            </button>
          ))}
        </p>
      )}
      {folders.map((folder) => (
        <section key={folder} className="mb-4" aria-label={folder || undefined}>
          {folder && <h2 className="mb-1.5 text-[15px]">{folder}</h2>}
          <ul className="panel divide-base-300/60 divide-y">
            {shown
              .filter((item) => (of(item)?.folder ?? '') === folder)
              .map((item) => (
                <li key={keyOf(item)}>{children(item)}</li>
              ))}
          </ul>
        </section>
      ))}
    </>
  );
}
