import { kindWord, type DefinitionKind } from '@eager-sieve/core';
import { Fragment } from 'react';
import { Link } from 'react-router';
import { addressOf } from '../app/addresses';

interface Named {
  readonly kind: string;
  readonly key: string;
  readonly name: string;
}

/** What else is changed by something that is rehearsed, each with the way to it. Nothing where there is nothing. */
export function ChangedWithIt({ definitions, words = 'Changed with it' }: { definitions: readonly Named[]; words?: string }) {
  if (definitions.length === 0) return null;
  return (
    <p className="mt-1">
      {words}:{' '}
      {definitions.map(({ kind, key, name }, index) => (
        <Fragment key={`${kind} ${key}`}>
          {index > 0 && ', '}
          <Link className="leads" to={addressOf(kind, key)}>
            {name}
          </Link>{' '}
          <span className="quiet">({kindWord(kind as DefinitionKind)})</span>
        </Fragment>
      ))}
      .
    </p>
  );
}
