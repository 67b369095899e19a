import { type ChangeEvent } from 'react';
import { MAX_FILE_BYTES, type FileView } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { AskFirst } from '../ui/ask-first';
import { count, times } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Wide } from '../ui/wide';

/** Files that people download by a link, which says who did. */
export default function Files() {
  const { data, error } = api.useFilesQuery();
  const mayWrite = useMay('definitions:write');
  const [keep, { isLoading, error: refused }] = api.useKeepFileMutation();
  const choose = (event: ChangeEvent<HTMLInputElement>): void => {
    const file = event.target.files?.[0];
    event.target.value = '';
    if (file) void keep({ file });
  };
  if (error) return <Wrong error={error} />;
  return (
    <Page
      title="Files to download"
      sentence="Put the link of a file into a message or on a page of yours. Each download is counted, and noted with whoever is known."
      actions={
        mayWrite && (
          <label className="btn btn-sm btn-primary focus-within:outline">
            {isLoading ? 'Keeping …' : 'Add a file'}
            <input type="file" className="sr-only" disabled={isLoading} onChange={choose} />
          </label>
        )
      }
    >
      {refused && (
        <p role="alert" className="text-error mb-3 font-medium">
          {errorMessage(refused)}
        </p>
      )}
      {!data ? (
        <Loading />
      ) : data.length === 0 ? (
        <Empty title="No file yet">Up to {MAX_FILE_BYTES / 1024 / 1024} MB each.</Empty>
      ) : (
        <Wide>
          <table className="table panel w-full min-w-[620px]">
            <tbody>
              {data.map((file) => (
                <FileRow key={file.id} file={file} mayWrite={mayWrite} />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </Page>
  );
}

function FileRow({ file, mayWrite }: { file: FileView; mayWrite: boolean }) {
  const [remove] = api.useRemoveFileMutation();
  const dispatch = useAppDispatch();
  const copy = async (): Promise<void> => {
    await navigator.clipboard.writeText(file.url);
    dispatch(told({ kind: 'done', text: 'The link is copied.' }));
  };
  return (
    <tr className="border-base-300/60 border-t first:border-t-0">
      <td className="px-4 py-1.5 font-medium [overflow-wrap:anywhere]">{file.name}</td>
      <td className="quiet text-[12.5px]">{count(Math.ceil(file.bytes / 1024))} kB</td>
      <td>{times(file.downloads, 'download')}</td>
      <td className="quiet text-[12.5px]">
        added <When at={file.madeAt} />
      </td>
      <td className="pr-4 text-right whitespace-nowrap">
        <button type="button" className="btn btn-xs mr-2" aria-label={`Copy the link of ${file.name}`} onClick={() => void copy()}>
          Copy the link
        </button>
        {mayWrite && (
          <AskFirst
            words="Remove"
            label={`Remove ${file.name}`}
            comes="Its link leads nowhere from then on."
            act="Remove it"
            onAct={() => void remove({ id: file.id })}
          />
        )}
      </td>
    </tr>
  );
}
