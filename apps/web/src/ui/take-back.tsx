import { type TakeBackAnswer } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { wordsOf } from '../app/errors';
import { Dialog } from './dialog';
import { count, people, times } from './number';

/** Takes something back after asking, and says what was taken back and what stays. */
export function TakeBack({ what, words, onDone }: { what: { effect: number } | { rule: string }; words: string; onDone?: () => void }) {
  const [asking, setAsking] = useState(false);
  const [take, { isLoading, data, error, reset }] = api.useTakeBackMutation();
  const close = (): void => {
    setAsking(false);
    if (data) onDone?.();
    reset();
  };
  return (
    <>
      <button type="button" className="act act-small self-start" onClick={() => setAsking(true)}>
        {words}
      </button>
      <Dialog open={asking} title={words} onClose={close}>
        {data ? (
          <Taken answer={data} />
        ) : (
          <p>
            {'rule' in what ? 'Everything that this rule did, and all that came of it,' : 'This, and all that came of it,'} is undone
            wherever it still is as it was made. No rule runs because of that. What was changed since stays, and a message that was sent
            stays sent.
          </p>
        )}
        {error && (
          <p role="alert" className="text-error mt-2 font-medium">
            {wordsOf(error)}
          </p>
        )}
        <div className="mt-4 flex gap-2">
          {data ? (
            <button type="button" className="act act-main" onClick={close}>
              Close
            </button>
          ) : (
            <>
              <button type="button" className="act act-main" disabled={isLoading} onClick={() => void take(what)}>
                {isLoading ? 'Taking back …' : 'Take back'}
              </button>
              <button type="button" className="act" onClick={close}>
                Leave it
              </button>
            </>
          )}
        </div>
      </Dialog>
    </>
  );
}

function Taken({ answer }: { answer: TakeBackAnswer }) {
  if (answer.subjects === 0) return <p>There is nothing left to take back.</p>;
  return (
    <>
      <p>
        {times(answer.effects, 'effect')} taken back on {people(answer.subjects)}
        {answer.stays.length === 0
          ? '. Nothing stays.'
          : `; ${count(answer.stays.length)} ${answer.stays.length === 1 ? 'stays' : 'stay'}:`}
      </p>
      {answer.stays.length > 0 && (
        <ul className="mt-2 max-h-60 overflow-y-auto text-[12.5px]">
          {answer.stays.map((each, index) => (
            <li key={index}>
              {each.contact && (
                <Link className="leads" to={`/people/${each.contact}`}>
                  {each.name}
                </Link>
              )}{' '}
              {each.what} <span className="quiet">because {each.why}</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
