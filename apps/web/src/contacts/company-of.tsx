import { keyFrom } from '@eager-sieve/core';
import { type CompanyRow, type ContactView } from '@eager-sieve/contracts';
import { use, useState } from 'react';
import { api } from '../app/api';
import { useMayCall } from '../app/use-may';
import { CompanyLink } from '../ui/company-link';
import { Dialog } from '../ui/dialog';
import { FindCompany } from '../ui/find-company';
import { times } from '../ui/number';
import { ReadOnly } from '../ui/offer';
import { useContactWrite } from './use-contact-write';

const linkedTo = (name: string | null) => ({
  words: name === null ? 'They are in no company now.' : `They are in ${name} now.`,
  kind: 'company',
});

/** The company of a contact, with the way to link them to another, found by its name. */
export function CompanyOf({ contact }: { contact: ContactView }) {
  const [isOpen, setIsOpen] = useState(false);
  const readOnly = use(ReadOnly);
  const mayFind = useMayCall('companies');
  const { company } = contact;
  if (readOnly || !mayFind) return company ? <CompanyLink id={company.id} name={company.name} /> : <span className="quiet">not known</span>;
  return (
    <>
      {company && (
        <span className="mr-1.5">
          <CompanyLink id={company.id} name={company.name} />
        </span>
      )}
      <button
        type="button"
        className="slot"
        aria-label={company ? `Company: ${company.name}, change` : 'Company: not known, link one'}
        onClick={() => setIsOpen(true)}
      >
        {company ? 'change' : 'not known'}
      </button>
      {!company && <Suggested contact={contact} />}
      {isOpen && (
        <Dialog open title={`The company of ${contact.name}`} onClose={() => setIsOpen(false)}>
          <Finding contact={contact} onClose={() => setIsOpen(false)} />
        </Dialog>
      )}
    </>
  );
}

/** The company that nearly all others at the domain of their address are in. */
function Suggested({ contact }: { contact: ContactView }) {
  const { data } = api.useCompanySuggestionQuery({ id: contact.id });
  const set = useContactWrite(contact);
  const suggested = data?.suggested;
  if (!suggested) return null;
  return (
    <span className="ml-2 text-[12.5px]">
      <span className="quiet">
        perhaps {suggested.name}: {times(suggested.people, 'other')} at {suggested.domain} {suggested.people === 1 ? 'is' : 'are'} there
      </span>{' '}
      <button type="button" className="btn btn-xs" onClick={() => void set({ company: suggested.outsideId }, linkedTo(suggested.name))}>
        Link to {suggested.name}
      </button>
    </span>
  );
}

function Finding({ contact, onClose }: { contact: ContactView; onClose: () => void }) {
  const [put, putting] = api.usePutCompaniesMutation();
  const set = useContactWrite(contact);
  const link = async (outsideId: string | null, name: string | null): Promise<void> => {
    if (await set({ company: outsideId }, linkedTo(name))) onClose();
  };
  const make = async (name: string, found: readonly CompanyRow[]): Promise<void> => {
    const outsideId = keyFrom(name, new Set(found.map((company) => company.outsideId)));
    const made = await put({ body: { onExisting: 'skip', companies: [{ outsideId, name }] } });
    if (made.data?.results[0]?.status === 'created') await link(outsideId, name);
  };
  const isSame = (name: string, other: string): boolean => name.toLowerCase() === other.toLowerCase();
  return (
    <FindCompany
      not={(company) => (company.id === contact.company?.id ? 'theirs now' : undefined)}
      onPick={(company) => void link(company.outsideId, company.name)}
      below={(wanted, found) => (
        <>
          {(putting.error || putting.data?.results[0]?.faults || putting.data?.results[0]?.status === 'skipped') && (
            <p role="alert" className="text-error mt-2 font-medium">
              The company could not be made. Make it under Companies, with an outside id of its own.
            </p>
          )}
          <div className="mt-4 flex flex-wrap gap-2">
            {wanted !== '' && !found?.some(({ name }) => isSame(name, wanted)) && (
              <button
                type="button"
                className="btn btn-sm btn-outline btn-primary"
                disabled={putting.isLoading || !found}
                onClick={() => void make(wanted, found ?? [])}
              >
                Make “{wanted}”
              </button>
            )}
            {contact.company && (
              <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => void link(null, null)}>
                In no company
              </button>
            )}
            <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onClose}>
              Leave it
            </button>
          </div>
        </>
      )}
    />
  );
}
