import { api } from '../app/api';
import { statusOf } from '../app/errors';
import { Page } from '../ui/page';
import { Earlier } from '../ui/earlier';
import { Empty, Loading, Wrong } from '../ui/states';
import { LedgerFilters, useLedgerFilter } from './ledger-filters';
import { LedgerRows } from './ledger-rows';

/** The record of everything that was done, and why. */
export default function LedgerPage() {
  const narrowed = useLedgerFilter();
  const list = api.useLedgerInfiniteQuery(narrowed.filter);
  const { data, error, refetch } = list;
  const rows = data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <Page title="Ledger" sentence="Everything that was done, and what it was done for.">
      <LedgerFilters {...narrowed} />
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
