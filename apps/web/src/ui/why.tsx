import { traceAsked, type TraceSubject } from '../app/trace';
import { useAppDispatch } from '../app/store';

/** The dot beside a fact that opens its trace. */
export function Why({ subject, label }: { subject: TraceSubject; label: string }) {
  const dispatch = useAppDispatch();
  return (
    <button
      type="button"
      data-why
      aria-label={`Why ${label}?`}
      className="border-secondary text-secondary ml-1.25 inline-flex size-4.5 cursor-pointer items-center justify-center rounded-full border-[1.3px] align-middle text-[10px] leading-none font-semibold"
      onClick={() => dispatch(traceAsked(subject))}
    >
      ?
    </button>
  );
}
