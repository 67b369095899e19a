import { type Definition } from '@eager-sieve/core';
import { Link, useNavigate } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { times } from '../ui/number';
import { RetiredList } from '../ui/retired';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Offer } from '../ui/offer';
import { Shelves } from '../ui/shelf';
import { Imports } from './imports';
import { Sites, Sources, Webhooks } from './sources';
import { WatchedFiles } from './watched-files';
import { Happened } from './stream';
import { SetAside } from './set-aside';

/** Everything that comes in: forms, imports, and the live stream of signals. */
export default function Intake() {
  const catalogue = useCatalogue();
  const navigate = useNavigate();
  if (!catalogue) return <Loading />;
  return (
    <Page
      title="Intake"
      sentence="What people do comes in here as signals: answers, orders, visits, opened messages."
      actions={
        <>
          <Offer needs="contacts:write">
            <Link className="btn btn-sm btn-outline btn-primary" to="/intake/import">
              Import a file
            </Link>
          </Offer>
          <Offer needs="definitions:write">
            <button type="button" data-new className="btn btn-sm btn-primary" onClick={() => void navigate('/intake/forms/new')}>
              New form <kbd className="font-mono text-[11px] opacity-80">n</kbd>
            </button>
          </Offer>
        </>
      }
    >
      <SetAside />
      <div className="grid grid-cols-[minmax(0,2fr)_minmax(0,3fr)] gap-5 max-lg:grid-cols-1">
        <div className="flex flex-col gap-5">
          <Forms forms={catalogue.all('form')} />
          <Sources />
          <Webhooks />
          <WatchedFiles />
          <Sites />
          <Offer needs="signals:write">
            <p>
              <Link className="leads" to="/intake/stand-ins">
                Stand-ins
              </Link>{' '}
              <span className="quiet">for a shop, a phone desk, a course book: let somebody made up do something.</span>
            </p>
          </Offer>
          <Imports />
        </div>
        <LiveSignals />
      </div>
      <RetiredList kinds={['form']} />
    </Page>
  );
}

function Forms({ forms }: { forms: readonly Definition<'form'>[] }) {
  return (
    <section>
      <h2 className="mb-1.5 text-[15px]">Forms</h2>
      {forms.length === 0 ? (
        <Empty title="No form yet">
          A form asks, and its answers become fields, tags and points.{' '}
          <Link className="leads" to="/intake/forms/new">
            Make the first one
          </Link>
          .
        </Empty>
      ) : (
        <Shelves items={forms} of={({ body }) => body} keyOf={({ key }) => key}>
          {(form) => (
            <div className="flex items-baseline justify-between gap-3 px-4 py-2">
              <Link to={`/intake/forms/${form.key}`} className="font-semibold hover:underline">
                {form.name}
              </Link>
              <span className="quiet text-[12.5px]">
                {times(form.body.questions.length, 'question')} ·{' '}
                {form.body.published ? (
                  <a className="leads" href={`/f/${form.key}`} target="_blank" rel="noreferrer">
                    public page
                  </a>
                ) : (
                  'not published'
                )}
              </span>
            </div>
          )}
        </Shelves>
      )}
    </section>
  );
}

function LiveSignals() {
  const stream = api.useStreamInfiniteQuery({});
  const rows = stream.data?.pages[0]?.rows;
  return (
    <section>
      <div className="mb-1.5 flex items-baseline justify-between">
        <h2 className="text-[15px]">
          <span aria-hidden className="bg-accent mr-1.5 inline-block size-2 rounded-full" />
          Live signals
        </h2>
        <Link className="leads" to="/intake/stream">
          All of them, and what they did
        </Link>
      </div>
      {stream.error ? (
        <Wrong error={stream.error} />
      ) : !rows ? (
        <Loading />
      ) : rows.length === 0 ? (
        <Empty title="Nothing has come in yet" />
      ) : (
        <ol className="panel divide-base-300/60 max-h-[70vh] divide-y overflow-y-auto" tabIndex={0} aria-label="Live signals">
          {rows.map((signal) => (
            <li key={signal.id} className="flex items-baseline justify-between gap-3 px-4 py-1.5">
              <span className="min-w-0 truncate">
                <Happened signal={signal} />
              </span>
              <span className="quiet flex-none text-[12px]">
                {signal.source} · <When at={signal.time} />
              </span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
