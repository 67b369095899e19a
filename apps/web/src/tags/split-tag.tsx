import { keyFrom, toKeys, type Catalogue, type Definition, type Group } from '@eager-sieve/core';
import { type ReplaceTag } from '@eager-sieve/contracts';
import { useState } from 'react';
import { api } from '../app/api';
import { useSave } from '../app/use-save';
import { Outline } from '../conditions/outline';
import { ChangedWithIt } from '../ui/changed-with-it';
import { DialogButton, DialogEnd } from '../ui/dialog-button';
import { people } from '../ui/number';
import { Loading } from '../ui/states';
import { Tag } from '../ui/tag';

type TagDefinition = Definition<'tag'>;

/** Splits a tag that has come to mean too much: whoever has it gets another one, by what is so of them. */
export function SplitTag({
  tag,
  catalogue,
  disabled,
  onBegun,
}: {
  tag: TagDefinition;
  catalogue: Catalogue;
  disabled: boolean;
  onBegun: () => void;
}) {
  return (
    <DialogButton wide words="Split …" title={`Split ${tag.key} into several`} disabled={disabled}>
      {(close) => <Splitting tag={tag} catalogue={catalogue} onBegun={onBegun} onClose={close} />}
    </DialogButton>
  );
}

interface Part {
  readonly id: number;
  /** the key of the tag; empty until one is chosen */
  readonly tag: string;
  readonly if: Group;
}
const NOTHING: Group = { match: 'all', of: [] };

function Splitting({
  tag,
  catalogue,
  onBegun,
  onClose,
}: {
  tag: TagDefinition;
  catalogue: Catalogue;
  onBegun: () => void;
  onClose: () => void;
}) {
  const [parts, setParts] = useState<readonly Part[]>([{ id: 0, tag: '', if: NOTHING }]);
  const [rest, setRest] = useState('');
  const [rehearse, rehearsal] = api.useRehearseTagReplacementMutation();
  const [replace, replacing] = api.useReplaceTagMutation();
  const put = (id: number, change: Partial<Part>): void => {
    rehearsal.reset();
    setParts(parts.map((part) => (part.id === id ? { ...part, ...change } : part)));
  };
  const isWhole = rest !== '' && parts.every((part) => part.tag !== '' && part.if.of.length > 0);
  const body = (): ReplaceTag => ({ into: rest, parts: parts.map((part) => ({ tag: part.tag, if: toKeys(part.if, catalogue) })) });
  const go = async (): Promise<void> => {
    if ((await replace({ key: tag.key, body: body() })).error) return;
    onBegun();
    onClose();
  };
  return (
    <>
      <p>
        Whoever has it gets the tag of the first part that holds for them, for the same reasons and since the same day, and it is retired.
        What asks for it asks for any of these tags then; what gives it gives the one for everyone else. Nothing is set off by that, and all
        of it can be taken back.
      </p>
      <ol className="mt-3 flex flex-col gap-3">
        {parts.map((part, index) => (
          <li key={part.id} aria-label={`Part ${index + 1}`}>
            <div className="mb-1 flex flex-wrap items-center gap-2">
              <TagChoice
                label={`Tag of part ${index + 1}`}
                value={part.tag}
                of={tag}
                catalogue={catalogue}
                onPick={(key) => put(part.id, { tag: key })}
              />
              <span className="quiet">for those of whom this is so</span>
              {parts.length > 1 && (
                <button
                  type="button"
                  className="btn btn-xs"
                  aria-label={`Leave part ${index + 1} out`}
                  onClick={() => setParts(parts.filter(({ id }) => id !== part.id))}
                >
                  leave out
                </button>
              )}
            </div>
            <Outline value={part.if} catalogue={catalogue} onChange={(condition) => put(part.id, { if: condition })} />
          </li>
        ))}
      </ol>
      <button
        type="button"
        className="btn btn-xs mt-2"
        onClick={() => {
          rehearsal.reset();
          setParts([...parts, { id: Math.max(...parts.map(({ id }) => id)) + 1, tag: '', if: NOTHING }]);
        }}
      >
        + another part
      </button>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <span>Everyone else gets</span>
        <TagChoice
          label="Tag of everyone else"
          value={rest}
          of={tag}
          catalogue={catalogue}
          onPick={(key) => {
            rehearsal.reset();
            setRest(key);
          }}
        />
        <button
          type="button"
          className="btn btn-sm"
          disabled={!isWhole || rehearsal.isLoading}
          onClick={() => void rehearse({ key: tag.key, body: body() })}
        >
          Rehearse
        </button>
      </div>
      {rehearsal.isLoading && <Loading what="Looking who would get which" />}
      {rehearsal.data && (
        <div className="mt-3" role="status">
          <ul>
            {rehearsal.data.parts.map((part) => (
              <li key={part.tag}>
                {people(part.people)} would get <Tag name={part.tag} />
              </li>
            ))}
          </ul>
          <ChangedWithIt definitions={rehearsal.data.definitions} />
        </div>
      )}
      <DialogEnd
        error={replacing.error ?? rehearsal.error}
        act="Split it"
        disabled={!rehearsal.data || replacing.isLoading}
        onAct={() => void go()}
        onClose={onClose}
      />
    </>
  );
}

const NEW = '+';

/** One of the tags that carry the same kind of value, or one that is made on the spot, in the same family. */
function TagChoice({
  label,
  value,
  of,
  catalogue,
  onPick,
}: {
  label: string;
  value: string;
  of: TagDefinition;
  catalogue: Catalogue;
  onPick: (key: string) => void;
}) {
  const [name, setName] = useState<string>();
  const [save, isSaving] = useSave();
  const family = catalogue.get('family', of.body.family);
  const others = catalogue.all('tag').filter((each) => each.id !== of.id && each.body.value === of.body.value);
  const make = async (): Promise<void> => {
    if (name === undefined || !family) return;
    const key = `${family.body.prefix}.${keyFrom(name).replaceAll('.', '-')}`;
    const item = { key, name: name.trim(), family: family.key, ...(of.body.value ? { value: of.body.value } : {}) };
    if (!(await save({ tags: [item] }, `${key} is in the plan.`))) return;
    setName(undefined);
    onPick(key);
  };
  return (
    <>
      <select
        className="select select-sm w-auto max-w-80"
        aria-label={label}
        value={name === undefined ? value : NEW}
        onChange={({ target }) => {
          setName(target.value === NEW ? '' : undefined);
          onPick(target.value === NEW ? '' : target.value);
        }}
      >
        <option value="">choose …</option>
        <option value={NEW}>a new tag …</option>
        {/* One that was made just now is in the plan as soon as that is told. */}
        {value !== '' && !others.some(({ key }) => key === value) && <option value={value}>{value}</option>}
        {others.map((each) => (
          <option key={each.key} value={each.key}>
            {each.key}: {each.name}
          </option>
        ))}
      </select>
      {name !== undefined && (
        <>
          <input
            className="input input-sm w-44"
            aria-label={`Name of the new tag, ${label.toLowerCase()}`}
            placeholder="what it is called"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <button type="button" className="btn btn-xs" disabled={isSaving || name.trim() === ''} onClick={() => void make()}>
            Make it
          </button>
        </>
      )}
    </>
  );
}
