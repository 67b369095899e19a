import { Link } from 'react-router';
import { type WorklistView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { PeoplePlaces } from '../contacts/people-places';
import { Page } from '../ui/page';
import { count } from '../ui/number';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';

/** How much of a list is done, as a bar and in words. */
export function Progress({ list: { done, later, total } }: { list: WorklistView }) {
  return (
    <span className="inline-flex items-center gap-2 whitespace-nowrap">
      <progress className="progress progress-primary w-28" value={done} max={Math.max(1, total)} aria-label="How much is done" />
      <span>
        {count(done)} of {count(total)} done{later > 0 && <span className="quiet"> · {count(later)} put off</span>}
      </span>
    </span>
  );
}

/** The lists that are worked down: one's own, and those that several share. */
export default function Worklists() {
  const { data, error, refetch } = api.useWorklistsQuery();
  return (
    <Page
      title="Worklists"
      sentence="Tables that were frozen in their order, to be worked down one after another. Whoever moves meanwhile stays where they are."
    >
      <PeoplePlaces />
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !data ? (
        <Loading />
      ) : data.worklists.length === 0 ? (
        <Empty title="No worklist yet">
          Narrow the{' '}
          <Link className="leads" to="/people">
            table of people
          </Link>{' '}
          down, sort it, and freeze it there.
        </Empty>
      ) : (
        <ul className="panel divide-base-300/60 divide-y" aria-label="Worklists">
          {data.worklists.map((list) => (
            <li key={list.id} className="flex flex-wrap items-center gap-x-6 gap-y-1 px-4 py-2.5">
              <Link className="min-w-48 flex-1 font-semibold hover:underline" to={`/people/worklists/${list.id}`}>
                {list.name}
              </Link>
              <Progress list={list} />
              <span className="quiet w-72 truncate text-[12.5px]">
                {list.forAll ? 'shared, ' : ''}frozen by {list.by}, <When at={list.at} />
              </span>
            </li>
          ))}
        </ul>
      )}
    </Page>
  );
}
