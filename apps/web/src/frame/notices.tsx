import { useEffect } from 'react';
import { dismissed, type Notice } from '../app/notices';
import { useAppDispatch, useAppSelector } from '../app/store';

const SHOWN_MS = 5_000;

export function Notices() {
  const notices = useAppSelector((state) => state.notices.shown);
  return (
    <div className="fixed right-4 bottom-4 z-30 flex w-96 max-w-[92vw] flex-col gap-2 max-sm:bottom-16" aria-live="polite">
      {notices.map((notice) => (
        <Shown key={notice.id} notice={notice} />
      ))}
    </div>
  );
}

/** What went wrong stays until it is put away; what was done goes by itself. */
function Shown({ notice }: { notice: Notice }) {
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (notice.kind === 'wrong') return;
    const timer = setTimeout(() => dispatch(dismissed(notice.id)), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [notice, dispatch]);
  return (
    <div
      role={notice.kind === 'wrong' ? 'alert' : 'status'}
      className={`panel appears flex items-start justify-between gap-3 px-3.5 py-2.5 ${notice.kind === 'wrong' ? 'border-error' : 'border-success'}`}
    >
      <span className="[overflow-wrap:anywhere]">
        <b className={notice.kind === 'wrong' ? 'text-error' : 'text-success'}>{notice.kind === 'wrong' ? 'Not done. ' : 'Done. '}</b>
        {notice.text}
      </span>
      <button type="button" aria-label="Put away" className="cursor-pointer" onClick={() => dispatch(dismissed(notice.id))}>
        ×
      </button>
    </div>
  );
}
