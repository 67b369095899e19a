import { keyFrom } from '@eager-sieve/core';
import { type CompanyRow, type ContactView } from '@eager-sieve/contracts';
import { use, useDeferredValue, useState } from 'react';
import { api } from '../app/api';
import { useMayCall } from '../app/use-may';
import { CompanyLink } from '../ui/company-link';
import { Dialog } from '../ui/dialog';
import { Labelled } from '../ui/labelled';
import { people, times } from '../ui/number';
import { ReadOnly } from '../ui/offer';
import { Loading, Wrong } from '../ui/states';
import { useContactWrite } from './use-contact-write';

const SHOWN = 8;
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
  const [typed, setTyped] = useState('');
  const wanted = useDeferredValue(typed.trim());
  const list = api.useCompaniesInfiniteQuery({ search: wanted, limit: SHOWN });
  const [put, putting] = api.usePutCompaniesMutation();
  const set = useContactWrite(contact);
  const found = list.data?.pages[0]?.companies ?? [];
  const link = async (outsideId: string | null, name: string | null): Promise<void> => {
    if (await set({ company: outsideId }, linkedTo(name))) onClose();
  };
  const make = async (): Promise<void> => {
    const outsideId = keyFrom(wanted, new Set(found.map((company) => company.outsideId)));
    const made = await put({ body: { onExisting: 'skip', companies: [{ outsideId, name: wanted }] } });
    if (made.data?.results[0]?.status === 'created') await link(outsideId, wanted);
  };
  const hasSameName = found.some(({ name }) => name.toLowerCase() === wanted.toLowerCase());
  return (
    <>
      <Labelled label="Name of the company">
        <input className="input input-sm w-full" type="search" value={typed} onChange={(event) => setTyped(event.target.value)} />
      </Labelled>
      {list.error ? (
        <Wrong error={list.error} again={() => void list.refetch()} />
      ) : !list.data ? (
        <Loading />
      ) : (
        <ul className="mt-2" aria-label="Companies that go by it">
          {found.map((company) => (
            <Found
              key={company.id}
              company={company}
              isTheirs={company.id === contact.company?.id}
              onLink={() => void link(company.outsideId, company.name)}
            />
          ))}
          {found.length === 0 && <li className="quiet py-1">No company goes by “{wanted}”.</li>}
        </ul>
      )}
      {(putting.error || putting.data?.results[0]?.faults || putting.data?.results[0]?.status === 'skipped') && (
        <p role="alert" className="text-error mt-2 font-medium">
          The company could not be made. Make it under Companies, with an outside id of its own.
        </p>
      )}
      <div className="mt-4 flex flex-wrap gap-2">
        {wanted !== '' && !hasSameName && (
          <button
            type="button"
            className="btn btn-sm btn-outline btn-primary"
            disabled={putting.isLoading || list.isFetching}
            onClick={() => void make()}
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
  );
}

function Found({ company, isTheirs, onLink }: { company: CompanyRow; isTheirs: boolean; onLink: () => void }) {
  return (
    <li className="border-base-300/60 flex items-baseline justify-between gap-3 border-b py-1">
      <span className="min-w-0 [overflow-wrap:anywhere]">
        {company.name} <span className="quiet text-[12.5px]">{people(company.contacts)}</span>
      </span>
      {isTheirs ? (
        <span className="quiet text-[12.5px]">theirs now</span>
      ) : (
        <button type="button" className="btn btn-xs" aria-label={`Link to ${company.name}`} onClick={onLink}>
          Link
        </button>
      )}
    </li>
  );
}
