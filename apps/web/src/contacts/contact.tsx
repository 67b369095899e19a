import { useParams } from 'react-router';
import { type ContactView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { ReadOnly } from '../ui/offer';
import { useCatalogue } from '../app/use-catalogue';
import { useEffect } from 'react';
import { Deals } from '../deals/deals';
import { RunBundle } from '../rules/run-bundle';
import { Page } from '../ui/page';
import { Loading, Wrong } from '../ui/states';
import { SinceWhen, When } from '../ui/when';
import { Attachments } from '../tasks/attachments';
import { Notes } from '../tasks/notes';
import { WorklistStrip } from '../tasks/worklist-strip';
import { ContactTasks } from '../tasks/contact-tasks';
import { Audiences } from './contact-audiences';
import { Scores } from './contact-scores';
import { Address } from './correct-address';
import { ContactTags } from './contact-tags';
import { Facts } from './facts';
import { OnePerson } from './one-person';
import { PastDay } from './past-day';
import { Standing } from './standing';
import { Timeline } from './timeline';
import { TrySignal } from './try-signal';
import { WhyNot } from './why-not';

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
            {score.bandName} <SinceWhen at={score.bandSince} />
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
          <Address contact={contact} /> · email {email?.state === 'given' ? 'allowed' : (email?.state ?? 'never allowed')} · added{' '}
          <When at={contact.added} />
        </>
      }
      actions={<RunBundle who={{ contact: contact.id }} whom={contact.name} catalogue={catalogue} />}
    >
      <WorklistStrip catalogue={catalogue} />
      <div className="border-base-300 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_330px] border-t max-lg:grid-cols-1">
        <div className="py-4 pr-5">
          <ReadOnly value={!mayWrite}>
            <Standing contact={contact} catalogue={catalogue} />
            <div className="grid grid-cols-[repeat(auto-fit,minmax(240px,1fr))] gap-x-8">
              <div>
                <ContactTags contact={contact} catalogue={catalogue} />
                <Audiences contact={contact} catalogue={catalogue} />
              </div>
              <Scores contact={contact} catalogue={catalogue} />
            </div>
          </ReadOnly>
          <div className="flex flex-wrap gap-2">
            <WhyNot contact={contact} catalogue={catalogue} />
            <TrySignal contact={contact} catalogue={catalogue} />
            <PastDay contact={contact} />
          </div>
          <Timeline contactId={contact.id} />
        </div>
        <div className="border-base-300 border-l py-4 pl-5 max-lg:border-t max-lg:border-l-0 max-lg:pl-0">
          <ReadOnly value={!mayWrite}>
            <Facts contact={contact} catalogue={catalogue} />
            <ContactTasks contact={contact} />
            <Notes about={{ contact: contact.id }} />
            <Attachments about={{ contact: contact.id }} />
            {(contact.deals.length > 0 || catalogue.all('pipeline').length > 0) && (
              <Deals
                deals={contact.deals}
                catalogue={catalogue}
                holder={{
                  contact: contact.email ?? `id:${contact.outsideId ?? ''}`,
                  ...(contact.company ? { company: contact.company.outsideId } : {}),
                }}
              />
            )}
          </ReadOnly>
          <OnePerson contact={contact} />
        </div>
      </div>
    </Page>
  );
}
