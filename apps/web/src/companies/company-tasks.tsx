import { type CompanyView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { CutShort, Wrong } from '../ui/states';
import { TaskRow } from '../tasks/task-row';

const SHOWN = 20;

/** What is to be done about a company. */
export function CompanyTasks({ company }: { company: CompanyView }) {
  const list = api.useTasksInfiniteQuery({ company: company.id, limit: SHOWN });
  const first = list.data?.pages[0];
  if (list.error) return <Wrong error={list.error} again={() => void list.refetch()} />;
  if (!first || first.tasks.length === 0) return null;
  return (
    <section className="mb-4">
      <h2 className="mb-0.5 text-[14px]">Tasks</h2>
      <ul aria-label="Tasks">
        {first.tasks.map(({ id, title, due, for: whose, done }) => (
          <TaskRow key={id} task={{ id, title, due, for: whose, done }} />
        ))}
      </ul>
      <CutShort shown={first.tasks.length} of={first.all} />
    </section>
  );
}
