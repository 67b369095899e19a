import { type Catalogue, type Definition } from '@eager-sieve/core';
import { SENDS_SHOWN, type SendView } from '@eager-sieve/contracts';
import { Link, useNavigate } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { count } from '../ui/number';
import { RetiredList } from '../ui/retired';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Offer } from '../ui/offer';
import { Shelves } from '../ui/shelf';
import { Paused } from './paused';

/** The messages, and what came of sending them. */
export default function Campaigns() {
  const catalogue = useCatalogue();
  const navigate = useNavigate();
  if (!catalogue) return <Loading />;
  const messages = catalogue.all('message');
  return (
    <Page
      title={`Campaigns: ${count(messages.length)}`}
      sentence="Messages to audiences. Whoever answers by a click is tagged, and moves."
      actions={
        <>
          <Link className="btn btn-sm btn-outline btn-primary" to="/campaigns/post-room">
            Post room
          </Link>
          <Offer needs="definitions:write">
            <button type="button" data-new className="btn btn-sm btn-primary" onClick={() => void navigate('/campaigns/new')}>
              New message <kbd className="font-mono text-[11px] opacity-80">n</kbd>
            </button>
          </Offer>
        </>
      }
    >
      <Paused />
      {messages.length === 0 ? (
        <Empty title="No message yet">
          <Link className="leads" to="/campaigns/new">
            Write the first one
          </Link>
          : a subject, a text with placeholders, and links that are answers.
        </Empty>
      ) : (
        <Messages messages={messages} catalogue={catalogue} />
      )}
      <Sends />
      <RetiredList kinds={['message']} />
    </Page>
  );
}

function Messages({ messages, catalogue }: { messages: readonly Definition<'message'>[]; catalogue: Catalogue }) {
  return (
    <Shelves items={messages} of={({ body }) => body} keyOf={({ key }) => key}>
      {(message) => (
        <div className="flex items-baseline justify-between gap-4 px-4 py-2.5">
          <div className="min-w-0">
            <Link to={`/campaigns/${message.key}`} className="font-semibold hover:underline">
              {message.name}
            </Link>
            <p className="quiet truncate text-[12.5px]">{message.body.subject}</p>
          </div>
          <span className="quiet flex-none text-[12.5px]">
            {message.body.audience === undefined ? 'to nobody yet' : `to ${catalogue.get('audience', message.body.audience)?.name ?? ''}`}
          </span>
        </div>
      )}
    </Shelves>
  );
}

function Sends() {
  const sends = api.useSendsQuery();
  return (
    <>
      <h2 className="mt-5 mb-1.5 text-[15px]">
        Sends{' '}
        {sends.data?.length === SENDS_SHOWN && <span className="quiet font-sans text-[13px] font-normal">the latest {SENDS_SHOWN}</span>}
      </h2>
      {sends.error ? (
        <Wrong error={sends.error} />
      ) : !sends.data ? (
        <Loading />
      ) : sends.data.length === 0 ? (
        <p className="quiet">Nothing has been sent yet.</p>
      ) : (
        <SendsTable sends={sends.data} />
      )}
    </>
  );
}

function SendsTable({ sends }: { sends: readonly SendView[] }) {
  return (
    <table className="table w-full">
      <thead>
        <tr className="quiet text-left text-[12px]">
          <th className="h-6.5">Message</th>
          <th>To</th>
          <th>When</th>
          <th className="text-right">Sent</th>
          <th className="text-right">Held back</th>
          <th className="text-right">Opened</th>
          <th className="text-right">Clicked</th>
          <th className="text-right">Unsubscribed</th>
        </tr>
      </thead>
      <tbody>
        {sends.map((send) => (
          <tr key={send.id} className="border-base-300/60 h-9 border-b">
            <td className="font-semibold">
              <Link className="hover:underline" to={`/campaigns/${send.message}`}>
                {send.messageName}
              </Link>
            </td>
            <td>{send.audienceName}</td>
            <td className="quiet">
              <When at={send.at} />
            </td>
            <td className="text-right">
              {count(send.sent)} <span className="quiet">of {count(send.recipients)}</span>
              {send.inDoubt > 0 && <span className="text-error"> · {count(send.inDoubt)} in doubt</span>}
            </td>
            <td className="text-right">{count(send.heldBack)}</td>
            <td className="text-right">{count(send.opened)}</td>
            <td className="text-right">{count(send.clicked)}</td>
            <td className="text-right">{count(send.unsubscribed)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
