import { useEffect } from 'react';
import { dismissed, type Notice } from '../app/notices';
import { useAppDispatch, useAppSelector } from '../app/store';

const SHOWN_MS = 5_000;
/** So long a small act can be undone. */
const UNDO_MS = 10_000;

export function Notices() {
  const notices = useAppSelector((state) => state.notices.shown);
  return (
    <div className="toast toast-end z-30 w-96 max-w-[92vw] whitespace-normal max-sm:bottom-16" aria-live="polite">
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
    const timer = setTimeout(() => dispatch(dismissed(notice.id)), notice.undo ? UNDO_MS : SHOWN_MS);
    return () => clearTimeout(timer);
  }, [notice, dispatch]);
  return (
    <div
      role={notice.kind === 'wrong' ? 'alert' : 'status'}
      className={`alert alert-outline bg-base-100 appears flex items-start justify-between ${notice.kind === 'wrong' ? 'alert-error' : 'alert-success'}`}
    >
      <span className="text-base-content [overflow-wrap:anywhere]">
        <b className={notice.kind === 'wrong' ? 'text-error' : 'text-success'}>{notice.kind === 'wrong' ? 'Not done. ' : 'Done. '}</b>
        {notice.text}
        {notice.undo && (
          <button
            type="button"
            className="leads ml-2 cursor-pointer font-medium"
            onClick={() => {
              dispatch(dismissed(notice.id));
              notice.undo?.();
            }}
          >
            Undo
          </button>
        )}
      </span>
      <button
        type="button"
        aria-label="Put away"
        className="btn btn-ghost btn-xs btn-square"
        onClick={() => dispatch(dismissed(notice.id))}
      >
        ×
      </button>
    </div>
  );
}
