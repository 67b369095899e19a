import { type RoutingBody } from '@eager-sieve/core';
import { FaultsAt } from '../ui/faults-at';
import { NumberInput, TextInput } from './action-inputs';

interface Props {
  readonly body: RoutingBody;
  readonly onChange: (body: RoutingBody) => void;
}

/** What whoever gets a contact is given to do, and told. */
export function RoutingTold({ body, onChange }: Props) {
  const { task, notice, ...rest } = body;
  const put = (next: Pick<RoutingBody, 'task' | 'notice'>): void => {
    const { task: made, notice: told } = { task, notice, ...next };
    onChange({ ...rest, ...(made ? { task: made } : {}), ...(told === undefined ? {} : { notice: told }) });
  };
  return (
    <section className="mt-4" aria-label="Whoever gets a contact">
      <h2 className="mb-1.5 text-[15px]">Whoever gets a contact</h2>
      <div className="panel flex flex-col gap-2 px-4 py-3">
        <FaultsAt path={['task']} />
        <div className="flex min-h-8 flex-wrap items-center gap-2">
          <label className="flex w-40 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary checkbox-xs"
              checked={task !== undefined}
              onChange={(event) => put({ task: event.target.checked ? { title: 'Say hello', dueDays: 1 } : undefined })}
            />
            has a task
          </label>
          {task && (
            <>
              <TextInput label="Title of the task" value={task.title} onChange={(title) => put({ task: { ...task, title } })} />
              <span className="quiet">due in</span>
              <NumberInput
                label="Days until the task is due"
                value={task.dueDays}
                onChange={(days) => put({ task: { ...task, dueDays: Math.max(0, Math.trunc(days)) } })}
              />
              <span className="quiet">days</span>
            </>
          )}
        </div>
        <FaultsAt path={['notice']} />
        <div className="flex min-h-8 flex-wrap items-center gap-2">
          <label className="flex w-40 items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-primary checkbox-xs"
              checked={notice !== undefined}
              onChange={(event) => put({ notice: event.target.checked ? 'A new contact for you' : undefined })}
            />
            is notified
          </label>
          {notice !== undefined && <TextInput label="Text of the notice" value={notice} onChange={(text) => put({ notice: text })} />}
        </div>
      </div>
    </section>
  );
}
