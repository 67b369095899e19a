import { useState } from 'react';
import { api } from '../app/api';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';

/** What went out to those who work here: the mail of the morning. */
export function StaffMails() {
  const { data, error, refetch } = api.useStaffMailsQuery();
  const [id, setId] = useState<number | null>(null);
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  const mail = data.find((each) => each.id === id) ?? data[0];
  if (!mail)
    return (
      <Empty title="Nothing has gone out to colleagues">
        From seven in the morning, whoever has tasks that are due or notices to read is written to.
      </Empty>
    );
  return (
    <div className="mt-2 grid min-h-0 flex-1 grid-cols-[320px_minmax(0,1fr)] gap-4 max-lg:grid-cols-1">
      <ul className="panel divide-base-300/60 divide-y overflow-y-auto" aria-label="Mails to colleagues">
        {data.map((each) => (
          <li key={each.id}>
            <button
              type="button"
              aria-pressed={each.id === mail.id}
              className={`w-full cursor-pointer px-3.5 py-2 text-left ${each.id === mail.id ? 'bg-base-200' : ''}`}
              onClick={() => setId(each.id)}
            >
              <span className="block truncate font-semibold" title={each.to}>
                {each.to}
              </span>
              <span className="quiet flex justify-between gap-2 text-[12.5px]">
                <span className="truncate">{each.subject}</span>
                <span className="whitespace-nowrap">
                  <When at={each.at} />
                </span>
              </span>
            </button>
          </li>
        ))}
      </ul>
      <article className="panel overflow-y-auto p-5" aria-label={mail.subject}>
        <h2 className="text-[16px]">{mail.subject}</h2>
        <p className="quiet mb-3 text-[12.5px]">
          to {mail.to}, <When at={mail.at} />
        </p>
        <p className="[overflow-wrap:anywhere] whitespace-pre-wrap">{mail.text}</p>
      </article>
    </div>
  );
}
