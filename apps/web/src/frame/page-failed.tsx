import { Link, useRouteError } from 'react-router';

/** In place of a page that failed; the places beside it go on. After an update of the server the code of a page may be gone: reloading brings the new one. */
export function PageFailed() {
  const error = useRouteError();
  return (
    <div role="alert" className="panel border-error m-7 p-4">
      <h1 className="text-error text-[17px]">This page failed</h1>
      <p className="mt-1">
        What was kept is kept. Load it again; if it fails again, tell whoever looks after this installation what it says here.
      </p>
      <p className="quiet mt-2 font-mono text-[12px] [overflow-wrap:anywhere]">{error instanceof Error ? error.message : String(error)}</p>
      <div className="mt-3 flex gap-2">
        <button type="button" className="btn btn-sm btn-primary" onClick={() => location.reload()}>
          Load it again
        </button>
        <Link className="btn btn-sm btn-outline btn-primary" to="/">
          To Today
        </Link>
      </div>
    </div>
  );
}
