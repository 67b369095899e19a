import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { LedgerDays } from '../ledger/ledger-days';
import { LedgerRows } from '../ledger/ledger-rows';
import { Opener } from '../ui/opener';
import { Loading, Wrong } from '../ui/states';

const SHOWN = 12;

/** What a rule did: by day, the last ones with the way to their trace, and where it did not run again. */
export function RuleDid({ ruleKey }: { ruleKey: string }) {
  const [isOpen, setIsOpen] = useState(false);
  if (!useMay('ledger:read', 'contacts:read')) return null;
  return (
    <section className="mb-3" aria-label="What it did">
      <Opener open={isOpen} onToggle={() => setIsOpen(!isOpen)}>
        what it did
      </Opener>
      {isOpen && <Did ruleKey={ruleKey} />}
    </section>
  );
}

function Did({ ruleKey }: { ruleKey: string }) {
  const about = `rule/${ruleKey}`;
  const { data, error, refetch } = api.useLedgerInfiniteQuery({ about });
  const rows = data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <div className="mt-2">
      <LedgerDays filter={{ about }} />
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !data ? (
        <Loading />
      ) : rows.length === 0 ? (
        <p className="quiet">It has done nothing yet.</p>
      ) : (
        <>
          <LedgerRows rows={rows.slice(0, SHOWN)} />
          <Link className="leads mt-1 inline-block" to={`/ledger?about=${encodeURIComponent(about)}`}>
            All of it in the ledger
          </Link>
        </>
      )}
    </div>
  );
}
