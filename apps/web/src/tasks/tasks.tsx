import { useState } from 'react';
import { api } from '../app/api';
import { useSeesOwn } from '../app/use-may';
import { PeoplePlaces } from '../contacts/people-places';
import { Choice } from '../conditions/lines/inputs';
import { count, times } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { TaskRow } from './task-row';

/** What people are to do about contacts, whoever it is for. */
export default function TasksPage() {
  const { data: session } = api.useSessionQuery();
  const me = session?.person.email ?? '';
  const own = useSeesOwn();
  const [whose, setWhose] = useState<'mine' | 'all'>('mine');
  const [state, setState] = useState<'open' | 'done'>('open');
  const list = api.useTasksInfiniteQuery({ state, ...(whose === 'mine' ? { for: me } : {}) }, { skip: me === '' });
  const { data, error, refetch } = list;
  const first = data?.pages[0];
  const tasks = data?.pages.flatMap((page) => page.tasks) ?? [];
  return (
    <Page
      title={<>Tasks{first && <span className="text-primary ml-2">{count(first.all)}</span>}</>}
      sentence={
        first && state === 'open'
          ? first.late > 0
            ? `${times(first.late, 'task')} of these ${first.late === 1 ? 'is' : 'are'} late.`
            : 'None of these is late.'
          : 'What rules and people asked to be done about contacts.'
      }
      actions={
        <>
          <a
            className="leads self-center text-[12.5px]"
            download="tasks.ics"
            href={`/api/app/tasks/calendar${whose === 'mine' ? `?for=${encodeURIComponent(me)}` : ''}`}
          >
            As a calendar file
          </a>
          <Choice
            label="Whose"
            value={whose}
            choices={[
              ['mine', 'yours, and for anyone'],
              ['all', own ? 'all that you see' : 'everyone’s'],
            ]}
            onPick={(next) => setWhose(next as 'mine')}
          />
          <Choice
            label="Open or done"
            value={state}
            choices={[
              ['open', 'open'],
              ['done', 'done'],
            ]}
            onPick={(next) => setState(next as 'open')}
          />
        </>
      }
    >
      <PeoplePlaces />
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !data ? (
        <Loading />
      ) : tasks.length === 0 ? (
        <Empty title={state === 'open' ? 'Nothing is to be done' : 'Nothing has been done yet'}>
          Tasks are made by rules, or on the page of a contact.
        </Empty>
      ) : (
        <>
          <ul className="panel px-4">
            {tasks.map((task) => (
              <TaskRow key={task.id} task={task} />
            ))}
          </ul>
          {list.hasNextPage && (
            <button
              type="button"
              className="btn btn-xs mt-3 self-start"
              disabled={list.isFetching}
              onClick={() => void list.fetchNextPage()}
            >
              {count(tasks.length)} of {count(first?.all ?? 0)} are shown: more
            </button>
          )}
        </>
      )}
    </Page>
  );
}
