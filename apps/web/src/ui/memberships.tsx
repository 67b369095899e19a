import { type Definition } from '@eager-sieve/core';
import { use, useState, type ComponentProps } from 'react';
import { AudienceLink } from './audience-link';
import { ReadOnly } from './offer';
import { Ahead, When } from './when';
import { Why } from './why';

interface MembershipsProps {
  readonly whose: ComponentProps<typeof Why>['subject']['whose'];
  readonly inside: readonly { readonly key: string; readonly since: string; readonly leavesAt?: string | null | undefined }[];
  /** all audiences and lists that they can be in */
  readonly all: readonly Definition<'audience'>[];
  /** puts them on a fixed list or takes them off it */
  readonly onPut: (list: Definition<'audience'>, on: boolean) => void;
}

/** In which audiences and lists a contact or a company is, and, folded, in which they are not. */
export function Memberships({ whose, inside, all, onPut }: MembershipsProps) {
  const readOnly = use(ReadOnly);
  const since = new Map(inside.map((audience) => [audience.key, audience]));
  const [isOpen, setOpen] = useState(false);
  const others = all.length - inside.length;
  const shown = isOpen ? all : all.filter((audience) => since.has(audience.key));
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">
        In {inside.length} of {all.length} audiences and lists
      </h2>
      <ul className="flex flex-col gap-1">
        {shown.map((audience) => {
          const membership = since.get(audience.key);
          return (
            <li key={audience.key} data-fact>
              <AudienceLink audience={audience.key}>{audience.name}</AudienceLink>{' '}
              <span className="quiet text-[12px]">
                {membership ? <When at={membership.since} /> : 'no'}
                {membership?.leavesAt && (
                  <span title="if nothing happens before">
                    {' '}
                    · leaves <Ahead at={membership.leavesAt} />
                  </span>
                )}
              </span>
              <Why
                subject={{ whose, of: 'membership', key: audience.key }}
                label={membership ? `in ${audience.name}` : `not in ${audience.name}`}
              />
              {audience.body.kind === 'fixed' && !readOnly && (
                <button
                  type="button"
                  className="quiet ml-2 cursor-pointer text-[12px] hover:underline"
                  onClick={() => onPut(audience, !membership)}
                >
                  {membership ? 'take off' : 'put on'}
                </button>
              )}
            </li>
          );
        })}
      </ul>
      {!isOpen && others > 0 && (
        <button type="button" className="quiet mt-1 cursor-pointer text-[12.5px] hover:underline" onClick={() => setOpen(true)}>
          and the {others === 1 ? 'one' : others} {'company' in whose ? 'it is' : 'they are'} not in
        </button>
      )}
    </section>
  );
}
