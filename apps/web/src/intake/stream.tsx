import { type LiveSignal } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { Choice } from '../conditions/lines/inputs';
import { Earlier } from '../ui/earlier';
import { Labelled } from '../ui/labelled';
import { times } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Check } from './question-editor';
import { Play } from './play';
import { SetAside } from './set-aside';

/** Who did what: `Anna ordered: Celadon glaze`. */
export function Happened({ signal }: { signal: LiveSignal }) {
  return (
    <>
      <Link to={`/people/${signal.contact}`} className="font-semibold hover:underline">
        {signal.name}
      </Link>{' '}
      {signal.verb}
      {signal.summary && `: ${signal.summary}`}
    </>
  );
}

const NAMES = ['type', 'source', 'who', 'did'] as const;

/** What the stream is narrowed to. It stands in the address, so that it can be sent to somebody. */
function useNarrowed() {
  const [search, setSearch] = useSearchParams();
  const filter = Object.fromEntries(NAMES.flatMap((name) => (search.get(name) ? [[name, search.get(name)]] : []))) as Partial<
    Record<(typeof NAMES)[number], string>
  >;
  const put = (name: (typeof NAMES)[number], value: string): void =>
    setSearch(
      (before) => {
        if (value.trim() === '') before.delete(name);
        else before.set(name, value.trim());
        return before;
      },
      { replace: true },
    );
  return { filter, put, clear: () => setSearch({}, { replace: true }) };
}

/** Everything that comes in, the newest first, and what each of it did. It goes on by itself until it is paused. */
export default function Stream() {
  const { filter, put, clear } = useNarrowed();
  const { did, ...narrow } = filter;
  const list = api.useStreamInfiniteQuery({ ...narrow, ...(did ? { did: true } : {}) });
  const live = list.data?.pages.flatMap((page) => page.rows);
  const [held, setHeld] = useState<readonly LiveSignal[]>();
  const rows = held ?? live;
  const first = held?.[0];
  const since = first && live ? live.findIndex(({ id }) => id === first.id) : 0;
  return (
    <Page
      title="Stream"
      sentence="What people do, as it comes in, and what each of it did here."
      actions={
        <button
          type="button"
          className="btn btn-sm btn-outline btn-primary"
          disabled={!live}
          onClick={() => setHeld(held ? undefined : live)}
        >
          {held ? `Go on${since > 0 ? `: ${times(since, 'new one')}` : ''}` : 'Pause'}
        </button>
      }
    >
      <SetAside />
      <Play />
      <Filters filter={filter} put={put} clear={clear} />
      {list.error ? (
        <Wrong error={list.error} again={() => void list.refetch()} />
      ) : !rows ? (
        <Loading />
      ) : rows.length === 0 ? (
        Object.keys(filter).length > 0 ? (
          <Empty title="Nothing of that kind has come in" />
        ) : (
          <Empty title="Nothing has come in yet">Orders, answers, visits and opened messages show here as they happen.</Empty>
        )
      ) : (
        <>
          <ol className="panel divide-base-300/60 divide-y" aria-label="Signals">
            {rows.map((signal) => (
              <Row key={signal.id} signal={signal} />
            ))}
          </ol>
          {!held && <Earlier list={list} />}
        </>
      )}
    </Page>
  );
}

function Row({ signal }: { signal: LiveSignal }) {
  return (
    <li className="px-4 py-1.5">
      <span className="flex items-baseline justify-between gap-3">
        <span className="min-w-0 truncate">
          <Happened signal={signal} />
        </span>
        <span className="quiet flex-none text-[12px]">
          {signal.source} · <When at={signal.time} />
        </span>
      </span>
      {signal.did.length > 0 && (
        <span className="quiet block pl-4 text-[12.5px]">
          {signal.did.join(' · ')}
          {signal.more > 0 && (
            <>
              {' · '}
              <Link className="leads" to={`/people/${signal.contact}`}>
                {signal.more} more
              </Link>
            </>
          )}
        </span>
      )}
    </li>
  );
}

function Filters({ filter, put, clear }: ReturnType<typeof useNarrowed>) {
  const catalogue = useCatalogue();
  const { data: sources = [] } = api.useSourcesQuery(undefined, { pollingInterval: 60_000 });
  const types = (catalogue?.all('signalType') ?? []).map((type): [string, string] => [type.key, type.body.verb]);
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
      <Labelled label="What they did">
        <Choice
          label="What they did"
          value={filter.type ?? ''}
          choices={[['', 'anything'], ...types.sort(([, a], [, b]) => a.localeCompare(b))]}
          onPick={(type) => put('type', type)}
        />
      </Labelled>
      <Labelled label="From where">
        <Choice
          label="From where"
          value={filter.source ?? ''}
          choices={[['', 'anywhere'], ...sources.map(({ name }): [string, string] => [name, name])]}
          onPick={(source) => put('source', source)}
        />
      </Labelled>
      <Labelled label="Who">
        <input
          className="input input-sm w-48"
          placeholder="name or email begins with"
          defaultValue={filter.who ?? ''}
          key={filter.who ?? ''}
          onBlur={(event) => put('who', event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && put('who', event.currentTarget.value)}
        />
      </Labelled>
      <span className="pb-1">
        <Check words="only what moved somebody" checked={filter.did !== undefined} onChange={(on) => put('did', on ? 'true' : '')} />
      </span>
      {Object.keys(filter).length > 0 && (
        <button type="button" className="btn btn-sm" onClick={clear}>
          Show everything
        </button>
      )}
    </div>
  );
}
