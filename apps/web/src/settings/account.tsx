import { PASSWORD_LENGTH, type Browser } from '@eager-sieve/contracts';
import { useEffect, useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { Labelled } from '../ui/labelled';
import { Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Wide } from '../ui/wide';
import { DailyMail } from './daily-mail';

/** One's own sign-in: the password, the second factor, and the browsers in which one is signed in. */
export default function Account() {
  const { data: session } = api.useSessionQuery();
  if (!session) return <Loading />;
  return (
    <>
      <Password email={session.person.email} />
      <SecondFactor on={session.person.secondFactor} />
      <DailyMail on={session.person.dailyMail} />
      <Browsers />
    </>
  );
}

interface PasswordInputProps {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly isNew?: boolean;
}

function PasswordInput({ label, value, onChange, isNew = false }: PasswordInputProps) {
  return (
    <Labelled label={label}>
      <input
        className="input input-sm w-64"
        type="password"
        autoComplete={isNew ? 'new-password' : 'current-password'}
        required
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Labelled>
  );
}

const Refusal = ({ error }: { error: unknown }) =>
  error ? (
    <p role="alert" className="text-error basis-full">
      {errorMessage(error)}
    </p>
  ) : null;

function Password({ email }: { email: string }) {
  const [change, { isLoading, error }] = api.useChangePasswordMutation();
  const [password, setPassword] = useState('');
  const [next, setNext] = useState('');
  const dispatch = useAppDispatch();
  const submit = async (): Promise<void> => {
    const result = await change({ body: { password, next } });
    if (result.error) return;
    setPassword('');
    setNext('');
    dispatch(told({ kind: 'done', text: 'Your password is changed. Everywhere else you are signed out.' }));
  };
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Password</h2>
      <form
        className="panel flex flex-wrap items-end gap-3 p-4"
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        {/* For programs that keep passwords. */}
        <input type="text" autoComplete="username" value={email} readOnly hidden />
        <PasswordInput label="As it is now" value={password} onChange={setPassword} />
        <PasswordInput label={`The new one, at least ${PASSWORD_LENGTH} characters`} value={next} onChange={setNext} isNew />
        <button className="btn btn-sm btn-outline btn-primary" disabled={isLoading || password === '' || next === ''}>
          Change password
        </button>
        <Refusal error={error} />
      </form>
    </section>
  );
}

function SecondFactor({ on }: { on: boolean }) {
  const [codes, setCodes] = useState<readonly string[] | null>(null);
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Second factor</h2>
      <div className="panel p-4">
        <p>
          {on
            ? 'On: when you sign in, you are asked for a code that your phone shows.'
            : 'Off. With a second factor, nobody who learns your password can sign in with it alone: they would also need a code that your phone shows.'}
        </p>
        {codes && <RecoveryCodes codes={codes} />}
        {on ? <TurnOff /> : <TurnOn onCodes={setCodes} />}
      </div>
    </section>
  );
}

function RecoveryCodes({ codes }: { codes: readonly string[] }) {
  return (
    <div role="status" className="border-accent bg-glow mt-3 rounded-md border p-3">
      <p>These are your recovery codes, shown this once. If you lose your phone, each of them lets you in one time. Keep them safe.</p>
      <ul className="mt-2 grid max-w-[520px] grid-cols-2 gap-x-6 font-mono text-[12.5px] select-all">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
    </div>
  );
}

function TurnOn({ onCodes }: { onCodes: (codes: readonly string[]) => void }) {
  const [begin, begun] = api.useBeginSecondFactorMutation();
  const [confirm, confirming] = api.useConfirmSecondFactorMutation();
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const dispatch = useAppDispatch();
  const submit = async (): Promise<void> => {
    if (!begun.data) return void (await begin({ body: { password } }));
    const result = await confirm({ body: { code } });
    if (!result.data) return;
    onCodes(result.data.codes);
    dispatch(told({ kind: 'done', text: 'The second factor is on. Everywhere else you are signed out.' }));
  };
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      {begun.data ? (
        <>
          <Secret secret={begun.data.secret} uri={begun.data.uri} />
          <Labelled label="The code that it shows now">
            <input
              className="input input-sm w-40 font-mono"
              inputMode="numeric"
              autoComplete="one-time-code"
              autoFocus
              required
              value={code}
              onChange={(event) => setCode(event.target.value)}
            />
          </Labelled>
        </>
      ) : (
        <PasswordInput label="Your password" value={password} onChange={setPassword} />
      )}
      <button
        className="btn btn-sm btn-outline btn-primary"
        disabled={begun.isLoading || confirming.isLoading || (begun.data ? code === '' : password === '')}
      >
        Turn on
      </button>
      <Refusal error={begun.error ?? confirming.error} />
    </form>
  );
}

/** The secret as a picture for a phone, and as text to type. */
function Secret({ secret, uri }: { secret: string; uri: string }) {
  const [picture, setPicture] = useState('');
  useEffect(() => {
    void import('qrcode').then(({ default: qrcode }) => qrcode.toDataURL(uri, { margin: 2, width: 176 })).then(setPicture);
  }, [uri]);
  return (
    <div className="flex basis-full items-start gap-4">
      <div className="h-44 w-44 flex-none">
        {picture && <img src={picture} alt="The secret as a picture, for your phone" width={176} height={176} />}
      </div>
      <p className="max-w-[420px]">
        Read the picture with a program for one-time codes on your phone, or type this secret into it:{' '}
        <code className="font-mono text-[12.5px] break-all select-all">{secret.replaceAll(/(.{4})(?=.)/g, '$1 ')}</code>
      </p>
    </div>
  );
}

function TurnOff() {
  const [end, { isLoading, error }] = api.useEndSecondFactorMutation();
  const [password, setPassword] = useState('');
  return (
    <form
      className="mt-3 flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void end({ body: { password } });
      }}
    >
      <PasswordInput label="Your password" value={password} onChange={setPassword} />
      <button className="btn btn-sm btn-outline btn-primary" disabled={isLoading || password === ''}>
        Turn off
      </button>
      <Refusal error={error} />
    </form>
  );
}

function Browsers() {
  const { data: browsers, error, refetch } = api.useBrowsersQuery();
  const [everywhere] = api.useSignOutMutation();
  const leave = async (): Promise<void> => {
    await everywhere();
    location.assign('/sign-in');
  };
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Where you are signed in</h2>
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !browsers ? (
        <Loading />
      ) : (
        <Wide>
          <table className="table panel w-full min-w-[620px] table-fixed">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="px-4">Browser</th>
                <th className="w-[18%]">From</th>
                <th className="w-[18%]">Since</th>
                <th className="w-[18%]">Last used</th>
                <th className="w-24" />
              </tr>
            </thead>
            <tbody>
              {browsers.map((browser) => (
                <BrowserRow key={browser.id} browser={browser} />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      <button type="button" className="btn btn-sm btn-outline btn-primary mt-2" onClick={() => void leave()}>
        Sign out everywhere
      </button>
    </section>
  );
}

function BrowserRow({ browser }: { browser: Browser }) {
  const [signOut] = api.useSignOutBrowserMutation();
  const name = browserName(browser.agent);
  return (
    <tr className="border-base-300/60 border-t">
      <td className="truncate px-4 py-1 font-medium" title={browser.agent}>
        {name}
      </td>
      <td className="truncate">{browser.address.replace(/^::ffff:/, '')}</td>
      <td>
        <When at={browser.since} />
      </td>
      <td>{browser.here ? 'this one' : <When at={browser.seen} />}</td>
      <td className="pr-3 text-right">
        {!browser.here && (
          <button type="button" className="btn btn-xs" aria-label={`Sign out ${name}`} onClick={() => void signOut({ id: browser.id })}>
            Sign out
          </button>
        )}
      </td>
    </tr>
  );
}

const BROWSERS = [
  ['Edge', /Edg\//],
  ['Firefox', /Firefox\//],
  ['Chrome', /Chrom(e|ium)\//],
  ['Safari', /Safari\//],
] as const;
const SYSTEMS = [
  ['Android', /Android/],
  ['iPhone or iPad', /iPhone|iPad/],
  ['Windows', /Windows/],
  ['macOS', /Mac OS X/],
  ['Linux', /Linux/],
] as const;

/** As people would name it: "Firefox on Windows". */
function browserName(agent: string): string {
  const named = (list: readonly (readonly [string, RegExp])[]): string | undefined => list.find(([, pattern]) => pattern.test(agent))?.[0];
  const [browser, system] = [named(BROWSERS), named(SYSTEMS)];
  if (!browser) return agent.slice(0, 60) || 'A program that does not say its name';
  return system ? `${browser} on ${system}` : browser;
}
