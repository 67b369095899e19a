import { MAX_ATTACHMENTS, MAX_FILE_BYTES, type AttachmentView } from '@eager-sieve/contracts';
import { use, type ChangeEvent } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useMay } from '../app/use-may';
import { AskFirst } from '../ui/ask-first';
import { count } from '../ui/number';
import { ReadOnly } from '../ui/offer';
import { When } from '../ui/when';

const MEGABYTES = MAX_FILE_BYTES / 1024 / 1024;

/** Files that lie with a contact or a company, the latest first. */
export function Attachments({ about }: { about: { readonly contact: string } | { readonly company: string } }) {
  const { data, error } = api.useAttachmentsQuery(about);
  const readOnly = use(ReadOnly);
  const [keep, keeping] = api.useKeepAttachmentMutation();
  const files = data?.attachments ?? [];
  if (readOnly && files.length === 0) return null;
  const choose = async (event: ChangeEvent<HTMLInputElement>): Promise<void> => {
    const chosen = [...(event.target.files ?? [])];
    event.target.value = '';
    // One after another: what was kept before one is refused stays.
    for (const file of chosen) if ((await keep({ ...about, file })).error) return;
  };
  const wrong = keeping.error ?? error;
  return (
    <section className="mb-4" aria-label="Files">
      <h2 className="mb-0.5 text-[14px]">Files</h2>
      <ul className="flex flex-col">
        {files.map((file) => (
          <Attachment key={file.id} file={file} readOnly={readOnly} />
        ))}
      </ul>
      {wrong !== undefined && (
        <p role="alert" className="text-error text-[12.5px]">
          {errorMessage(wrong)}
        </p>
      )}
      {!readOnly && (
        <label
          className={`btn btn-xs mt-1 focus-within:outline ${keeping.isLoading || files.length >= MAX_ATTACHMENTS ? 'btn-disabled' : ''}`}
          title={`up to ${MEGABYTES} MB each`}
        >
          {keeping.isLoading ? 'Keeping …' : '+ file'}
          <input
            type="file"
            multiple
            className="sr-only"
            disabled={keeping.isLoading || files.length >= MAX_ATTACHMENTS}
            onChange={(event) => void choose(event)}
          />
        </label>
      )}
    </section>
  );
}

/** How large a file is, in the unit that suits it. */
const sizeOf = (bytes: number): string =>
  bytes < 1_000_000 ? `${count(Math.ceil(bytes / 1_000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;

function Attachment({ file, readOnly }: { file: AttachmentView; readOnly: boolean }) {
  const { data: session } = api.useSessionQuery();
  const mayRemoveAny = useMay('settings:write');
  const [remove, removing] = api.useRemoveAttachmentMutation();
  return (
    <li className="py-0.5">
      <a className="leads [overflow-wrap:anywhere]" download={file.name} href={`/api/app/attachments/${file.id}`}>
        {file.name}
      </a>
      <p className="quiet flex flex-wrap items-center gap-x-1.5 text-[12px]">
        <span className="[overflow-wrap:anywhere]">
          {sizeOf(file.bytes)} · {file.by} · <When at={file.at} />
        </span>
        {!readOnly && (file.by === session?.person.email || mayRemoveAny) && (
          <AskFirst
            words="remove"
            label={`Remove ${file.name}`}
            comes="It cannot be brought back."
            act="Remove it"
            onAct={() => void remove({ id: file.id })}
          />
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
