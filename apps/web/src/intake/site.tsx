import { useState } from 'react';
import { builtInSignalTypes } from '@eager-sieve/core';
import { type Site, type SiteView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useUnsaved } from '../app/unsaved';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { Labelled } from '../ui/labelled';
import { times } from '../ui/number';
import { Page } from '../ui/page';
import { Loading, Wrong } from '../ui/states';
import { Toggle } from '../ui/toggle';

/** Which sites tell of their visitors, and what their pages need for it. */
export default function SitePage() {
  const { data, error } = api.useSiteQuery();
  if (error) return <Wrong error={error} />;
  return data ? <SiteEditor key={JSON.stringify(siteOf(data))} kept={data} /> : <Loading />;
}

const BUILT_IN: ReadonlySet<string> = new Set(builtInSignalTypes.map(({ key }) => key));
const siteOf = ({ isOn, origins, types }: SiteView): Site => ({ isOn, origins, types });
const linesOf = (text: string): string[] =>
  text
    .split(/\s+/)
    .map((line) => line.replace(/\/+$/, ''))
    .filter(Boolean);

function SiteEditor({ kept }: { kept: SiteView }) {
  const before = siteOf(kept);
  const [isOn, setOn] = useState(before.isOn);
  const [origins, setOrigins] = useState(before.origins.join('\n'));
  const [types, setTypes] = useState<readonly string[]>(before.types);
  const [put, { isLoading, error }] = api.usePutSiteMutation();
  const dispatch = useAppDispatch();
  const mayWrite = useMay('settings:write');
  const site: Site = { isOn, origins: linesOf(origins), types: [...types] };
  const differs = JSON.stringify(site) !== JSON.stringify(before);
  useUnsaved(differs);
  const keep = async (): Promise<void> => {
    const result = await put({ body: site });
    if (!result.error) dispatch(told({ kind: 'done', text: isOn ? 'These sites are listened to.' : 'No site is listened to.' }));
  };
  return (
    <Page
      title="Your sites"
      sentence="Pages of yours tell who visits them, once the visitor agrees. Somebody unknown is recognised when they answer a form or follow a link in a message: what they did until then is theirs."
      meta={`${times(kept.known, 'visitor')} known, ${times(kept.unknown, 'visitor')} not known yet`}
      actions={
        mayWrite && (
          <button type="button" className="btn btn-sm btn-primary" disabled={!differs || isLoading} onClick={() => void keep()}>
            {isLoading ? 'Keeping …' : 'Keep'}
          </button>
        )
      }
    >
      {error && (
        <p role="alert" className="text-error mb-3 font-medium">
          {errorMessage(error)}
        </p>
      )}
      <fieldset disabled={!mayWrite} className="flex flex-col gap-4">
        <Toggle label="Listen to these sites" isOn={isOn} onChange={setOn} />
        <Labelled label="Their addresses, one a line">
          <textarea
            className="textarea textarea-sm h-20 w-full max-w-xl py-1.5 font-mono text-[12px]"
            placeholder="https://studio.example"
            value={origins}
            onChange={(event) => setOrigins(event.target.value)}
          />
        </Labelled>
        <OwnTypes types={types} onChange={setTypes} />
      </fieldset>
      <Script script={kept.script} type={types[0]} />
    </Page>
  );
}

/** What pages may tell beside visits: never an order or an answer, since anybody can send what a page can. */
function OwnTypes({ types, onChange }: { types: readonly string[]; onChange: (types: readonly string[]) => void }) {
  const own = (useCatalogue()?.all('signalType') ?? []).filter(({ key }) => !BUILT_IN.has(key));
  return (
    <fieldset>
      <legend className="quiet text-[12.5px]">Beside visits, pages may send</legend>
      {own.length === 0 ? (
        <p className="quiet">nothing: make a signal type of your own under Settings, and it is offered here.</p>
      ) : (
        <div className="flex flex-wrap gap-x-4">
          {own.map(({ key, name }) => (
            <label key={key} className="inline-flex min-h-[26px] cursor-pointer items-center gap-1.5">
              <input
                type="checkbox"
                className="checkbox checkbox-primary checkbox-xs"
                checked={types.includes(key)}
                onChange={(event) => onChange(event.target.checked ? [...types, key] : types.filter((each) => each !== key))}
              />
              {name}
            </label>
          ))}
        </div>
      )}
    </fieldset>
  );
}

function Script({ script, type = 'colour.liked' }: { script: string; type?: string | undefined }) {
  return (
    <section className="mt-5 max-w-3xl">
      <h2 className="mb-1.5 text-[15px]">What a page needs</h2>
      <p className="mb-1.5">This line in the head of each page:</p>
      <Code text={`<script src="${script}" defer></script>`} />
      <p className="mt-3 mb-1.5">Nothing is kept or sent before the visitor agrees. Your own question about it calls these:</p>
      <Code text={`sieve.agree() // from now on their visits are told\nsieve.refuse() // they do not agree, or not any more`} />
      <p className="mt-3 mb-1.5">And where the address changes without a new page, or something else happens:</p>
      <Code text={`sieve.visit()\nsieve.act('${type}', { colour: 'celadon' })`} />
    </section>
  );
}

const Code = ({ text }: { text: string }) => (
  <pre className="panel overflow-x-auto p-3 font-mono text-[12.5px] select-all" tabIndex={0}>
    {text}
  </pre>
);
