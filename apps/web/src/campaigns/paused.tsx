import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';

/** Says that messages wait, as they do after a restore, and lets them go. */
export function Paused() {
  const { data } = api.useSendingQuery();
  const [put, { isLoading }] = api.usePutSendingMutation();
  const maySend = useMay('campaigns:send');
  const dispatch = useAppDispatch();
  if (!data?.paused) return null;
  const letGo = async (): Promise<void> => {
    const result = await put({ body: { paused: false } });
    dispatch(told(result.error ? { kind: 'wrong', text: errorMessage(result.error) } : { kind: 'done', text: 'Messages go out again.' }));
  };
  return (
    <div role="status" className="panel border-accent bg-glow mb-3 flex flex-wrap items-center justify-between gap-3 p-3">
      <p>Messages wait: a backup was restored. Some of those that wait here may have gone out after it was made.</p>
      {maySend && (
        <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={isLoading} onClick={() => void letGo()}>
          Let them go
        </button>
      )}
    </div>
  );
}
