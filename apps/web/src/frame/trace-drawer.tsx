import { type TraceView } from '@eager-sieve/contracts';
import { X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { api, type Taken } from '../app/api';
import { traceClosed } from '../app/trace';
import { useAppDispatch, useAppSelector } from '../app/store';
import { Loading, Wrong } from '../ui/states';
import { TakeBackDialog } from '../ui/take-back';
import { SinceWhen, When, exactTime, relative } from '../ui/when';

/** The trace: the chain of causes from a fact back to the signal, and apart from it what else the same signal did. */
export function TraceDrawer() {
  const subject = useAppSelector((state) => state.trace.subject);
  const dispatch = useAppDispatch();
  const { currentData, error } = api.useTraceQuery(subject ?? { whose: { contact: '' }, of: 'tag', key: '' }, { skip: !subject });
  const [taking, setTaking] = useState<Taken | null>(null);
  const heading = useRef<HTMLHeadingElement>(null);
  const close = (): void => void dispatch(traceClosed());
  useEffect(() => {
    if (subject) heading.current?.focus();
  }, [subject, currentData]);
  if (!subject) return null;
  return (
    <aside
      aria-label="Trace"
      className="border-base-300 bg-base-100 appears flex w-[372px] flex-none flex-col overflow-y-auto border-l px-5 py-4.5 max-lg:fixed max-lg:inset-y-0 max-lg:right-0 max-lg:z-20 max-sm:w-full"
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <div className="flex items-start justify-between gap-3">
        <h2 ref={heading} tabIndex={-1} className="text-[16px]">
          {currentData?.title ?? 'Why?'}
        </h2>
        <button type="button" aria-label="Close the trace" className="cursor-pointer" onClick={close}>
          <X size={16} aria-hidden />
        </button>
      </div>
      {error ? (
        <Wrong error={error} />
      ) : !currentData ? (
        <Loading what="Following the causes" />
      ) : (
        <Chain trace={currentData} onTakeBack={setTaking} />
      )}
      {taking !== null && (
        <TakeBackDialog
          what={taking}
          words="Take this back"
          onClose={(done) => {
            setTaking(null);
            if (done) close();
          }}
        />
      )}
    </aside>
  );
}

function Chain({ trace, onTakeBack }: { trace: TraceView; onTakeBack: (what: Taken) => void }) {
  const { takeBack } = trace;
  return (
    <>
      <p className="quiet mt-0.5 mb-4 text-[12.5px]">
        {trace.since ? (
          <>
            <SinceWhen at={trace.since} />
            {trace.until && (
              <>
                . Can change by itself on <b className="text-base-content font-semibold">{exactTime(trace.until)}</b>
              </>
            )}
          </>
        ) : (
          'The ledger has nothing about it.'
        )}
      </p>
      <ol className="border-primary ml-1.25 border-l-2">
        {trace.steps.map((step, index) => (
          <li key={index} className="relative pb-3.5 pl-3.5">
            <span aria-hidden className="border-primary bg-base-100 absolute top-0.75 -left-1.5 size-2.5 rounded-full border-2" />
            <div className="font-semibold">
              {step.link ? (
                <Link to={step.link} className="leads font-semibold">
                  {step.title}
                </Link>
              ) : (
                step.title
              )}
            </div>
            <div className="quiet text-[12.5px] [overflow-wrap:anywhere] whitespace-pre-line">{withTimes(step.detail)}</div>
            <When at={step.at} className="quiet text-[12px]" />
          </li>
        ))}
      </ol>
      {takeBack !== null && (
        <button type="button" className="btn btn-xs self-start" onClick={() => onTakeBack({ effect: takeBack })}>
          Take this back
        </button>
      )}
      {trace.also.length > 0 && (
        <>
          <h3 className="mt-1 mb-1.5 text-[14px]">The same signal also did</h3>
          <ul className="text-[12.5px]">
            {trace.also.map((each, index) => (
              <li key={index}>{each.words}</li>
            ))}
          </ul>
        </>
      )}
      {trace.before.length > 0 && (
        <div className="border-base-300 quiet mt-4 border-t pt-3 text-[12.5px]">
          <h3 className="mb-1 text-[13px]">Before</h3>
          <ul>
            {trace.before.map((each, index) => (
              <li key={index}>{withTimes(each.words)}</li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}

const INSTANT = /\d{4}-\d{2}-\d{2}T[\d:.]+Z/g;
/** Times inside a sentence are shown as people read them. */
const withTimes = (text: string): string => text.replace(INSTANT, (at) => relative(at));
