import { type TodayView } from '@eager-sieve/contracts';
import { Link } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { Movement } from '../audiences/audiences';
import { count, people, subjects } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { ForYou } from '../tasks/for-you';
import { DemoStrip } from './demo-strip';
import { FirstSteps, hasLiveAudience } from './first-steps';
import { HoursChart } from './hours-chart';

/** The demo is looked at so often while it is being loaded. */
const WATCHED_MS = 1_000;

/** What flowed through since the start of yesterday, and what needs a hand. */
export default function Today() {
  const { data: last } = api.endpoints.today.useQueryState();
  const isComing = last?.demo.state === 'loading' || last?.demo.state === 'stopping';
  const { data, error, refetch, fulfilledTimeStamp: at = 0 } = api.useTodayQuery(undefined, { pollingInterval: isComing ? WATCHED_MS : 0 });
  const catalogue = useCatalogue();
  const mayBuild = useMay('definitions:write');
  // Another server takes the place of the one that was asked for the demo: meanwhile nobody answers.
  if (error && !isComing) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  return (
    <Page title="Today" sentence={`${people(data.contacts)}. This is what flowed through since the start of yesterday.`}>
      <DemoStrip demo={data.demo} at={at} />
      {catalogue && mayBuild && !isComing && (data.contacts === 0 || !hasLiveAudience(catalogue)) && (
        <FirstSteps catalogue={catalogue} today={data} />
      )}
      <Flow flow={data.flow} usual={data.usual} />
      <div className="mt-4 grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-4 max-lg:grid-cols-1">
        <section className="panel p-4">
          <h2 className="mb-2 text-[15px]">Signals by the hour, last 24 hours</h2>
          <HoursChart hours={data.signalsByHour} />
        </section>
        <section className="panel p-4">
          <h2 className="mb-2 text-[15px]">Needs a hand</h2>
          <Attention attention={data.attention} />
        </section>
      </div>
      <ForYou />
      <Moved moved={data.moved} />
    </Page>
  );
}

/** What flowed through each place. */
function Flow({ flow, usual }: Pick<TodayView, 'flow' | 'usual'>) {
  const steps = [
    { place: 'Intake', to: '/intake', n: flow.signals, usual: usual?.signals, words: 'signals came in' },
    { place: 'Tags', to: '/tags', n: flow.tagsAdded, usual: usual?.tagsAdded, words: `tags added, ${count(flow.tagsRemoved)} removed` },
    { place: 'Rules', to: '/rules', n: flow.rulesRan, usual: usual?.rulesRan, words: 'times a rule ran' },
    { place: 'Scores', to: '/scores', n: flow.bandsCrossed, usual: usual?.bandsCrossed, words: 'bands crossed' },
    { place: 'Audiences', to: '/audiences', n: flow.joined, usual: usual?.joined, words: `came in, ${count(flow.left)} left` },
    { place: 'Campaigns', to: '/campaigns', n: flow.sent, usual: usual?.sent, words: flow.sent === 1 ? 'send' : 'sends' },
  ];
  return (
    <ol className="panel grid grid-cols-6 max-lg:grid-cols-3 max-sm:grid-cols-2" aria-label="What flowed through">
      {steps.map((step) => (
        <li key={step.place} className="border-base-300 border-l px-4 py-3 first:border-l-0">
          <Link to={step.to} className="leads">
            {step.place}
          </Link>
          <div className="font-display text-[22px] font-semibold">{count(step.n)}</div>
          <div className="quiet text-[12.5px]">{step.words}</div>
          {step.usual !== undefined && <Ordinarily n={step.n} usual={step.usual} />}
        </li>
      ))}
    </ol>
  );
}

/** So many times as much, or as little, as on an ordinary day stands out. */
const STANDS_OUT = 2;

function Ordinarily({ n, usual }: { n: number; usual: number }) {
  const standsOut = Math.max(n, usual) >= 10 && (n > STANDS_OUT * usual || usual > STANDS_OUT * n);
  return <div className={`text-[12.5px] ${standsOut ? 'font-semibold' : 'quiet'}`}>ordinarily {count(usual)}</div>;
}

function Attention({ attention }: Pick<TodayView, 'attention'>) {
  if (attention.length === 0) return <p className="quiet">Nothing does.</p>;
  return (
    <ul className="max-h-64 overflow-y-auto" tabIndex={0} aria-label="Needs a hand">
      {attention.map((each, index) => (
        <li key={index} className="py-1">
          <Link to={each.link} className="leads">
            {each.words}
          </Link>
        </li>
      ))}
    </ul>
  );
}

function Moved({ moved }: Pick<TodayView, 'moved'>) {
  return (
    <section className="mt-4">
      <h2 className="mb-1 text-[15px]">
        What moved{' '}
        <Link to="/audiences" className="leads font-sans text-[13px] font-normal">
          all audiences
        </Link>
      </h2>
      {moved.length === 0 ? (
        <Empty title="No audience yet">
          <Link to="/audiences/new" className="leads">
            Make the first one
          </Link>
        </Empty>
      ) : (
        <table className="table w-full">
          <tbody>
            {moved.map((audience) => (
              <tr key={audience.key} className="border-base-300/60 h-9 border-b">
                <td className="font-semibold">
                  <Link to={`/audiences/${audience.key}`} className="hover:underline">
                    {audience.name}
                  </Link>
                </td>
                <td>{subjects(audience.of, audience.members)}</td>
                <td className="quiet">
                  <Movement came={audience.came} left={audience.left} />
                  {audience.isUnusual && <strong className="ml-2">ordinarily {count(audience.usual ?? 0)} come or leave</strong>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
