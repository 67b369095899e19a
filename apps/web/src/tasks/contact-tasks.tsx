import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { dayOf } from '../ui/when';
import { TaskForm, TaskRow } from './task-row';

const DAY_MS = 86_400_000;

/** What is to be done about a contact, and what has been. */
export function ContactTasks({ contact }: { contact: ContactView }) {
  const { data: session } = api.useSessionQuery();
  /** the day that a new one is due, unless another is picked */
  const [making, setMaking] = useState<string | null>(null);
  const [make, { error }] = api.useMakeTaskMutation();
  return (
    <section className="mb-4">
      <h2 className="mb-0.5 text-[14px]">Tasks</h2>
      {contact.tasks.length > 0 && (
        <ul aria-label="Tasks">
          {contact.tasks.map((task) => (
            <TaskRow key={task.id} task={task} />
          ))}
        </ul>
      )}
      {error && (
        <p role="alert" className="text-error text-[12.5px]">
          {errorMessage(error)}
        </p>
      )}
      {making ? (
        <TaskForm
          initial={{ title: '', due: making, for: contact.owner ?? session?.person.email ?? '' }}
          keep="Add"
          onKeep={async (written) => {
            const made = await make({ body: { contact: contact.id, ...written, for: written.for === '' ? null : written.for } });
            if (!made.error) setMaking(null);
          }}
          onCancel={() => setMaking(null)}
        />
      ) : (
        session?.capabilities.includes('contacts:write') && (
          <button type="button" className="btn btn-xs mt-1" onClick={() => setMaking(dayOf(Date.now() + DAY_MS))}>
            + task
          </button>
        )
      )}
    </section>
  );
}
