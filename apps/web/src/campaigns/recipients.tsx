import { useState } from 'react';
import { Link } from 'react-router';
import { type RecipientsView } from '@eager-sieve/contracts';
import { count, people } from '../ui/number';
import { Empty } from '../ui/states';

/** Who exactly gets a message, and who is held back and why. */
export function Recipients({ recipients }: { recipients: RecipientsView }) {
  const [search, setSearch] = useState('');
  const shown = recipients.people.filter((person) => `${person.name} ${person.email ?? ''}`.toLowerCase().includes(search.toLowerCase()));
  const preview = recipients.people.find((person) => person.preview)?.preview;
  return (
    <section aria-label="Recipients">
      <h2 className="text-[15px]">
        <em className="text-primary not-italic">{people(recipients.receive)}</em> get it
      </h2>
      <p className="quiet">
        of {count(recipients.members)} in {recipients.audience}
      </p>
      {Object.entries(recipients.held).map(([why, n]) => (
        <p key={why} className="text-error">
          {count(n)} held back: {why}
        </p>
      ))}
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
        <>
          <input
            type="search"
            className="field mt-3 w-full"
            aria-label="Search the recipients"
            placeholder="is somebody among them?"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <ul className="panel divide-base-300/60 mt-2 max-h-80 divide-y overflow-y-auto" tabIndex={0} aria-label="Recipients, one by one">
            {shown.slice(0, 120).map((person) => (
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
        </>
      )}
    </section>
  );
}
