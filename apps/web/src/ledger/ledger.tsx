import { useState } from 'react';
import { api } from '../app/api';
import { Choice } from '../conditions/lines/inputs';
import { Page } from '../ui/page';
import { Earlier } from '../ui/earlier';
import { Empty, Loading, Wrong } from '../ui/states';
import { LedgerRows } from './ledger-rows';

const KINDS = [
  ['', 'everything'],
  ['tag', 'tags'],
  ['field', 'fields'],
  ['membership', 'memberships'],
  ['band', 'bands'],
  ['firing', 'rules'],
  ['consent', 'consent'],
  ['setting', 'settings and sends'],
] as const;

/** The record of everything that was done, and why. */
export default function LedgerPage() {
  const [kind, setKind] = useState('');
  const list = api.useLedgerInfiniteQuery({ kind });
  const { data, error, refetch } = list;
  const rows = data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <Page
      title="Ledger"
      sentence="Everything that was done, and what it was done for."
      actions={<Choice label="Show" value={kind} choices={KINDS} onPick={setKind} />}
    >
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !data ? (
        <Loading />
      ) : rows.length === 0 ? (
        <Empty title="Nothing has been done yet" />
      ) : (
        <>
          <LedgerRows rows={rows} />
          <Earlier list={list} />
        </>
      )}
    </Page>
  );
}
