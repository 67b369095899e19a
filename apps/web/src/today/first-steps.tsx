import { type TodayView } from '@eager-sieve/contracts';
import { type Catalogue } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useMay } from '../app/use-may';

interface Step {
  readonly words: string;
  readonly isDone: boolean;
  readonly how: ReactNode;
}

const way = (to: string, words: string): ReactNode => (
  <Link to={to} className="leads">
    {words}
  </Link>
);

/** What comes next, in the order in which one thing needs another, until the first live audience stands. */
function stepsOf(catalogue: Catalogue, contacts: number): readonly Step[] {
  return [
    {
      words: 'Let people in',
      isDone: contacts > 0,
      how: (
        <>
          {way('/intake/import', 'Import a file')} of contacts, or make {way('/intake/forms/new', 'a form')} that they answer. Programs send
          what they know with {way('/settings/keys', 'a key')}.
        </>
      ),
    },
    {
      words: 'Say what you want to know about them',
      isDone: catalogue.all('tag').length > 0,
      how: <>A tag is one short fact, such as who cares for celadon. {way('/tags', 'Begin the tag plan')}.</>,
    },
    {
      words: 'Let a rule give the tags',
      isDone: catalogue.all('rule').some(({ body }) => body.on),
      how: <>When somebody answers, buys or visits. It is rehearsed before it does anything. {way('/rules/new', 'Make a rule')}.</>,
    },
    {
      words: 'Build a list that keeps itself',
      isDone: hasLiveAudience(catalogue),
      how: <>Pick or type who is meant, and see at once how many. {way('/audiences/new', 'Make an audience')}.</>,
    },
  ];
}

export const hasLiveAudience = (catalogue: Catalogue): boolean => catalogue.all('audience').some(({ body }) => body.kind === 'live');

export function FirstSteps({ catalogue, today: { contacts, demo } }: { catalogue: Catalogue; today: TodayView }) {
  const steps = stepsOf(catalogue, contacts);
  const next = steps.findIndex(({ isDone }) => !isDone);
  const mayLoad = useMay('settings:write');
  return (
    <section className="panel mb-4 max-w-[860px] p-4" aria-label="First steps">
      <h2 className="mb-2 text-[15px]">First steps</h2>
      <ol className="flex flex-col gap-2">
        {steps.map(({ words, isDone, how }, index) => (
          <li key={words} className="flex items-baseline gap-2.5" aria-current={index === next ? 'step' : undefined}>
            <span className={isDone ? 'text-success' : 'quiet'} aria-hidden>
              {isDone ? '✓' : index + 1}
            </span>
            <div>
              <span className={isDone ? 'quiet' : 'font-medium'}>
                {words}
                {isDone && <span className="sr-only">, done</span>}
              </span>
              {!isDone && <div className={index === next ? '' : 'quiet'}>{how}</div>}
            </div>
          </li>
        ))}
      </ol>
      {demo.state === 'offered' && mayLoad && <Demo />}
    </section>
  );
}

/** Somebody else's studio, to play in before one begins with one's own people. */
function Demo() {
  const [load, { isLoading, error }] = api.useLoadDemoMutation();
  return (
    <div className="border-base-300 mt-3 border-t pt-3">
      Or look around first: the demo is a made-up pottery studio with 5,000 contacts, its rules and its audiences.{' '}
      <button type="button" className="btn btn-sm btn-outline btn-primary ml-1" disabled={isLoading} onClick={() => void load()}>
        Load the demo
      </button>
      {error && (
        <p role="alert" className="text-error mt-2">
          {errorMessage(error)}
        </p>
      )}
    </div>
  );
}
