import { kindWord, type DefinitionKind } from '@eager-sieve/core';
import { type DefinitionsAnswer } from '@eager-sieve/contracts';
import { Link } from 'react-router';
import { addressOf } from '../app/addresses';
import { faultWords } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';

/** What stands in the way of something that is rehearsed, each with the way to it. Nothing where there is nothing. */
export function Refusals({ refused }: { refused: DefinitionsAnswer['refused'] }) {
  const catalogue = useCatalogue();
  if (refused.length === 0) return null;
  return (
    <div role="alert" className="mt-2">
      <p className="text-error font-medium">This has to be changed first:</p>
      <ul className="list-disc pl-5">
        {refused.map(({ item, faults }) => {
          const [kind = '', key = ''] = item.split(' ');
          const name = catalogue?.find(kind as DefinitionKind, key)?.name;
          return (
            <li key={item}>
              <Link className="leads" to={addressOf(kind, key)}>
                {name ?? key}
              </Link>{' '}
              <span className="quiet">({kindWord(kind as DefinitionKind)})</span>
              {faults[0] && `: ${faultWords(faults[0])}`}
            </li>
          );
        })}
      </ul>
    </div>
  );
}
