import { PASSWORD_LENGTH } from '@eager-sieve/contracts';
import { useState, type FormEvent, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { DoorPage } from './door-page';

const ZONES = Intl.supportedValuesOf('timeZone');
const HERE = Intl.DateTimeFormat().resolvedOptions().timeZone;
const CURRENCIES = Intl.supportedValuesOf('currency');
const nameOfCurrency = new Intl.DisplayNames('en', { type: 'currency' });

/** The first page of an empty installation: what the workspace is called, and who begins it. */
export function Begin({ token }: { token: string }) {
  const [accept, accepting] = api.useAcceptInvitationMutation();
  const [put, putting] = api.usePutDefinitionsMutation();
  const navigate = useNavigate();
  const [of, setOf] = useState({ workspace: '', timeZone: HERE, currency: '', name: '', email: '', password: '' });
  const set =
    (part: keyof typeof of) =>
    (value: string): void =>
      setOf({ ...of, [part]: value });
  const isBusy = accepting.isLoading || putting.isLoading;
  const submit = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    // Whoever is in already, and only could not name the workspace, tries that alone again.
    if (!accepting.isSuccess) {
      const self = { email: of.email.trim(), name: of.name.trim() };
      const result = await accept({ token, body: { password: of.password, self } });
      if (result.error) return;
    }
    const result = await put({ body: { name: of.workspace.trim(), timeZone: of.timeZone, currency: of.currency } });
    if (!result.error) await navigate('/', { replace: true });
  };
  const refused = accepting.error ?? putting.error;
  return (
    <DoorPage>
      <p className="mb-4">Welcome. Nobody is here yet: say what this workspace is for, and who you are.</p>
      <form className="panel flex flex-col gap-3 p-5" onSubmit={(event) => void submit(event)}>
        <Text label="Name of the workspace" placeholder="Fernhollow Clayworks" value={of.workspace} onChange={set('workspace')} autoFocus />
        <Part label="Time zone: where a day begins">
          <select className="select select-sm w-full" value={of.timeZone} onChange={(event) => set('timeZone')(event.target.value)}>
            {(ZONES.includes(of.timeZone) ? ZONES : [of.timeZone, ...ZONES]).map((zone) => (
              <option key={zone}>{zone}</option>
            ))}
          </select>
        </Part>
        <Part label="Currency: in which money is counted">
          <select
            className="select select-sm w-full"
            required
            value={of.currency}
            onChange={(event) => set('currency')(event.target.value)}
          >
            <option value="" disabled>
              choose one
            </option>
            {CURRENCIES.map((code) => (
              <option key={code} value={code}>
                {code} · {nameOfCurrency.of(code)}
              </option>
            ))}
          </select>
        </Part>
        <Text label="Your name" autoComplete="name" value={of.name} onChange={set('name')} />
        <Text label="Your email" type="email" autoComplete="username" value={of.email} onChange={set('email')} />
        <Text
          label={`A password, at least ${PASSWORD_LENGTH} characters`}
          type="password"
          autoComplete="new-password"
          value={of.password}
          onChange={set('password')}
        />
        {refused && (
          <p role="alert" className="text-error font-medium">
            {errorMessage(refused)}
          </p>
        )}
        <button className="btn btn-sm btn-primary w-full" disabled={isBusy || Object.values(of).some((value) => value.trim() === '')}>
          {isBusy ? 'Beginning …' : 'Begin'}
        </button>
      </form>
    </DoorPage>
  );
}

function Part({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="block">
      <span className="mb-1 block font-medium">{label}</span>
      {children}
    </label>
  );
}

interface TextProps extends Omit<React.ComponentProps<'input'>, 'onChange'> {
  readonly label: string;
  readonly onChange: (value: string) => void;
}

function Text({ label, onChange, ...input }: TextProps) {
  return (
    <Part label={label}>
      <input {...input} required className="input input-sm w-full" onChange={(event) => onChange(event.target.value)} />
    </Part>
  );
}
