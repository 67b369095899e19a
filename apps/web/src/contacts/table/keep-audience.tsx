import { keyFrom, toKeys, type Catalogue, type Group } from '@eager-sieve/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../../app/api';
import { errorMessage } from '../../app/errors';
import { told } from '../../app/notices';
import { useAppDispatch } from '../../app/store';
import { useMay } from '../../app/use-may';
import { useSave } from '../../app/use-save';
import { DialogButton, DialogEnd } from '../../ui/dialog-button';
import { Labelled } from '../../ui/labelled';
import { subjects } from '../../ui/number';
import { changeOf, type Meant } from './change-many';

interface KeepAudienceProps {
  /** who they are */
  readonly meant: Meant;
  readonly group: Group;
  readonly catalogue: Catalogue;
  /** how many they are now */
  readonly total: number | undefined;
  /** whether they were ticked one by one, so that they can only be kept as a list */
  readonly isPicked: boolean;
}

/** Keeps whoever the table is narrowed to as an audience that keeps itself, or as a list of who they are now. */
export function KeepAudience(props: KeepAudienceProps) {
  const may = useMay('definitions:write', 'audiences:read');
  if (!may) return null;
  return (
    <DialogButton words="Keep as audience …" title={`Keep these ${props.meant.of === 'company' ? 'companies' : 'people'} as an audience`}>
      {(close) => <Asking {...props} onClose={close} />}
    </DialogButton>
  );
}

function Asking({ meant, group, catalogue, total, isPicked, onClose }: KeepAudienceProps & { readonly onClose: () => void }) {
  const { of } = meant;
  const mayPut = useMay('contacts:write');
  const [name, setName] = useState('');
  const [kind, setKind] = useState<'live' | 'fixed'>(isPicked ? 'fixed' : 'live');
  const [save, isSaving, refused] = useSave();
  const [change, { isLoading, error }] = api.useChangeManyMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const keep = async (): Promise<void> => {
    const key = keyFrom(name, new Set(catalogue.every('audience').map((each) => each.key)));
    const body = { kind, of, ...(kind === 'live' ? { condition: toKeys(group, catalogue) } : {}) };
    if (
      !(await save(
        { audiences: [{ key, name: name.trim(), ...body }] },
        kind === 'live' ? `${name} keeps itself from now on.` : `The list ${name} is there.`,
      ))
    )
      return;
    if (kind === 'fixed') {
      const { data, error: failed } = await change({ body: changeOf(meant, { lists: { [key]: true } }) });
      if (failed)
        dispatch(
          told({
            kind: 'wrong',
            text: `The list is there, and ${of === 'company' ? 'nothing' : 'nobody'} is on it yet: ${errorMessage(failed)}`,
          }),
        );
      else if (data)
        dispatch(told({ kind: 'done', text: `${subjects(of, data.total)} ${data.total === 1 ? 'is' : 'are'} put on ${name}.` }));
    }
    await navigate(`/audiences/${key}`);
  };
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <Labelled label="Name">
        <input className="input input-sm w-full" required maxLength={120} value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      {!isPicked && (
        <label className="flex items-start gap-2">
          <input type="radio" className="radio radio-primary radio-xs mt-1" checked={kind === 'live'} onChange={() => setKind('live')} />
          <span>
            It keeps itself
            <span className="quiet block text-[12.5px]">
              {of === 'company' ? 'What comes to fit comes in, what' : 'Whoever comes to fit comes in, whoever'} no longer fits leaves, to
              the second.
            </span>
          </span>
        </label>
      )}
      {mayPut && (
        <label className="flex items-start gap-2">
          <input type="radio" className="radio radio-primary radio-xs mt-1" checked={kind === 'fixed'} onChange={() => setKind('fixed')} />
          <span>
            A list of {of === 'company' ? 'which' : 'who'} they are now{total === undefined ? '' : `: ${subjects(of, total)}`}
            <span className="quiet block text-[12.5px]">
              {of === 'company' ? 'None comes or leaves by itself.' : 'Nobody comes or leaves by themselves.'}
            </span>
          </span>
        </label>
      )}
      {refused.map(({ words }) => (
        <p key={words} role="alert" className="text-error font-medium">
          {words}
        </p>
      ))}
      <DialogEnd error={error} act="Keep" disabled={isSaving || isLoading || name.trim() === ''} onClose={onClose} />
    </form>
  );
}
