import { type TagUse } from '@eager-sieve/core';
import { Link } from 'react-router';
import { addressOf } from '../app/addresses';

/** What gives a tag or relies on it, each with a way to its page. */
export function Uses({ of, none }: { of: readonly TagUse[]; none: string }) {
  if (of.length === 0) return <span className="quiet">{none}</span>;
  return of.map(({ kind, key, name, on }) => (
    <span key={`${kind} ${key}`} className="mr-2">
      <Link className="leads inline-block leading-[24px]" to={addressOf(kind, key)}>
        {name}
      </Link>
      {!on && <span className="text-error"> (off)</span>}
    </span>
  ));
}
