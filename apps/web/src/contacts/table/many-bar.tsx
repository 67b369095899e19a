import { type Catalogue, type Group, type TableOf } from '@eager-sieve/core';
import { type NewWorklist } from '@eager-sieve/contracts';
import { RunBundle } from '../../rules/run-bundle';
import { subjects } from '../../ui/number';
import { ChangeMany, type Meant } from './change-many';
import { Freeze } from './freeze';
import { KeepAudience } from './keep-audience';

interface ManyBarProps {
  readonly of: TableOf;
  readonly catalogue: Catalogue;
  readonly group: Group;
  readonly condition: NewWorklist['table']['condition'];
  /** whether the table is in an order of its own */
  readonly isSorted: boolean;
  /** what the table shows, as it is asked for */
  readonly table: NewWorklist['table'];
  /** how many there are, and how many of them the search leaves; undefined while that is not known */
  readonly all: number | undefined;
  readonly shown: number | undefined;
  /** in the order of the table */
  readonly ticked: readonly string[];
  /** whether a search leaves some of them out of the table */
  readonly isSearched: boolean;
  readonly onUntick: () => void;
}

/** What can be done to many at once: to those who are ticked, or else to everyone the table is narrowed to. */
export function ManyBar({ of, catalogue, group, condition, isSorted, table, all, shown, ticked, isSearched, onUntick }: ManyBarProps) {
  const isNarrowed = group.of.length > 0;
  if (ticked.length > 0) {
    const meant: Meant = of === 'company' ? { of, who: { companies: [...ticked] } } : { of, who: { contacts: [...ticked] } };
    return (
      <Bar words={`${subjects(of, ticked.length)} ticked`}>
        <ManyActions meant={meant} whom={subjects(of, ticked.length)} catalogue={catalogue} />
        <KeepAudience {...{ meant, group, catalogue, total: ticked.length }} isPicked />
        {of === 'contact' && <Freeze table={table} total={ticked.length} contacts={ticked} />}
        <button type="button" className="btn btn-sm btn-ghost" onClick={onUntick}>
          Untick
        </button>
      </Bar>
    );
  }
  if (!isNarrowed && !(isSorted && of === 'contact')) return null;
  const everyone: Meant = { of, who: { condition } };
  return (
    <Bar words="All of them:">
      {isNarrowed && isSearched && <span className="quiet">to change or keep them, clear the search, or tick those you mean</span>}
      {isNarrowed && !isSearched && (
        <>
          <ManyActions
            meant={everyone}
            whom={of === 'company' ? 'these companies' : 'these people'}
            catalogue={catalogue}
            disabled={!all}
          />
          <KeepAudience {...{ meant: everyone, group, catalogue, total: all }} isPicked={false} />
        </>
      )}
      {of === 'contact' && <Freeze table={table} total={shown} />}
    </Bar>
  );
}

function Bar({ words, children }: { words: string; children: React.ReactNode }) {
  return (
    <div className="panel mb-2 flex flex-wrap items-center gap-2 px-3.5 py-1.5" role="group" aria-label="Do to many">
      <b className="mr-1">{words}</b>
      {children}
    </div>
  );
}

interface ManyActionsProps {
  readonly meant: Meant;
  readonly whom: string;
  readonly catalogue: Catalogue;
  readonly disabled?: boolean;
}

function ManyActions({ meant, ...others }: ManyActionsProps) {
  return (
    <>
      <ChangeMany meant={meant} {...others} />
      {meant.of === 'contact' && <RunBundle who={meant.who} {...others} />}
    </>
  );
}
