import { type CompanyRow } from '@eager-sieve/contracts';
import { useDeferredValue, useState, type ReactNode } from 'react';
import { api } from '../app/api';
import { Labelled } from './labelled';
import { people } from './number';
import { Loading, Wrong } from './states';

const SHOWN = 8;

interface FindCompanyProps {
  /** what picking one does, and how that is read aloud before its name */
  readonly act?: readonly [words: string, aloud: string];
  /** what is said of a company that cannot be picked, such as the one that was picked before */
  readonly not: (company: CompanyRow) => string | undefined;
  readonly onPick: (company: CompanyRow) => void;
  /** what stands below those that were found, by what is typed; undefined while it is looked for */
  readonly below?: (wanted: string, found: readonly CompanyRow[] | undefined) => ReactNode;
}

const LINK = ['Link', 'Link to'] as const;

/** Finds a company by its name, to link it or to do something else with it. */
export function FindCompany({ act = LINK, not, onPick, below }: FindCompanyProps) {
  const [typed, setTyped] = useState('');
  const wanted = useDeferredValue(typed.trim());
  const list = api.useCompaniesInfiniteQuery({ search: wanted, limit: SHOWN });
  const found = list.data?.pages[0]?.companies;
  return (
    <>
      <Labelled label="Name of the company">
        <input className="input input-sm w-full" type="search" value={typed} onChange={(event) => setTyped(event.target.value)} />
      </Labelled>
      {list.error ? (
        <Wrong error={list.error} again={() => void list.refetch()} />
      ) : !found ? (
        <Loading />
      ) : (
        <ul className="mt-2" aria-label="Companies that go by it">
          {found.map((company) => (
            <Found key={company.id} act={act} company={company} not={not(company)} onPick={() => onPick(company)} />
          ))}
          {found.length === 0 && <li className="quiet py-1">No company goes by “{wanted}”.</li>}
        </ul>
      )}
      {below?.(wanted, list.isFetching ? undefined : found)}
    </>
  );
}

interface FoundProps {
  readonly company: CompanyRow;
  readonly act: readonly [words: string, aloud: string];
  readonly not: string | undefined;
  readonly onPick: () => void;
}

function Found({ company, act: [words, aloud], not, onPick }: FoundProps) {
  return (
    <li className="border-base-300/60 flex items-baseline justify-between gap-3 border-b py-1">
      <span className="min-w-0 [overflow-wrap:anywhere]">
        {company.name} <span className="quiet text-[12.5px]">{people(company.contacts)}</span>
      </span>
      {not === undefined ? (
        <button type="button" className="btn btn-xs" aria-label={`${aloud} ${company.name}`} onClick={onPick}>
          {words}
        </button>
      ) : (
        <span className="quiet text-[12.5px]">{not}</span>
      )}
    </li>
  );
}
