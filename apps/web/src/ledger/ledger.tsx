import { useState } from 'react';
import { api } from '../app/api';
import { Choice } from '../conditions/lines/inputs';
import { About } from '../ui/about';
import { Page } from '../ui/page';
import { Earlier } from '../ui/earlier';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { becauseOf } from './because';

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
  const list = api.useLedgerInfiniteQuery(kind);
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
          <table className="w-full table-fixed">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="h-6.5 w-[12%]">When</th>
                <th className="w-[20%]">To whom</th>
                <th className="w-[34%]">What</th>
                <th>Because of</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.id} className="border-base-300/60 h-8.5 border-b">
                  <td className="quiet">
                    <When at={row.at} />
                  </td>
                  <td className="truncate pr-2">
                    <About of={row} className="hover:underline" />
                  </td>
                  <td className="truncate pr-2" title={row.words}>
                    {row.words}
                  </td>
                  <td className="quiet truncate" title={becauseOf(row)}>
                    {becauseOf(row)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Earlier list={list} />
        </>
      )}
    </Page>
  );
}
