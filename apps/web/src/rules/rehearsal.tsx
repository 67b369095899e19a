import { countedWords, type RuleSubject } from '@eager-sieve/core';
import { use } from 'react';
import { Link } from 'react-router';
import { type RuleRehearsal } from '@eager-sieve/contracts';
import { count, subjects, times } from '../ui/number';
import { Persons } from '../ui/person-input';
import { CutShort } from '../ui/states';
import { Wide } from '../ui/wide';

interface RehearsalProps {
  readonly result: RuleRehearsal;
  readonly of?: RuleSubject;
  readonly stale: boolean;
  readonly whole?: Whole;
}

/** Where only some of very many were looked at: how all of them are. */
interface Whole {
  readonly isUnderWay: boolean;
  readonly begin: () => void;
  readonly cancel: () => void;
}

/** What a rehearsal found: how many pass each step, and what would change for whom. Nothing has changed. */
export function Rehearsal({ result, of = 'contact', stale, whole }: RehearsalProps) {
  const nobody = of === 'company' ? 'no company' : 'nobody';
  return (
    <section
      className={`panel grid grid-cols-[290px_minmax(0,1fr)] max-lg:grid-cols-1 ${stale ? 'opacity-60' : ''}`}
      aria-label="Rehearsal"
    >
      <div className="px-4.5 py-3.5">
        <h2 className="text-[15px]">
          Rehearsal{' '}
          <span className="quiet font-sans text-[13px] font-normal">
            {stale ? 'of the rule before your last change' : 'nothing has changed yet'}
          </span>
        </h2>
        {result.part && <Part part={result.part} of={of} whole={whole} />}
        <Steps result={result} />
        <p className="quiet mt-2.5 text-[12.5px]">
          {!result.everyone && 'It begins from now on: those before stay as they are. '}
          {result.pace?.of === 'a week, lately' && (
            <>
              About <b className="text-base-content">{result.pace.times} a week</b> in the last eight weeks.
            </>
          )}
          {result.pace?.of === 'the coming week' && (
            <>
              In the coming seven days the date comes for <b className="text-base-content">{subjects(of, result.pace.times)}</b>.
            </>
          )}
        </p>
        {result.work && result.work.length > 0 && <Work work={result.work} perDay={tasksADay(result)} />}
      </div>
      <div className="border-base-300 min-w-0 border-l px-4.5 py-3.5 max-lg:border-t max-lg:border-l-0">
        <h3 className="text-[14px]">
          What {result.everyone ? 'would change' : 'it would have changed'}{' '}
          <span className="quiet font-sans text-[12.5px] font-normal">
            {Object.entries(result.changes)
              .map(([kind, n]) => `${count(n)} ${countedWords(kind, n)}`)
              .join(' · ') || (result.touched > 0 ? `nothing for ${subjects(of, result.touched)}` : 'nothing')}
          </span>
        </h3>
        {result.samples === null ? (
          <p className="quiet mt-2">You may see how many, but not who.</p>
        ) : result.samples.length === 0 ? (
          <p className="quiet mt-2">{result.everyone ? `It touches ${nobody} now.` : `It would have touched ${nobody} yet.`}</p>
        ) : (
          <Samples samples={result.samples} of={of} />
        )}
        {result.samples && (
          <CutShort shown={result.samples.length} of={result.touched} how={result.part ? undefined : 'the figures beside are of all'} />
        )}
      </div>
    </section>
  );
}

/** That the figures are of some only, and how to have those of all. */
function Part({ part, of, whole }: { part: NonNullable<RuleRehearsal['part']>; of: RuleSubject; whole: Whole | undefined }) {
  return (
    <div role="status" className="mt-2 text-[12.5px]">
      <p>
        <b>The figures are of {count(part.done)} only</b>, taken evenly from the {subjects(of, part.all)} it concerns.
      </p>
      {whole && (
        <div className="mt-1.5 flex flex-wrap items-center gap-2">
          {whole.isUnderWay && <progress className="progress progress-primary w-20" aria-label="Rehearsing with all of them" />}
          <button type="button" className="btn btn-xs" onClick={whole.isUnderWay ? whole.cancel : whole.begin}>
            {whole.isUnderWay ? 'Cancel' : 'Rehearse with all of them'}
          </button>
          <span className="quiet">{about(part.secondsForAll)}</span>
        </div>
      )}
    </div>
  );
}

const MINUTE_S = 60;
const about = (seconds: number): string =>
  seconds < MINUTE_S ? `about ${times(seconds, 'second')}` : `about ${times(Math.round(seconds / MINUTE_S), 'minute')}`;

/** How many tasks it makes on a day, at the pace of late. */
function tasksADay({ pace, touched, work }: RuleRehearsal): number | null {
  const tasks = (work ?? []).reduce((all, each) => all + each.tasks, 0);
  return pace && touched > 0 && tasks > 0 ? (tasks / touched) * (pace.times / 7) : null;
}

/** What it makes for people to do, beside what they have to do already. */
function Work({ work, perDay }: { work: NonNullable<RuleRehearsal['work']>; perDay: number | null }) {
  const persons = use(Persons);
  const named = (who: string | null): string => (who === null ? 'nobody' : (persons.find((each) => each.email === who)?.name ?? who));
  return (
    <div className="mt-3 text-[12.5px]">
      <h3 className="mb-1 text-[13px]">Work for people</h3>
      <ul>
        {work.map(({ who, tasks, notices, contacts, open }) => (
          <li key={who ?? ''}>
            <span className="font-medium">{named(who)}</span>{' '}
            {[
              ...(contacts > 0 ? [`${times(contacts, 'contact')} to mind`] : []),
              ...(tasks > 0 ? [times(tasks, 'task')] : []),
              ...(notices > 0 ? [times(notices, 'notice')] : []),
            ].join(', ')}
            {open > 0 && <span className="quiet"> · {times(open, 'task')} open already</span>}
          </li>
        ))}
      </ul>
      {perDay !== null && (
        <p className="quiet mt-1">
          About {perDay < 1 ? 'one task every few days' : `${times(Math.round(perDay), 'task')} a day`} after that.
        </p>
      )}
    </div>
  );
}

/** How many pass each step, as bars. */
function Steps({ result }: { result: RuleRehearsal }) {
  const most = Math.max(1, ...result.steps.map((step) => step.count));
  return (
    <dl className="mt-2 flex flex-col gap-2 text-[12.5px]">
      {result.steps.map((step, index) => {
        const last = index === result.steps.length - 1;
        return (
          <div key={step.words} className="grid grid-cols-[112px_1fr] items-center gap-2">
            <dt>{step.words}</dt>
            <dd className="flex items-center gap-2">
              <span aria-hidden className={`h-3 ${last ? 'bg-accent' : 'bg-primary'}`} style={{ width: `${(step.count / most) * 72}px` }} />
              <span className={`whitespace-nowrap ${last ? 'font-bold' : ''}`} data-touched={last ? '' : undefined}>
                {count(step.count)}
                {last && result.everyone && (result.part ? ' of these' : ' now')}
              </span>
            </dd>
          </div>
        );
      })}
    </dl>
  );
}

/** What would change for the first of them, one by one. */
function Samples({ samples, of }: { samples: NonNullable<RuleRehearsal['samples']>; of: RuleSubject }) {
  return (
    <Wide>
      <table className="table w-full min-w-[620px] table-fixed">
        <thead>
          <tr className="quiet text-left text-[12px]">
            <th className="h-6 w-[30%]">{of === 'company' ? 'Company' : 'Contact'}</th>
            <th>Changes</th>
            <th>Sets off</th>
          </tr>
        </thead>
        <tbody>
          {samples.map((sample) => (
            <tr key={sample.id} className="border-base-300/60 border-b align-top [&>td]:py-1.5">
              <td className="truncate pr-2">
                <Link className="hover:underline" to={`/people/${of === 'company' ? 'companies/' : ''}${sample.id}`}>
                  {sample.name}
                </Link>
              </td>
              <td className="pr-3 text-[12.5px]">
                <Lines of={sample.changes} none="nothing new" />
              </td>
              <td className={`text-[12.5px] ${sample.setsOff.length > 0 ? 'text-secondary' : 'quiet'}`}>
                <Lines of={sample.setsOff} none="nothing" />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

/** Each effect on a line of its own, however long. */
function Lines({ of, none }: { of: readonly string[]; none: string }) {
  if (of.length === 0) return <span className="quiet">{none}</span>;
  return (
    <ul className="flex flex-col gap-0.5">
      {of.map((line, index) => (
        <li key={index} className="wrap-break-word">
          {line}
        </li>
      ))}
    </ul>
  );
}
