import { type CompanyView } from '@eager-sieve/contracts';
import { use, useState } from 'react';
import { CompanyLink } from '../ui/company-link';
import { Dialog } from '../ui/dialog';
import { FindCompany } from '../ui/find-company';
import { people } from '../ui/number';
import { ReadOnly } from '../ui/offer';

interface ParentProps {
  readonly company: CompanyView;
  /** writes the outside id of the parent; null takes it away */
  readonly onSet: (parent: string | null) => Promise<boolean>;
}

/** The company that this one is a branch of, found by its name. */
export function ParentRow({ company, onSet }: ParentProps) {
  const readOnly = use(ReadOnly);
  const [isOpen, setIsOpen] = useState(false);
  const { parent } = company;
  const close = (): void => setIsOpen(false);
  const set = async (outsideId: string | null): Promise<void> => {
    if (await onSet(outsideId)) close();
  };
  return (
    <div className="contents" data-fact>
      <dt className="quiet">branch of</dt>
      <dd className="[overflow-wrap:anywhere]">
        {parent && (
          <span className="mr-1.5">
            <CompanyLink id={parent.id} name={parent.name} />
          </span>
        )}
        {!readOnly && (
          <button
            type="button"
            className="slot"
            aria-label={parent ? `Branch of ${parent.name}, change` : 'Branch of no other company, link one'}
            onClick={() => setIsOpen(true)}
          >
            {parent ? 'change' : <span className="quiet">no other</span>}
          </button>
        )}
        {isOpen && (
          <Dialog open title={`What ${company.name} is a branch of`} onClose={close}>
            <FindCompany
              not={({ id }) => (id === company.id ? 'this one' : id === parent?.id ? 'linked now' : undefined)}
              onPick={({ outsideId }) => void set(outsideId)}
            />
            <div className="mt-4 flex flex-wrap gap-2">
              {parent && (
                <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => void set(null)}>
                  Of no other
                </button>
              )}
              <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={close}>
                Leave it
              </button>
            </div>
          </Dialog>
        )}
      </dd>
    </div>
  );
}

/** The branches of a company, each with its contacts, and how many there are together. */
export function Branches({ company: { branches, together } }: { company: CompanyView }) {
  if (branches.length === 0) return null;
  return (
    <section>
      <h2 className="mb-1.5 text-[14px]">Branches</h2>
      <ul className="flex flex-col">
        {branches.map((branch) => (
          <li key={branch.id} className="border-base-300/60 flex items-baseline justify-between gap-3 border-b py-1">
            <CompanyLink id={branch.id} name={branch.name} />
            <span className="quiet whitespace-nowrap">{people(branch.contacts)}</span>
          </li>
        ))}
      </ul>
      <p className="quiet mt-1.5 text-[12.5px]">With them and theirs, {people(together)}.</p>
    </section>
  );
}
