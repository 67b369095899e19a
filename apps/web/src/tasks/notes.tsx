import { type NoteView } from '@eager-sieve/contracts';
import { use, useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useMay } from '../app/use-may';
import { ReadOnly } from '../ui/offer';
import { When } from '../ui/when';

/** What people wrote down about a contact or a company, the latest first. */
export function Notes({ about }: { about: { readonly contact: string } | { readonly company: string } }) {
  const { data, error } = api.useNotesQuery(about);
  const readOnly = use(ReadOnly);
  const [add, adding] = api.useAddNoteMutation();
  const notes = data?.notes ?? [];
  if (readOnly && notes.length === 0) return null;
  return (
    <section className="mb-4" aria-label="Notes">
      <h2 className="mb-0.5 text-[14px]">Notes</h2>
      {!readOnly && (
        <NoteForm
          words="Write something down"
          keep="Add"
          error={adding.error}
          onKeep={async (text) => !(await add({ body: { ...about, text } })).error}
        />
      )}
      {error && (
        <p role="alert" className="text-error text-[12.5px]">
          {errorMessage(error)}
        </p>
      )}
      <ul className="mt-1 flex flex-col gap-2">
        {notes.map((note) => (
          <Note key={note.id} note={note} readOnly={readOnly} />
        ))}
      </ul>
    </section>
  );
}

function Note({ note, readOnly }: { note: NoteView; readOnly: boolean }) {
  const { data: session } = api.useSessionQuery();
  const mayRemoveAny = useMay('settings:write');
  const [isEditing, setIsEditing] = useState(false);
  const [change, changing] = api.useChangeNoteMutation();
  const [remove, removing] = api.useRemoveNoteMutation();
  const isOwn = note.by === session?.person.email;
  if (isEditing)
    return (
      <li>
        <NoteForm
          words="Note"
          keep="Keep"
          initial={note.text}
          error={changing.error}
          onKeep={async (text) => {
            const kept = !(await change({ id: note.id, body: { text } })).error;
            if (kept) setIsEditing(false);
            return kept;
          }}
          onLeave={() => setIsEditing(false)}
        />
      </li>
    );
  return (
    <li className="border-base-300 border-l-2 pl-2.5">
      <p className="[overflow-wrap:anywhere] whitespace-pre-wrap">{note.text}</p>
      <p className="quiet text-[12px] [overflow-wrap:anywhere]">
        {note.by} · <When at={note.at} />
        {note.changedAt && ' · changed'}
        {!readOnly && isOwn && (
          <button type="button" className="ml-2 min-h-[24px] cursor-pointer hover:underline" onClick={() => setIsEditing(true)}>
            edit
          </button>
        )}
        {!readOnly && (isOwn || mayRemoveAny) && (
          <button
            type="button"
            className="ml-2 min-h-[24px] cursor-pointer hover:underline"
            disabled={removing.isLoading}
            onClick={() => void remove({ id: note.id })}
          >
            remove
          </button>
        )}
      </p>
      {removing.error && (
        <p role="alert" className="text-error text-[12.5px]">
          {errorMessage(removing.error)}
        </p>
      )}
    </li>
  );
}

interface NoteFormProps {
  readonly words: string;
  readonly keep: string;
  readonly initial?: string;
  readonly error: unknown;
  /** whether it was kept */
  readonly onKeep: (text: string) => Promise<boolean>;
  readonly onLeave?: () => void;
}

/** Ctrl with Enter keeps, Esc leaves it as it was. */
function NoteForm({ words, keep, initial = '', error, onKeep, onLeave }: NoteFormProps) {
  const [text, setText] = useState(initial);
  const [isBusy, setIsBusy] = useState(false);
  const isReady = text.trim() !== '' && !isBusy;
  const send = async (): Promise<void> => {
    if (!isReady) return;
    setIsBusy(true);
    if (await onKeep(text.trim())) setText('');
    setIsBusy(false);
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <textarea
        className="textarea textarea-sm min-h-9 w-full"
        rows={text === '' ? 1 : 3}
        maxLength={10_000}
        aria-label={words}
        placeholder={words}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void send();
          if (event.key === 'Escape' && onLeave) {
            event.stopPropagation();
            onLeave();
          }
        }}
      />
      {error !== undefined && (
        <p role="alert" className="text-error text-[12.5px]">
          {errorMessage(error)}
        </p>
      )}
      {text !== '' && (
        <div className="mt-1 flex gap-2">
          <button className="btn btn-xs" disabled={!isReady}>
            {keep}
          </button>
          {onLeave && (
            <button type="button" className="btn btn-ghost btn-xs" onClick={onLeave}>
              Leave it
            </button>
          )}
        </div>
      )}
    </form>
  );
}
