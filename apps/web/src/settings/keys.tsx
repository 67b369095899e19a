import { useState } from 'react';
import { Link } from 'react-router';
import { capabilityWords, keyScopes, type KeyView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { When } from '../ui/when';
import { Labelled } from '../ui/labelled';
import { Wide } from '../ui/wide';

/** The keys by which programs call the API. */
export default function Keys() {
  const mayWrite = useMay('settings:write');
  const { data: keys = [] } = api.useKeysQuery();
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Keys for the API</h2>
      <p className="quiet mb-2">
        What programs send and ask with.{' '}
        <Link className="leads" to="/settings/api">
          What the API takes and answers
        </Link>
        .
      </p>
      {keys.length > 0 && (
        <Wide>
          <table className="table panel w-full min-w-[620px]">
            <tbody>
              {keys.map((key) => (
                <KeyRow key={key.id} shown={key} mayWrite={mayWrite} />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      {mayWrite && <NewKey />}
    </section>
  );
}

function KeyRow({ shown: key, mayWrite }: { shown: KeyView; mayWrite: boolean }) {
  const [revoke] = api.useRevokeKeyMutation();
  const [restore] = api.useRestoreKeyMutation();
  const dispatch = useAppDispatch();
  const [rename] = api.useRenameKeyMutation();
  const called = async (name: string): Promise<void> => {
    const result = await rename({ id: key.id, body: { name } });
    dispatch(
      told(result.error ? { kind: 'wrong', text: errorMessage(result.error) } : { kind: 'done', text: `The key is called ${name} now.` }),
    );
  };
  const stop = async (): Promise<void> => {
    const result = await revoke({ id: key.id });
    dispatch(
      told(
        result.error
          ? { kind: 'wrong', text: errorMessage(result.error) }
          : { kind: 'done', text: `The key ${key.name} opens nothing any more.`, undo: () => restore({ id: key.id }) },
      ),
    );
  };
  return (
    <tr className="border-base-300/60 border-t first:border-t-0">
      <td className="px-4 py-1 font-medium">
        {mayWrite && !key.revokedAt ? (
          <input
            className="input input-sm w-full min-w-28"
            aria-label={`Name of the key ${key.name}`}
            maxLength={80}
            defaultValue={key.name}
            onBlur={(event) => {
              const next = event.target.value.trim();
              if (next === '') event.target.value = key.name;
              else if (next !== key.name) void called(next);
            }}
          />
        ) : (
          key.name
        )}
      </td>
      <td className="font-mono text-[12px]">{key.prefix}…</td>
      <td className="quiet text-[12.5px]">{key.scopes.map((scope) => wordsOf(scope)).join(', ')}</td>
      <td className="quiet text-[12.5px]">
        {key.lastUsedAt ? (
          <>
            used <When at={key.lastUsedAt} />
          </>
        ) : (
          'never used'
        )}
      </td>
      <td className="pr-4 text-right">
        {key.revokedAt ? (
          <span className="quiet">revoked</span>
        ) : (
          mayWrite && (
            <button type="button" className="btn btn-xs" aria-label={`Revoke ${key.name}`} onClick={() => void stop()}>
              Revoke
            </button>
          )
        )}
      </td>
    </tr>
  );
}

const wordsOf = (scope: string): string => (capabilityWords as Readonly<Record<string, string>>)[scope] ?? scope;

/** Makes a key, and shows it this once. */
function NewKey() {
  const [create, { data: made, error, isLoading }] = api.useCreateKeyMutation();
  const [name, setName] = useState('');
  const [scopes, setScopes] = useState<(typeof keyScopes)[number][]>(['signals:write']);
  return (
    <>
      {made && (
        <p role="status" className="panel border-accent bg-glow mt-2 p-3">
          This is the key, shown this once: <code className="font-mono text-[12.5px] break-all select-all">{made.key}</code>
        </p>
      )}
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void create({ body: { name: name.trim(), scopes } }).then((result) => !result.error && setName(''));
        }}
      >
        <Labelled label="New key, for">
          <input className="input input-sm w-52" required value={name} onChange={(event) => setName(event.target.value)} />
        </Labelled>
        <fieldset className="flex flex-wrap gap-x-4 gap-y-0.5">
          <legend className="quiet text-[12.5px]">It may</legend>
          {keyScopes.map((scope) => (
            <label key={scope} className="inline-flex min-h-[26px] cursor-pointer items-center gap-1">
              <input
                type="checkbox"
                className="checkbox checkbox-primary checkbox-xs"
                checked={scopes.includes(scope)}
                onChange={(event) => setScopes(event.target.checked ? [...scopes, scope] : scopes.filter((each) => each !== scope))}
              />
              <span title={scope}>{capabilityWords[scope]}</span>
            </label>
          ))}
        </fieldset>
        <button className="btn btn-sm btn-outline btn-primary" disabled={isLoading || name.trim() === '' || scopes.length === 0}>
          Make key
        </button>
        {error && <p className="text-error basis-full">{errorMessage(error)}</p>}
      </form>
    </>
  );
}
