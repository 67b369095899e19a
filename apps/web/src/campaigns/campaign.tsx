import { type MessageBody } from '@eager-sieve/core';
import { useState } from 'react';
import { type RecipientsView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage, statusOf } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { type Draft } from '../app/use-draft';
import { useMay } from '../app/use-may';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { Dialog } from '../ui/dialog';
import { count, people } from '../ui/number';
import { messageFaults, MessageText } from './message-text';
import { Recipients } from './recipients';

const NEW_MESSAGE: MessageBody = { channel: 'email', subject: '', text: 'Hello [given-name or "there"],\n\n', links: [] };

/** Who gets the message as it is kept, and the way to send it to just these. */
function useSending({ itemKey, isNew, retired, saved }: Draft<'message'>) {
  const [send, { isLoading }] = api.useSendMutation();
  const [again, setAgain] = useState(false);
  const { data, error, refetch } = api.useRecipientsQuery(
    { key: itemKey, again },
    { skip: isNew || retired || saved.body.audience === undefined },
  );
  const dispatch = useAppDispatch();
  const go = async (): Promise<void> => {
    const result = await send({ key: itemKey, body: { expected: data?.receive ?? 0, again } });
    if (result.error) {
      dispatch(told({ kind: 'wrong', text: errorMessage(result.error) }));
      if (statusOf(result.error) === 409) void refetch();
    } else dispatch(told({ kind: 'done', text: `On its way to ${people(result.data.recipients)}.` }));
  };
  return { recipients: data, error, again, setAgain, go, isLoading };
}

function Campaign({ draft }: { draft: Draft<'message'> }) {
  const { itemKey, name, body: message, saved, catalogue, isNew, changed, saving, retired, setBody } = draft;
  const maySend = useMay('campaigns:send');
  const sending = useSending(draft);
  const { recipients } = sending;
  const [asking, setAsking] = useState(false);
  const faults = messageFaults(message, catalogue);
  const filled = [name, message.subject, message.text].every((text) => text.trim() !== '');
  const ready = filled && faults.subject.length + faults.text.length === 0;
  return (
    <DefinitionPage
      draft={draft}
      thing="message"
      meta={changed ? isNew ? 'not kept yet' : <b className="text-base-content">unsaved changes</b> : 'kept'}
      also={
        !isNew &&
        !retired &&
        maySend && (
          <button
            type="button"
            className={`btn btn-sm btn-primary ${changed ? 'btn-outline' : ''}`}
            disabled={changed || !recipients || recipients.building || recipients.receive === 0 || sending.isLoading}
            onClick={() => setAsking(true)}
          >
            Send …
          </button>
        )
      }
      keeping={
        <button
          type="button"
          className={`btn btn-sm btn-primary ${changed ? '' : 'btn-outline'}`}
          disabled={saving || !changed || !ready}
          onClick={() => void draft.keep(`${name} is kept.`)}
        >
          {draft.isNew ? 'Keep message' : 'Keep changes'}
        </button>
      }
    >
      <div className="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-5 max-lg:grid-cols-1">
        <Editing>
          <MessageText message={message} catalogue={catalogue} onChange={setBody} />
        </Editing>
        <div>
          {isNew || saved.body.audience === undefined ? (
            <p className="quiet">Once it is saved with an audience, you see here who exactly gets it.</p>
          ) : (
            changed && <p className="quiet mb-2">As it was saved:</p>
          )}
          {sending.error ? (
            <p className="text-error">{errorMessage(sending.error)}</p>
          ) : (
            recipients && <Recipients message={itemKey} recipients={recipients} again={sending.again} onAgain={sending.setAgain} />
          )}
        </div>
      </div>
      <SendDialog
        open={asking}
        name={name}
        recipients={recipients}
        again={sending.again}
        onSend={() => (setAsking(false), void sending.go())}
        onClose={() => setAsking(false)}
      />
    </DefinitionPage>
  );
}

interface SendDialogProps {
  readonly open: boolean;
  readonly name: string;
  readonly recipients: RecipientsView | undefined;
  readonly again: boolean;
  readonly onSend: () => void;
  readonly onClose: () => void;
}

/** Says once more to how many it goes, before it goes. */
function SendDialog({ open, name, recipients, again, onSend, onClose }: SendDialogProps) {
  return (
    <Dialog open={open} title={`Send “${name}”?`} onClose={onClose}>
      <p>
        It goes to <b>{people(recipients?.receive ?? 0)}</b> of {recipients?.audience} at once. A message that is sent cannot be called
        back.
      </p>
      {again && recipients && recipients.already.people > 0 && (
        <p className="text-error mt-2">{count(recipients.already.people)} of them got it already, and would get it again.</p>
      )}
      <div className="mt-4 flex gap-2">
        <button type="button" className="btn btn-sm btn-primary" onClick={onSend}>
          Send to {people(recipients?.receive ?? 0)}
        </button>
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onClose}>
          Not yet
        </button>
      </div>
    </Dialog>
  );
}

export default definitionRoute({
  kind: 'message',
  thing: 'message',
  all: ['/campaigns', 'All campaigns'],
  address: '/campaigns',
  useNew: () => NEW_MESSAGE,
  Editor: Campaign,
});
