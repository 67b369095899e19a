import { type NoticesAnswer, type NoticeView, type TasksAnswer } from '@eager-sieve/contracts';
import { Link } from 'react-router';
import { api } from '../app/api';
import { About } from '../ui/about';
import { count } from '../ui/number';
import { CutShort, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { TaskRow } from './task-row';

const SHOWN = 8;

/** What waits for the one who is signed in: tasks, and what rules told them. */
export function ForYou() {
  const { data: session } = api.useSessionQuery();
  const me = session?.person.email ?? '';
  const may = session?.capabilities.includes('contacts:read') ?? false;
  const tasks = api.useTasksInfiniteQuery({ for: me, limit: SHOWN }, { skip: !may });
  const notices = api.useNoticesQuery(undefined, { skip: !may });
  const first = tasks.data?.pages[0];
  if (tasks.error) return <Wrong error={tasks.error} again={() => void tasks.refetch()} />;
  if (!first || !notices.data) return null;
  return (
    <div className="mt-4 grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-4 max-lg:grid-cols-1">
      <YourTasks first={first} />
      <ToldToYou notices={notices.data} />
    </div>
  );
}

function YourTasks({ first }: { first: TasksAnswer }) {
  return (
    <section className="panel px-4 py-3" aria-label="Your tasks">
      <h2 className="text-[15px]">
        Your tasks{' '}
        <span className="quiet font-sans text-[13px] font-normal">
          {first.all > 0 && `${count(first.all)} open`}
          {first.late > 0 && <span className="text-error">, {count(first.late)} late</span>}
        </span>{' '}
        <Link to="/tasks" className="leads font-sans text-[13px] font-normal">
          all tasks
        </Link>
      </h2>
      {first.tasks.length === 0 ? (
        <p className="quiet">Nothing is to be done by you, or by anyone.</p>
      ) : (
        <ul>
          {first.tasks.map((task) => (
            <TaskRow key={task.id} task={task} />
          ))}
        </ul>
      )}
      <CutShort shown={first.tasks.length} of={first.all} />
    </section>
  );
}

function ToldToYou({ notices: { notices: told, all } }: { notices: NoticesAnswer }) {
  const [see, seeing] = api.useSeeNoticeMutation();
  // Nobody has seen what is not shown, so all of them are only called seen where all stand here.
  const latest = told[0];
  return (
    <section className="panel px-4 py-3" aria-label="Told to you">
      <h2 className="flex items-baseline gap-2 text-[15px]">
        Told to you
        {latest && told.length > 1 && told.length === all && (
          <button
            type="button"
            className="leads ml-auto cursor-pointer font-sans text-[13px] font-normal"
            disabled={seeing.isLoading}
            onClick={() => void see({ id: latest.id, earlier: true })}
          >
            all seen
          </button>
        )}
      </h2>
      {told.length === 0 ? (
        <p className="quiet">No rule has told you anything that you have not seen.</p>
      ) : (
        <ul className="max-h-64 overflow-y-auto" tabIndex={0} aria-label="Notices">
          {told.map((notice) => (
            <Notice key={notice.id} notice={notice} seeing={seeing.isLoading} onSeen={() => void see({ id: notice.id })} />
          ))}
        </ul>
      )}
      <CutShort shown={told.length} of={all} how="seen ones make room" />
    </section>
  );
}

function Notice({ notice, seeing, onSeen }: { notice: NoticeView; seeing: boolean; onSeen: () => void }) {
  return (
    <li className="group border-base-300/60 flex items-baseline gap-2 border-b py-1.5">
      <span className="min-w-0 wrap-break-word">
        {notice.text}
        {' · '}
        <About of={notice} />
        <span className="quiet text-[12px]">
          {' · '}
          <When at={notice.at} />
          {notice.forAnyone && (notice.company ? ', for anyone' : ', for anyone: nobody minds them')}
        </span>
      </span>
      <button
        type="button"
        className="row-tool ml-auto"
        aria-label={`Seen: ${notice.text}, ${notice.contactName ?? notice.companyName ?? ''}`}
        disabled={seeing}
        onClick={onSeen}
      >
        seen
      </button>
    </li>
  );
}
