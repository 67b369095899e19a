import { useState } from 'react';
import { Link } from 'react-router';
import { builtInSignalTypes, type Catalogue } from '@eager-sieve/core';
import { api } from '../app/api';
import { errorMessage, faultWords } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { Choice } from '../conditions/lines/inputs';
import { Labelled } from '../ui/labelled';
import { Page } from '../ui/page';
import { Loading } from '../ui/states';
import { Tabs } from '../ui/tabs';
import { DetailsForm, filled, firstDetails, type EnteredDetails } from './details-form';
import { Play } from './play';
import { OrderToRefund } from './order-to-refund';
import { basketOf, Till } from './till';

interface StandIn {
  readonly name: string;
  /** where its signals come from */
  readonly source: string;
  readonly types: readonly string[];
}

/** Small takes on the outside world: together they send every type of signal that no other part of the product sends. */
const STAND_INS: Readonly<Record<string, StandIn>> = {
  shop: {
    name: 'Shop',
    source: 'shop',
    types: ['order.placed', 'order.refunded', 'checkout.left', 'plan.started', 'plan.renewed', 'plan.lapsed'],
  },
  site: { name: 'Site', source: 'site', types: ['page.visited', 'file.downloaded', 'form.answered'] },
  desk: {
    name: 'Phone desk',
    source: 'phone-desk',
    types: ['call.made', 'call.received', 'meeting.held', 'note.added', 'consent.given', 'consent.withdrawn'],
  },
  book: {
    name: 'Courses and events',
    source: 'course-book',
    types: [
      'event.registered',
      'event.attended',
      'event.missed',
      'course.started',
      'course.finished',
      'group.joined',
      'group.left',
      'role.given',
      'role.taken',
    ],
  },
  wall: { name: 'Social wall', source: 'social-wall', types: ['post.reacted'] },
  post: {
    name: 'Post',
    source: 'post',
    types: [
      'message.sent',
      'message.received',
      'message.opened',
      'message.clicked',
      'message.replied',
      'message.bounced',
      'message.unsubscribed',
    ],
  },
  trade: { name: 'Trade desk', source: 'trade-desk', types: ['deal.opened', 'deal.moved', 'deal.won', 'deal.lost'] },
};

/** Stand-ins for the outside world: one says what somebody made up does, and sees what comes of it. */
export default function StandIns() {
  const catalogue = useCatalogue();
  const [open, setOpen] = useState('shop');
  if (!catalogue) return <Loading />;
  const own = catalogue.all('signalType').filter(({ key }) => !builtInSignalTypes.some((type) => type.key === key));
  const all: Readonly<Record<string, StandIn>> =
    own.length === 0 ? STAND_INS : { ...STAND_INS, own: { name: 'Your own', source: 'by-hand', types: own.map(({ key }) => key) } };
  const standIn = all[open] ?? (STAND_INS['shop'] as StandIn);
  return (
    <Page title="Stand-ins" sentence="They take the place of the world outside. What they send is worked like anything else, and stays.">
      <Play />
      <Tabs label="Stand-ins" tabs={Object.entries(all).map(([id, { name }]) => ({ id, words: name }))} open={open} onOpen={setOpen} />
      <Sender key={open} standIn={standIn} catalogue={catalogue} />
      <p className="mt-4">
        Sent messages are read, and answered as whoever got them, in the{' '}
        <Link className="leads" to="/campaigns/post-room">
          post room
        </Link>
        .
      </p>
    </Page>
  );
}

/** What the button says of what it does, where that can be said better than that something is sent. */
const SENDS: Readonly<Record<string, string>> = {
  'order.placed': 'Order',
  'checkout.left': 'Leave the checkout',
  'order.refunded': 'Refund',
};

/** Addresses under it are nobody's. */
const MADE_UP = /^[^\s@]+@[^\s@]+\.example$/i;

const BY_THE_TILL: ReadonlySet<string> = new Set(['order.placed', 'checkout.left']);

/** To begin with: an empty basket at the till, which numbers its orders itself. */
function begun(type: string, catalogue: Catalogue): EnteredDetails {
  if (!BY_THE_TILL.has(type)) return firstDetails(type, catalogue);
  return { items: [], ...(type === 'order.placed' ? { order: `T-${crypto.randomUUID().slice(0, 8)}` } : {}) };
}

function Sender({ standIn: { source, types }, catalogue }: { standIn: StandIn; catalogue: Catalogue }) {
  const [who, setWho] = useState('');
  const [type, setType] = useState(types[0] ?? '');
  const [details, setDetails] = useState<EnteredDetails>(() => begun(types[0] ?? '', catalogue));
  const [send, { data, error, isLoading, reset, originalArgs }] = api.useSendSignalMutation();
  const choices = types.map((key): [string, string] => [key, catalogue.find('signalType', key)?.body.verb ?? key]);
  const refused = data?.rejected.map(faultWords) ?? [];
  const isTill = BY_THE_TILL.has(type);
  const isMadeUp = MADE_UP.test(who.trim());
  const isReady = isMadeUp && (!isTill || basketOf(details).length > 0) && (type !== 'order.refunded' || details['order'] !== undefined);
  return (
    <form
      className="panel mt-3 flex flex-col items-start gap-3 p-3.5"
      onSubmit={(event) => {
        event.preventDefault();
        void send({ source, type, subject: who.trim(), data: filled(details) })
          .unwrap()
          .then(
            // What is paid for is out of the basket.
            ({ accepted }) => accepted > 0 && (isTill || type === 'order.refunded') && setDetails(begun(type, catalogue)),
            () => undefined,
          );
      }}
    >
      <div className="flex flex-wrap items-end gap-x-3 gap-y-2">
        <Labelled label="Somebody made up, by an address that ends in .example">
          <input
            type="email"
            className="input input-sm w-72"
            placeholder="ida.brook@place.example"
            value={who}
            onChange={(event) => {
              reset();
              setWho(event.target.value);
              // An order that was picked is somebody else's now.
              if (type === 'order.refunded') setDetails(begun(type, catalogue));
            }}
          />
        </Labelled>
        <Labelled label="What they do">
          <Choice
            label="What they do"
            value={type}
            choices={choices}
            onPick={(next) => {
              reset();
              setType(next);
              setDetails(begun(next, catalogue));
            }}
          />
        </Labelled>
      </div>
      {isTill ? (
        <Till catalogue={catalogue} value={details} onChange={setDetails} />
      ) : type === 'order.refunded' ? (
        <OrderToRefund who={isMadeUp ? who.trim() : undefined} value={details} onPick={setDetails} />
      ) : (
        <DetailsForm type={type} catalogue={catalogue} value={details} onChange={setDetails} />
      )}
      <button className="btn btn-sm btn-primary" disabled={isLoading || !isReady}>
        {isLoading ? 'Sending …' : (SENDS[type] ?? 'Send')}
      </button>
      {!isMadeUp && (who.trim() !== '' || basketOf(details).length > 0) && (
        <p className="quiet">Say above who it is, by an address that ends in .example.</p>
      )}
      {(error || refused.length > 0) && (
        <p role="alert" className="text-error font-medium">
          {error ? errorMessage(error) : refused.join('; ')}
        </p>
      )}
      {data && data.accepted > 0 && (
        <p role="status">
          It came in.{' '}
          <Link className="leads" to={`/people/${originalArgs?.subject ?? ''}`}>
            See what it did
          </Link>
        </p>
      )}
    </form>
  );
}
