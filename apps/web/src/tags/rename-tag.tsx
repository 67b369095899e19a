import { keyFrom, toDocumentItem, withTagReplaced, type AnyDefinition, type Catalogue, type Definition } from '@eager-sieve/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useSave } from '../app/use-save';
import { ChangedWithIt } from '../ui/changed-with-it';
import { DialogButton, DialogEnd } from '../ui/dialog-button';
import { Labelled } from '../ui/labelled';
import { people } from '../ui/number';
import { Tag } from '../ui/tag';

/** Gives a tag another key, or moves it to another family: a tag of that key takes its place, with all people and everything that names it. */
export function RenameTag({ tag, catalogue, disabled }: { tag: Definition<'tag'>; catalogue: Catalogue; disabled: boolean }) {
  return (
    <DialogButton words="Rename or move …" title={`Rename or move ${tag.key}`} disabled={disabled}>
      {(close) => <Asking tag={tag} catalogue={catalogue} onClose={close} />}
    </DialogButton>
  );
}

/** Families to which it can go: of one whose tags come one at a time somebody could have another tag already. */
const roomFor = ({ body }: Definition<'tag'>, catalogue: Catalogue): readonly Definition<'family'>[] =>
  catalogue.families().filter((family) => family.id === body.family || family.body.many);

function Asking({ tag, catalogue, onClose }: { tag: Definition<'tag'>; catalogue: Catalogue; onClose: () => void }) {
  const families = roomFor(tag, catalogue);
  const [family, setFamily] = useState(catalogue.get('family', tag.body.family)?.key ?? '');
  const [rest, setRest] = useState(tag.key.split('.').slice(1).join('.'));
  const [name, setName] = useState(tag.name);
  const [save, isSaving, refused] = useSave();
  const [replace, replacing] = api.useReplaceTagMutation();
  const { data } = api.useTagFiguresQuery();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const prefix = catalogue.find('family', family)?.body.prefix ?? '';
  const key = rest.trim() === '' ? '' : `${prefix}.${keyFrom(rest).replaceAll('.', '-')}`;
  const isTaken = key !== tag.key && catalogue.every('tag').some((each) => each.key === key);
  const has = data?.tags.find((each) => each.key === tag.key)?.people;
  const go = async (): Promise<void> => {
    const item = { ...toDocumentItem(tag as AnyDefinition, catalogue), key, name: name.trim(), family };
    if (!(await save({ tags: [item] }, `${key} is in the plan.`))) return;
    const { error } = await replace({ key: tag.key, body: { into: key, parts: [] } });
    if (error) dispatch(told({ kind: 'wrong', text: `${key} is in the plan, and nobody has it yet: ${errorMessage(error)}` }));
    await navigate(`/tags/${error ? key : tag.key}`);
    onClose();
  };
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void go();
      }}
    >
      <p>
        Whoever has it gets the tag under its new key, for the same reasons and since the same day; whatever names it names the new one.
        Nothing is set off by that, and all of it can be taken back.
      </p>
      <div className="flex flex-wrap gap-3">
        <Labelled label="Family">
          <select className="select select-sm w-auto" value={family} onChange={(event) => setFamily(event.target.value)}>
            {families.map((each) => (
              <option key={each.key} value={each.key}>
                {each.name}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled label="Key within the family">
          <input className="input input-sm w-44" required maxLength={60} value={rest} onChange={(event) => setRest(event.target.value)} />
        </Labelled>
        <Labelled label="Who has it?">
          <input className="input input-sm w-60" required maxLength={120} value={name} onChange={(event) => setName(event.target.value)} />
        </Labelled>
      </div>
      <div role="status">
        {key === '' ? (
          <p className="quiet">Say what it is to be called.</p>
        ) : key === tag.key ? (
          <p className="quiet">That is its key already. What it says of people is changed on its page.</p>
        ) : isTaken ? (
          <p className="text-error">
            There is a tag <b>{key}</b> already. To bring the two together, replace one by the other.
          </p>
        ) : (
          <>
            <p>
              <Tag name={tag.key} /> becomes <Tag name={key} />
              {has === undefined ? '.' : `: ${people(has)} ${has === 1 ? 'has' : 'have'} it.`}
            </p>
            <ChangedWithIt definitions={withTagReplaced(catalogue, tag.id, tag.id)} />
          </>
        )}
      </div>
      {refused.map(({ words }) => (
        <p key={words} role="alert" className="text-error font-medium">
          {words}
        </p>
      ))}
      <DialogEnd
        error={replacing.error}
        act="Rename it"
        disabled={isSaving || replacing.isLoading || key === '' || key === tag.key || isTaken || name.trim() === ''}
        onClose={onClose}
      />
    </form>
  );
}
