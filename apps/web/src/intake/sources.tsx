import { Link } from 'react-router';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { count, times } from '../ui/number';
import { When } from '../ui/when';

/** Where signals come from, with what is usual for each; nothing where nothing has come yet. */
export function Sources() {
  const { data = [] } = api.useSourcesQuery(undefined, { pollingInterval: 60_000 });
  if (data.length === 0) return null;
  return (
    <section>
      <h2 className="mb-1.5 text-[15px]">Sources</h2>
      <ul className="panel divide-base-300/60 divide-y">
        {data.map((source) => (
          <li key={source.name} className="flex flex-wrap items-baseline justify-between gap-x-3 px-4 py-2">
            <Link to={`/intake/stream?source=${encodeURIComponent(source.name)}`} className="font-semibold hover:underline">
              {source.name}
            </Link>
            <span className="quiet text-[12.5px]">
              {times(source.lastDay, 'signal')} in 24 hours, usually {count(source.usual)} a day · last <When at={source.last} />
            </span>
            {source.isUnusual && (
              <span className="text-error w-full font-medium">
                Silent for unusually long: it has never been for more than {times(source.longestSilence, 'hour')}.
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The ways to what pages of sites tell of their visitors, and to the files that people download there. */
export function Sites() {
  const mayRead = useMay('settings:read');
  const { data } = api.useSiteQuery(undefined, { skip: !mayRead });
  const { data: files } = api.useFilesQuery();
  return (
    <section>
      <h2 className="mb-1.5 text-[15px]">Your sites</h2>
      <ul className="panel divide-base-300/60 divide-y">
        {data && (
          <li className="flex flex-wrap items-baseline justify-between gap-x-3 px-4 py-2">
            <Link to="/intake/site" className="font-semibold hover:underline">
              Who visits your pages
            </Link>
            <span className="quiet text-[12.5px]">
              {data.isOn ? `${times(data.known, 'visitor')} known, ${count(data.unknown)} not yet` : 'not listened to'}
            </span>
          </li>
        )}
        <li className="flex flex-wrap items-baseline justify-between gap-x-3 px-4 py-2">
          <Link to="/intake/files" className="font-semibold hover:underline">
            Files to download
          </Link>
          <span className="quiet text-[12.5px]">{files && times(files.length, 'file')}</span>
        </li>
      </ul>
    </section>
  );
}

/** Where other programs send by themselves what happens there. */
export function Webhooks() {
  const mayRead = useMay('settings:read');
  const mayWrite = useMay('settings:write');
  const { data = [] } = api.useHooksQuery(undefined, { skip: !mayRead });
  if (!mayRead || (data.length === 0 && !mayWrite)) return null;
  return (
    <section>
      <h2 className="mb-1.5 flex items-baseline justify-between gap-3 text-[15px]">
        Webhooks
        {mayWrite && (
          <Link className="leads font-sans text-[13px] font-normal" to="/intake/webhooks/new">
            New webhook
          </Link>
        )}
      </h2>
      {data.length === 0 ? (
        <p className="quiet">A shop, a till or a course book can send here by itself what happens there.</p>
      ) : (
        <ul className="panel divide-base-300/60 divide-y">
          {data.map((hook) => (
            <li key={hook.id} className="flex flex-wrap items-baseline justify-between gap-x-3 px-4 py-2">
              <Link to={`/intake/webhooks/${hook.id}`} className="font-semibold [overflow-wrap:anywhere] hover:underline">
                {hook.name}
              </Link>
              <span className="quiet text-[12.5px]">
                {hook.isOn ? '' : <strong className="text-error">off · </strong>}
                {times(hook.taken, 'time')} taken in
                {hook.refused > 0 && <span className="text-error">, {count(hook.refused)} refused</span>}
                {hook.lastAt && (
                  <>
                    {' '}
                    · last <When at={hook.lastAt} />
                  </>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
