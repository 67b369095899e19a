import { skipToken } from '@reduxjs/toolkit/query';
import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { type RecipientsView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { count, people } from '../ui/number';
import { CutShort, Empty, Wrong } from '../ui/states';
import { When } from '../ui/when';

/** Who exactly gets a message, and who is held back and why. */
export function Recipients({
  message,
  recipients,
  again,
  onAgain,
}: {
  message: string;
  recipients: RecipientsView;
  /** whether those who got it already get it once more */
  again: boolean;
  onAgain: (again: boolean) => void;
}) {
  const preview = recipients.people.find((person) => person.preview)?.preview;
  return (
    <section aria-label="Recipients">
      <h2 className="text-[15px]">
        <em className="text-primary not-italic">{people(recipients.receive)}</em> {recipients.receive === 1 ? 'gets' : 'get'} it
      </h2>
      {recipients.building && (
        <p className="text-error">
          A change is still being brought to everyone: these figures still move, and nothing is sent until it is done.
        </p>
      )}
      <p className="quiet">
        of {count(recipients.members)} in {recipients.audience}
      </p>
      {Object.entries(recipients.held).map(([why, n]) => (
        <p key={why} className="text-error">
          {count(n)} held back: {why}
        </p>
      ))}
      {recipients.already.people > 0 && (
        <label className="mt-1.5 flex cursor-pointer items-baseline gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-primary checkbox-xs"
            checked={again}
            onChange={(event) => onAgain(event.target.checked)}
          />
          <span>
            send it again to the {count(recipients.already.people)} who got it already
            {recipients.already.last && (
              <span className="quiet">
                , the last <When at={recipients.already.last} />
              </span>
            )}
          </span>
        </label>
      )}
      {preview && (
        <details className="panel mt-3 p-3" open>
          <summary className="cursor-pointer font-medium">As the first of them reads it</summary>
          <p className="mt-2 font-semibold [overflow-wrap:anywhere]">{preview.subject}</p>
          <p className="mt-1 [overflow-wrap:anywhere] whitespace-pre-line">{preview.text}</p>
        </details>
      )}
      {recipients.members === 0 ? (
        <Empty title="Nobody is in this audience now" />
      ) : (
        <OneByOne message={message} recipients={recipients} again={again} />
      )}
    </section>
  );
}

/** The recipients by name, the first of them or those who are searched for. */
function OneByOne({ message, recipients, again }: { message: string; recipients: RecipientsView; again: boolean }) {
  const [search, setSearch] = useState('');
  const wanted = useDeferredValue(search.trim());
  // The server looks among all of them: whoever is not on the first page is found too.
  const found = api.useRecipientsQuery(wanted ? { key: message, search: wanted, again } : skipToken);
  const shown = wanted ? found.currentData : recipients;
  return (
    <>
      <input
        type="search"
        className="input input-sm mt-3 w-full"
        aria-label="Search the recipients"
        placeholder="is somebody among them?"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      {found.error && <Wrong error={found.error} again={() => void found.refetch()} />}
      <ul className="panel divide-base-300/60 mt-2 max-h-80 divide-y overflow-y-auto" tabIndex={0} aria-label="Recipients, one by one">
        {shown?.people.map((person) => (
          <li key={person.id} className="flex items-baseline justify-between gap-3 px-3 py-1">
            <Link className="truncate hover:underline" to={`/people/${person.id}`}>
              {person.name}
            </Link>
            <span className={`flex-none text-[12.5px] ${person.state === 'receives' ? 'quiet' : 'text-error'}`}>
              {person.why ?? 'gets it'}
            </span>
          </li>
        ))}
      </ul>
      {shown && shown.people.length === 0 && (
        <p className="quiet mt-1.5">
          Nobody in {recipients.audience} goes by “{wanted}”.
        </p>
      )}
      {shown && <CutShort shown={shown.people.length} of={shown.found.receive + shown.found.held} how="search for the others" />}
    </>
  );
}
