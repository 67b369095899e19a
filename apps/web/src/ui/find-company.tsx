import { type CompanyRow } from '@eager-sieve/contracts';
import { useDeferredValue, useState, type ReactNode } from 'react';
import { api } from '../app/api';
import { Labelled } from './labelled';
import { people } from './number';
import { Loading, Wrong } from './states';

const SHOWN = 8;

interface FindCompanyProps {
  /** what is said of a company that cannot be picked, such as the one that was picked before */
  readonly not: (company: CompanyRow) => string | undefined;
  readonly onPick: (company: CompanyRow) => void;
  /** what stands below those that were found, by what is typed; undefined while it is looked for */
  readonly below?: (wanted: string, found: readonly CompanyRow[] | undefined) => ReactNode;
}

/** Finds a company by its name, to link it. */
export function FindCompany({ not, onPick, below }: FindCompanyProps) {
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
            <Found key={company.id} company={company} not={not(company)} onPick={() => onPick(company)} />
          ))}
          {found.length === 0 && <li className="quiet py-1">No company goes by “{wanted}”.</li>}
        </ul>
      )}
      {below?.(wanted, list.isFetching ? undefined : found)}
    </>
  );
}

function Found({ company, not, onPick }: { company: CompanyRow; not: string | undefined; onPick: () => void }) {
  return (
    <li className="border-base-300/60 flex items-baseline justify-between gap-3 border-b py-1">
      <span className="min-w-0 [overflow-wrap:anywhere]">
        {company.name} <span className="quiet text-[12.5px]">{people(company.contacts)}</span>
      </span>
      {not === undefined ? (
        <button type="button" className="btn btn-xs" aria-label={`Link to ${company.name}`} onClick={onPick}>
          Link
        </button>
      ) : (
        <span className="quiet text-[12.5px]">{not}</span>
      )}
    </li>
  );
}
