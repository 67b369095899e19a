import { choicesOf, keyFrom, storageOf, tagStorage, takes, toWrittenBody, type Catalogue, type FieldId } from '@eager-sieve/core';
import { useState } from 'react';
import { useMay } from '../../app/use-may';
import { useSave } from '../../app/use-save';
import { PersonInput, PersonsInput, useFirstPerson } from '../../ui/person-input';
import { TestEditor } from '../test-editor';
import { Checks, Choice, WindowInput } from './inputs';
import { withPart, type LineProps } from './line';

export function FieldLine({ leaf, catalogue, onChange }: LineProps<'field'>) {
  const body = catalogue.body('field', leaf.field);
  if (!body) return null;
  const { value: _value, ...rest } = leaf;
  const storage = storageOf[body.type];
  const takesOne = takes(storage, leaf.op) === 'value';
  return (
    <>
      <TestEditor
        storage={storage}
        op={leaf.op}
        value={leaf.value}
        options={body.options && choicesOf(body)}
        known={catalogue.known.inField(leaf.field)}
        label="fact"
        onChange={(op, value) => onChange({ ...rest, op, ...(value === undefined ? {} : { value }) })}
      />
      {body.options && leaf.value !== undefined && (
        <NewChoice
          field={leaf.field}
          catalogue={catalogue}
          onMade={(key) => onChange({ ...leaf, value: takesOne ? key : [...[leaf.value ?? []].flat().map(String), key] })}
        />
      )}
    </>
  );
}

/** Adds a choice that a field does not have yet, so that one can go on with the line. */
function NewChoice({ field: id, catalogue, onMade }: { field: FieldId; catalogue: Catalogue; onMade: (key: string) => void }) {
  const [name, setName] = useState<string>();
  const [save, saving] = useSave();
  const mayMake = useMay('definitions:write');
  const field = catalogue.get('field', id);
  if (!mayMake || !field) return null;
  if (name === undefined)
    return (
      <button type="button" className="row-tool" onClick={() => setName('')}>
        + choice
      </button>
    );
  const add = async (): Promise<void> => {
    const { options = [] } = field.body;
    const key = keyFrom(name, new Set(options.map((option) => option.key)));
    const body = toWrittenBody('field', { ...field.body, options: [...options, { key, name: name.trim() }] }, catalogue);
    if (!(await save({ fields: [{ key: field.key, name: field.name, ...body }] }, `${field.name} can be ${name.trim()} now.`))) return;
    setName(undefined);
    onMade(key);
  };
  return (
    <span className="inline-flex items-center gap-1.5">
      <input
        className="input input-sm w-44"
        autoFocus
        aria-label={`New choice of ${field.name}`}
        placeholder="a new choice"
        maxLength={120}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') {
            event.preventDefault();
            if (name.trim() !== '' && !saving) void add();
          } else if (event.key === 'Escape') {
            event.stopPropagation();
            setName(undefined);
          }
        }}
      />
      <button type="button" className="btn btn-xs" disabled={saving || name.trim() === ''} onClick={() => void add()}>
        Add choice
      </button>
    </span>
  );
}

export function TagLine({ leaf, catalogue, onChange }: LineProps<'tag'>) {
  const valued = catalogue.body('tag', leaf.tag)?.value;
  const storage = tagStorage[valued ?? 'number'];
  return (
    <>
      <Choice
        label="has or lacks"
        value={leaf.op}
        choices={[
          ['has', 'they have it'],
          ['lacks', 'they do not have it'],
          ['had', 'they had it at some time'],
          ['lost', 'they lost it'],
        ]}
        onPick={(op) => {
          const since = op === 'has' || op === 'lost' ? leaf.since : undefined;
          onChange(withPart({ ...leaf, op: op as 'has' }, 'since', since));
        }}
      />
      {valued && (
        <>
          <Choice
            label="value"
            value={leaf.value ? 'valued' : 'any'}
            choices={[
              ['any', 'of any value'],
              ['valued', 'valued'],
            ]}
            onPick={(kind) => onChange(withPart(leaf, 'value', kind === 'any' ? undefined : { op: 'is filled' }))}
          />
          {leaf.value && (
            <TestEditor
              storage={storage}
              op={leaf.value.op}
              value={leaf.value.value}
              label="value"
              onChange={(op, value) => onChange({ ...leaf, value: value === undefined ? { op } : { op, value } })}
            />
          )}
        </>
      )}
      {(leaf.op === 'has' || leaf.op === 'lost') && (
        <WindowInput
          label={leaf.op === 'has' ? 'since' : 'lost'}
          words={leaf.op === 'has' ? 'since whenever' : 'whenever'}
          value={leaf.since}
          onChange={(since) => onChange(withPart(leaf, 'since', since))}
        />
      )}
    </>
  );
}

export function ConsentLine({ leaf, onChange }: LineProps<'consent'>) {
  return (
    <>
      <Choice
        label="channel"
        value={leaf.channel}
        choices={[
          ['email', 'to email'],
          ['text', 'to text'],
          ['chat', 'to chat'],
        ]}
        onPick={(channel) => onChange({ ...leaf, channel: channel as 'email' })}
      />
      <Choice
        label="is or is not"
        value={leaf.op}
        choices={[
          ['is', 'is'],
          ['is not', 'is not'],
        ]}
        onPick={(op) => onChange({ ...leaf, op: op as 'is' })}
      />
      <Choice
        label="consent"
        value={leaf.value}
        choices={(['given', 'withdrawn', 'unknown', 'undeliverable'] as const).map((state) => [state, state])}
        onPick={(value) => onChange({ ...leaf, value: value as 'given' })}
      />
    </>
  );
}

export function StageLine({ leaf, catalogue, onChange }: LineProps<'stage'>) {
  const chosen = [leaf.value].flat();
  return (
    <>
      <Choice
        label="how"
        value={leaf.op}
        choices={(['is', 'is one of', 'is at least', 'is before'] as const).map((op) => [op, op])}
        onPick={(op) => {
          const next = { ...leaf, op: op as 'is', value: op === 'is one of' ? chosen : (chosen[0] ?? -1) };
          onChange(op === 'is' ? next : withPart(next, 'since', undefined));
        }}
      />
      {leaf.op === 'is one of' ? (
        <Checks
          label="stages"
          chosen={chosen}
          choices={catalogue.ladder().map((stage) => ({ key: stage.id as number, name: stage.name }))}
          onChange={(value) => onChange({ ...leaf, value })}
        />
      ) : (
        <Choice
          label="stage"
          value={String(chosen[0] ?? '')}
          choices={catalogue.ladder().map((stage) => [String(stage.id), stage.name])}
          onPick={(id) => onChange({ ...leaf, value: Number(id) })}
        />
      )}
      {leaf.op === 'is' && (
        <WindowInput
          label="since"
          words="since whenever"
          value={leaf.since}
          onChange={(since) => onChange(withPart(leaf, 'since', since))}
        />
      )}
    </>
  );
}

export function OwnerLine({ leaf, onChange }: LineProps<'owner'>) {
  const emails = [leaf.value ?? []].flat();
  const first = useFirstPerson();
  return (
    <>
      <Choice
        label="how"
        value={leaf.op}
        choices={[
          ['is', 'is'],
          ['is one of', 'is one of'],
          ['is filled', 'is someone'],
          ['is empty', 'is no one'],
        ]}
        onPick={(op) => {
          if (op === 'is filled' || op === 'is empty') onChange({ kind: 'owner', op });
          else
            onChange({
              kind: 'owner',
              op: op as 'is',
              value: op === 'is' ? (emails[0] ?? first) : emails.length > 0 ? emails : [first],
            });
        }}
      />
      {leaf.op === 'is' && (
        <PersonInput
          label="sign-in address of the owner"
          value={emails[0] ?? ''}
          onChange={(email) => email !== '' && onChange({ ...leaf, value: email })}
        />
      )}
      {leaf.op === 'is one of' && (
        <PersonsInput label="sign-in addresses of the owners" values={emails} onChange={(value) => onChange({ ...leaf, value })} />
      )}
    </>
  );
}
