import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useSave } from '../app/use-save';
import { Page } from '../ui/page';
import { ReadOnly } from '../ui/offer';
import { Loading } from '../ui/states';
import { Fields } from './fields';
import { Keys } from './keys';
import { Ladder } from './ladder';
import { Persons } from './persons';
import { Pipelines } from './pipelines';
import { Rates } from './rates';
import { SignalTypes } from './signal-types';
import { Labelled } from '../ui/labelled';

export default function Settings() {
  const { data: session } = api.useSessionQuery();
  const catalogue = useCatalogue();
  const [signOut] = api.useSignOutBrowserMutation();
  const navigate = useNavigate();
  if (!session || !catalogue) return <Loading />;
  const may = (capability: string): boolean => session.capabilities.some((each) => each === capability);
  const leave = async (): Promise<void> => {
    await signOut({ id: session.browser });
    await navigate('/sign-in');
    location.reload();
  };
  return (
    <Page
      title="Settings"
      sentence={`Signed in as ${session.person.name}, ${session.person.role}.`}
      actions={
        <>
          <ThemeSwitch />
          <Link className="btn btn-sm btn-outline btn-primary" to="/settings/account">
            Your account
          </Link>
          <Link className="btn btn-sm btn-outline btn-primary" to="/settings/api">
            The API
          </Link>
          <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => void leave()}>
            Sign out
          </button>
        </>
      }
    >
      <div className="flex max-w-[900px] flex-col gap-7">
        <WorkspaceSection
          key={catalogue.workspace.name + catalogue.zone}
          name={catalogue.workspace.name}
          timeZone={catalogue.zone}
          currency={catalogue.workspace.currency}
          mayWrite={may('settings:write')}
        />
        <ReadOnly value={!may('definitions:write')}>
          <Rates catalogue={catalogue} mayWrite={may('definitions:write')} />
          <Fields catalogue={catalogue} mayWrite={may('definitions:write')} />
          <Ladder catalogue={catalogue} mayWrite={may('definitions:write')} />
          <Pipelines catalogue={catalogue} mayWrite={may('definitions:write')} />
          <SignalTypes catalogue={catalogue} mayWrite={may('definitions:write')} />
        </ReadOnly>
        {may('settings:read') && <Persons mayWrite={may('settings:write')} />}
        {may('settings:read') && <Keys mayWrite={may('settings:write')} />}
      </div>
    </Page>
  );
}

function ThemeSwitch() {
  const [theme, setTheme] = useState(localStorage.getItem('theme') ?? '');
  const choose = (next: string): void => {
    setTheme(next);
    if (next) localStorage.setItem('theme', next);
    else localStorage.removeItem('theme');
    document.documentElement.dataset['theme'] = next || (matchMedia('(prefers-color-scheme: dark)').matches ? 'kiln' : 'flour');
  };
  return (
    <label className="flex items-center gap-2">
      <span className="quiet">Look</span>
      <select className="select select-sm w-auto" value={theme} onChange={(event) => choose(event.target.value)}>
        <option value="">as the system</option>
        <option value="flour">flour, light</option>
        <option value="kiln">kiln, dark</option>
      </select>
    </label>
  );
}

function WorkspaceSection({
  name: savedName,
  timeZone,
  currency,
  mayWrite,
}: {
  name: string;
  timeZone: string;
  currency: string;
  mayWrite: boolean;
}) {
  const [name, setName] = useState(savedName);
  const [zone, setZone] = useState(timeZone);
  const [save, saving] = useSave();
  const zones = Intl.supportedValuesOf('timeZone');
  return (
    <section>
      <h2 className="mb-2 text-[16px]">The workspace</h2>
      <form
        className="panel flex flex-wrap items-end gap-3 p-4"
        onSubmit={(event) => {
          event.preventDefault();
          void save({ name: name.trim(), timeZone: zone }, 'The workspace is saved.');
        }}
      >
        <Labelled label="Name">
          <input
            className="input input-sm w-64"
            value={name}
            required
            disabled={!mayWrite}
            onChange={(event) => setName(event.target.value)}
          />
        </Labelled>
        <Labelled label="Time zone: where a day begins">
          <select className="select select-sm w-auto" value={zone} disabled={!mayWrite} onChange={(event) => setZone(event.target.value)}>
            {(zones.includes(zone) ? zones : [zone, ...zones]).map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </Labelled>
        <span className="quiet pb-1.5">money in {currency}</span>
        {mayWrite && (
          <button
            className="btn btn-sm btn-outline btn-primary"
            disabled={saving || (name === savedName && zone === timeZone) || name.trim() === ''}
          >
            Save
          </button>
        )}
      </form>
    </section>
  );
}
