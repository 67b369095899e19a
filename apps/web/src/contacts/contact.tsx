import { useParams } from 'react-router';
import { type ContactView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { ReadOnly } from '../ui/offer';
import { useCatalogue } from '../app/use-catalogue';
import { useEffect } from 'react';
import { Deals } from '../deals/deals';
import { Page } from '../ui/page';
import { Loading, Wrong } from '../ui/states';
import { relative, When } from '../ui/when';
import { Facts } from './facts';
import { OnePerson } from './one-person';
import { Timeline } from './timeline';
import { TrySignal } from './try-signal';

/** The contact as one heading: who, and where their keenness stands. */
function heading(contact: ContactView) {
  const score = contact.scores[0];
  return (
    <>
      {contact.name}
      {score && (
        <>
          ,{' '}
          <em className="text-primary not-italic">
            {score.bandName} since {relative(score.bandSince)}
          </em>
        </>
      )}
    </>
  );
}

export default function Contact() {
  const { id = '' } = useParams();
  const catalogue = useCatalogue();
  const mayWrite = useMay('contacts:write');
  const { data: contact, error, refetch } = api.useContactQuery({ id });
  useEffect(() => {
    if (contact) document.title = `${contact.name} · Eager Sieve`;
    return () => {
      document.title = 'Eager Sieve';
    };
  }, [contact]);
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!contact || !catalogue) return <Loading />;
  const email = contact.consent.find((each) => each.channel === 'email');
  return (
    <Page
      title={heading(contact)}
      meta={
        <>
          {contact.email ?? 'no email address'} · email {email?.state === 'given' ? 'allowed' : (email?.state ?? 'never allowed')} · added{' '}
          <When at={contact.added} />
        </>
      }
    >
      <div className="border-base-300 grid min-h-0 flex-1 grid-cols-[320px_minmax(0,1fr)] border-t max-lg:grid-cols-1">
        <div className="py-4 pr-5">
          <ReadOnly value={!mayWrite}>
            <Facts contact={contact} catalogue={catalogue} />
          </ReadOnly>
          <OnePerson contact={contact} />
        </div>
        <div className="border-base-300 border-l py-4 pl-5 max-lg:border-l-0 max-lg:pl-0">
          {(contact.deals.length > 0 || catalogue.all('pipeline').length > 0) && (
            <div className="mb-5">
              <ReadOnly value={!mayWrite}>
                <Deals
                  deals={contact.deals}
                  catalogue={catalogue}
                  holder={{
                    contact: contact.email ?? `id:${contact.outsideId ?? ''}`,
                    ...(contact.company ? { company: contact.company.outsideId } : {}),
                  }}
                />
              </ReadOnly>
            </div>
          )}
          <TrySignal contact={contact} catalogue={catalogue} />
          <Timeline contactId={contact.id} />
        </div>
      </div>
    </Page>
  );
}
