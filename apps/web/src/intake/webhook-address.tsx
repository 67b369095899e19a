import { type HookView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { AskFirst } from '../ui/ask-first';

/** Secrets that were made on this page, until it is loaded anew: the server tells each once. */
export const sessionSecrets = new Map<number, string>();

interface AddressProps {
  readonly hook: HookView;
  readonly secret: string;
  readonly onSecret: (secret: string) => void;
  readonly mayWrite: boolean;
}

/** Where the other program sends to, and the secret that it signs with while it may be shown. */
export function Address({ hook, secret, onSecret, mayWrite }: AddressProps) {
  const [renew, { isLoading }] = api.useRenewHookSecretMutation();
  const shown = secret || sessionSecrets.get(hook.id);
  return (
    <section className="panel mb-4 p-3.5">
      <p>
        The other program sends to <code className="font-mono text-[12.5px] break-all select-all">{hook.url}</code>
      </p>
      {shown ? (
        <p role="status" className="bg-glow mt-2 rounded p-2">
          It signs with this secret, shown this once: <code className="font-mono text-[12.5px] break-all select-all">{shown}</code>
        </p>
      ) : (
        <p className="quiet mt-1">
          It signs with the secret that was shown when this was made, as Standard Webhooks has it.{' '}
          {mayWrite && (
            <AskFirst
              words="Make another secret"
              comes="What is signed with the secret from before is refused from then on."
              act="Make it"
              busy={isLoading}
              onAct={() =>
                void renew({ id: hook.id }).then((result) => {
                  if (!result.data) return;
                  sessionSecrets.set(hook.id, result.data.secret);
                  onSecret(result.data.secret);
                })
              }
            />
          )}
        </p>
      )}
    </section>
  );
}
