import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api } from '../app/api';
import { statusOf } from '../app/errors';
import { Page } from '../ui/page';
import { Earlier } from '../ui/earlier';
import { Empty, Loading, Wrong } from '../ui/states';
import { useMay } from '../app/use-may';
import { Opener } from '../ui/opener';
import { TakeBack } from '../ui/take-back';
import { LedgerDays } from './ledger-days';
import { LedgerFilters, useLedgerFilter } from './ledger-filters';
import { LedgerRows } from './ledger-rows';
import { SavedViews } from '../ui/saved-views';
import { TakenBack } from './taken-back';

/** What the ledger is narrowed to, as it stands in an address. */
const queryOf = (asked: object): string =>
  new URLSearchParams(Object.entries(asked).map(([name, value]): [string, string] => [name, String(value)])).toString();

/** The record of everything that was done, and why. */
export default function LedgerPage() {
  const narrowed = useLedgerFilter();
  const [search, setSearch] = useSearchParams();
  const [showsDays, setShowsDays] = useState(false);
  const [showsTaken, setShowsTaken] = useState(search.get('show') === 'taken-back');
  const mayTakeBack = useMay('definitions:write', 'ledger:read', 'contacts:read', 'contacts:write');
  const list = api.useLedgerInfiniteQuery(narrowed.filter);
  const { data, error, refetch } = list;
  const rows = data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <Page title="Ledger" sentence="Everything that was done, and what it was done for.">
      <LedgerFilters {...narrowed} />
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <Opener open={showsDays} onToggle={() => setShowsDays(!showsDays)}>
          by day and rule
        </Opener>
        <Opener open={showsTaken} onToggle={() => setShowsTaken(!showsTaken)}>
          what was taken back
        </Opener>
        <SavedViews place="ledger" query={queryOf(narrowed.filter)} onOpen={(query) => setSearch(query, { replace: true })} />
        {rows.length > 0 && (
          <a className="leads" download="ledger.csv" href={`/api/app/ledger?${queryOf({ ...narrowed.filter, format: 'csv' })}`}>
            As CSV
          </a>
        )}
        {Object.keys(narrowed.filter).some((name) => name !== 'kind') && mayTakeBack && rows.length > 0 && (
          <TakeBack key={JSON.stringify(narrowed.filter)} what={{ ledger: narrowed.filter }} words="Take all of this back …" />
        )}
      </div>
      {showsTaken && <TakenBack />}
      {showsDays && !error && <LedgerDays filter={narrowed.filter} />}
      {error ? (
        statusOf(error) === 404 ? (
          <Empty title={narrowed.filter.who ? 'No contact has that address' : 'There is no such thing any more'} />
        ) : (
          <Wrong error={error} again={() => void refetch()} />
        )
      ) : !data ? (
        <Loading />
      ) : rows.length === 0 ? (
        <Empty title={narrowed.isNarrow ? 'Nothing of that kind was done' : 'Nothing has been done yet'} />
      ) : (
        <>
          <LedgerRows rows={rows} />
          <Earlier list={list} />
        </>
      )}
    </Page>
  );
}
