import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { Toggle } from '../ui/toggle';

/** Whether one is written to each morning. */
export function DailyMail({ on }: { on: boolean }) {
  const [change, { error }] = api.useChangeAccountMutation();
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Mail in the morning</h2>
      <div className="panel p-4">
        <p className="mb-1.5">
          At seven you get a mail with the tasks that are due and what rules told you. On days without any you get none.
        </p>
        <Toggle label="Write to me in the morning" isOn={on} onChange={(dailyMail) => void change({ body: { dailyMail } })} />
        {error && (
          <p role="alert" className="text-error">
            {errorMessage(error)}
          </p>
        )}
      </div>
    </section>
  );
}
