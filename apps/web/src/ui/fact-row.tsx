import { type Definition } from '@eager-sieve/core';
import { type TraceSubject } from '../app/trace';
import { FactInput } from './fact-input';
import { Why } from './why';

interface FactRowProps {
  readonly field: Definition<'field'>;
  /** undefined where nothing is known */
  readonly fact: { readonly value: unknown; readonly shown: string } | undefined;
  readonly whose: TraceSubject['whose'];
  readonly onSet: (value: unknown) => Promise<boolean>;
}

/** A fact of a contact or a company, in a list of them: read and edited in place, with the way to its reason. */
export function FactRow({ field, fact, whose, onSet }: FactRowProps) {
  return (
    <div className="contents" data-fact>
      <dt className="quiet" title={field.body.description}>
        {field.name}
      </dt>
      <dd className="[overflow-wrap:anywhere]">
        <FactInput body={field.body} name={field.name} value={fact?.value} shown={fact?.shown} onSet={onSet} />
        {fact && <Why subject={{ whose, of: 'field', key: field.key }} label={field.name} />}
      </dd>
    </div>
  );
}
