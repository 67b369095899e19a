import { type TaskView } from '@eager-sieve/contracts';
import { useState, type FormEvent } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { About } from '../ui/about';
import { PersonInput } from '../ui/person-input';
import { DayInput } from '../ui/day-input';
import { dayOf, When } from '../ui/when';

type Task = Pick<TaskView, 'id' | 'title' | 'due' | 'for' | 'done'> &
  Partial<Pick<TaskView, 'contact' | 'contactName' | 'company' | 'companyName' | 'doneBy'>>;

/** Something to be done: ticked when it is, and changed where one clicks "change". On the page of whom it is about, that is left out. */
export function TaskRow({ task }: { task: Task }) {
  const { data: session } = api.useSessionQuery();
  const me = session?.person.email;
  const readOnly = !session?.capabilities.includes('contacts:write');
  const [changing, setChanging] = useState(false);
  const [change, { isLoading, error }] = api.useChangeTaskMutation();
  const [now] = useState(Date.now);
  const dispatch = useAppDispatch();
  const tick = async (done: boolean): Promise<void> => {
    const result = await change({ id: task.id, body: { done } });
    if (result.error || !done) return;
    const undo = (): unknown => change({ id: task.id, body: { done: false } });
    dispatch(told({ kind: 'done', text: `“${task.title}” is ticked.`, undo }));
  };
  const late = task.done === null && Date.parse(task.due) < now;
  return (
    <li className="group border-base-300/60 border-b py-1.5">
      <div className="flex items-baseline gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-primary checkbox-xs translate-y-0.5"
          aria-label={`${task.title}: done`}
          checked={task.done !== null}
          disabled={isLoading || readOnly}
          onChange={(event) => void tick(event.target.checked)}
        />
        <span className={`min-w-0 wrap-break-word ${task.done ? 'quiet' : ''}`}>
          {task.title}
          {(task.contact ?? task.company) && (
            <>
              {' · '}
              <About of={task} />
            </>
          )}
          <span className="quiet text-[12px]">
            {' · '}
            {task.done ? (
              <>
                done <When at={task.done} />
                {task.doneBy && ` by ${task.doneBy}`}
              </>
            ) : (
              <>
                <span className={late ? 'text-error font-medium' : ''}>{late ? 'late, was due' : 'due'}</span> <When at={task.due} />
                {task.for === null ? ', for anyone' : task.for !== me && `, for ${task.for}`}
              </>
            )}
          </span>
        </span>
        {!task.done && !readOnly && (
          <button type="button" className="row-tool ml-auto" aria-expanded={changing} onClick={() => setChanging(!changing)}>
            change
          </button>
        )}
      </div>
      {error && (
        <p role="alert" className="text-error text-[12.5px]">
          {errorMessage(error)}
        </p>
      )}
      {changing && (
        <TaskForm
          initial={{ title: task.title, due: dayOf(task.due), for: task.for ?? '' }}
          keep="Keep"
          onKeep={async (next) => {
            const done = await change({ id: task.id, body: { ...next, for: next.for === '' ? null : next.for } });
            if (!done.error) setChanging(false);
          }}
          onCancel={() => setChanging(false)}
        />
      )}
    </li>
  );
}

interface Written {
  readonly title: string;
  readonly due: string;
  /** empty: anyone */
  readonly for: string;
}

export function TaskForm({
  initial,
  keep,
  onKeep,
  onCancel,
}: {
  initial: Written;
  keep: string;
  onKeep: (written: Written) => Promise<void>;
  onCancel: () => void;
}) {
  const [written, setWritten] = useState(initial);
  const [busy, setBusy] = useState(false);
  const submit = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setBusy(true);
    await onKeep({ ...written, title: written.title.trim() });
    setBusy(false);
  };
  return (
    <form
      className="appears mt-1.5 flex flex-wrap items-center gap-2 pl-6"
      onSubmit={(event) => void submit(event)}
      onKeyDown={(event) => {
        if (event.key !== 'Escape') return;
        event.stopPropagation();
        onCancel();
      }}
    >
      <input
        className="input input-sm w-60 max-w-full"
        autoFocus
        required
        maxLength={200}
        aria-label="What is to be done"
        placeholder="what is to be done"
        value={written.title}
        onChange={(event) => setWritten({ ...written, title: event.target.value })}
      />
      <label className="quiet inline-flex items-center gap-2">
        due
        <DayInput label="Due" required value={written.due} onChange={(due) => setWritten({ ...written, due })} />
      </label>
      <span className="quiet">for</span>
      <PersonInput
        label="Who is to do it"
        value={written.for}
        placeholder="anyone"
        onChange={(email) => setWritten({ ...written, for: email })}
      />
      <button className="btn btn-xs" disabled={busy || written.title.trim() === '' || written.due === ''}>
        {keep}
      </button>
      <button type="button" className="btn btn-xs" onClick={onCancel}>
        Cancel
      </button>
    </form>
  );
}
