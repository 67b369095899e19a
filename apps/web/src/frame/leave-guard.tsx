import { useBlocker } from 'react-router';
import { anythingUnsaved, pageLeft } from '../app/unsaved';
import { Dialog } from '../ui/dialog';

/** Asks before a draft is lost by going to another page. */
export function LeaveGuard() {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => {
    if (currentLocation.pathname === nextLocation.pathname || (nextLocation.state as { kept?: boolean } | null)?.kept === true)
      return false;
    if (anythingUnsaved()) return true;
    pageLeft();
    return false;
  });
  const leave = (): void => {
    pageLeft();
    blocker.proceed?.();
  };
  const stay = (): void => blocker.reset?.();
  return (
    <Dialog open={blocker.state === 'blocked'} title="Leave without keeping the changes?" onClose={stay}>
      <p>What you changed on this page has not been kept. It is lost when you leave.</p>
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={leave}>
          Leave and lose them
        </button>
        <button type="button" className="btn btn-sm btn-primary" onClick={stay}>
          Stay here
        </button>
      </div>
    </Dialog>
  );
}
