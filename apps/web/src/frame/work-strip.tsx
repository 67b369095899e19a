import { api } from '../app/api';
import { count } from '../ui/number';

/** Long work, in a strip at the foot: it goes on while one works elsewhere. */
export function WorkStrip() {
  const { data: status } = api.useStatusQuery(undefined, { pollingInterval: 2_000, skipPollingIfUnfocused: true });
  const { data: imports = [] } = api.useImportsQuery();
  const [cancel] = api.useCancelImportMutation();
  const running = imports.filter((each) => each.state === 'running');
  const builds = status?.builds ?? [];
  if (running.length + builds.length === 0) return null;
  return (
    <div
      className="border-base-300 bg-base-100 flex flex-none flex-wrap items-center gap-x-6 gap-y-1 border-t px-7 py-2 text-[12.5px]"
      role="status"
    >
      {builds.slice(0, 3).map((build) => (
        <span key={build.id} className="inline-flex items-center gap-2">
          bringing up {build.name}
          <progress
            className="progress progress-primary w-24"
            value={build.done}
            max={Math.max(1, build.total)}
            aria-label={`bringing up ${build.name}`}
          />
          {count(build.done)} of {count(build.total)}
        </span>
      ))}
      {builds.length > 3 && <span className="quiet">and {builds.length - 3} more</span>}
      {running.map((each) => (
        <span key={each.id} className="inline-flex items-center gap-2">
          importing {each.name}
          <progress
            className="progress progress-primary w-24"
            value={each.bytesRead}
            max={Math.max(1, each.bytes)}
            aria-label={`importing ${each.name}`}
          />
          {count(each.rows)} rows
          <button type="button" className="act act-small" onClick={() => void cancel(each.id)}>
            Cancel
          </button>
        </span>
      ))}
    </div>
  );
}
