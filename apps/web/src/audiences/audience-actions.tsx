import { type Catalogue, type TableOf } from '@eager-sieve/core';
import { Link } from 'react-router';
import { useMay } from '../app/use-may';
import { tableAddress } from '../contacts/table/view';
import { RunBundle } from '../rules/run-bundle';

interface AudienceActionsProps {
  readonly itemKey: string;
  readonly name: string;
  readonly of: TableOf;
  readonly catalogue: Catalogue;
}

/** What is done with everyone in an audience: they are looked at as a table, or a bundle is run on them. */
export function AudienceActions({ itemKey, name, of, catalogue }: AudienceActionsProps) {
  const maySee = useMay('contacts:read', 'audiences:read');
  const isIn = { kind: 'audience', audience: itemKey, op: 'in' } as const;
  return (
    <>
      {maySee && (
        <Link className="btn btn-sm btn-outline btn-primary" to={tableAddress(isIn, of)}>
          As a table
        </Link>
      )}
      {of === 'contact' && <RunBundle who={{ condition: isIn }} whom={name} catalogue={catalogue} />}
    </>
  );
}
