import { ownFields, PARENT_COMPANY, storageOf, type Catalogue, type Definition, type TableOf } from '@eager-sieve/core';
import { type ContactChange } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Choice } from '../../conditions/lines/inputs';
import { ValueInput } from '../../rules/action-inputs';
import { DayInput } from '../../ui/day-input';
import { PersonInput } from '../../ui/person-input';
import { TagValueInput } from '../../ui/tag-value';

/** What can be changed of many at once, and as what it is offered. */
export const CHANGE_WORDS = {
  'add tag': 'add a tag',
  'remove tag': 'remove a tag',
  'set field': 'set a fact',
  'clear field': 'clear a fact',
  stage: 'set the stage',
  owner: 'hand to somebody',
  'no owner': 'take the owner away',
  'put on': 'put on a list',
  'take off': 'take off a list',
  consent: 'set a consent',
} as const;
export type ChangeKind = keyof typeof CHANGE_WORDS;

/** What can be changed of many companies. */
const OF_COMPANIES: readonly ChangeKind[] = ['set field', 'clear field', 'put on', 'take off'];

/** What can be changed of whom, and as what it is offered. */
export const changesOffered = (of: TableOf): readonly (readonly [ChangeKind, string])[] =>
  (Object.entries(CHANGE_WORDS) as [ChangeKind, string][]).filter(([kind]) => of === 'contact' || OF_COMPANIES.includes(kind));

interface PartProps {
  readonly of: TableOf;
  readonly catalogue: Catalogue;
  /** undefined while it is not said whole */
  readonly onChange: (change: ContactChange | undefined) => void;
}

/** The inputs for each kind of change. */
export const PARTS: { readonly [Kind in ChangeKind]: (props: PartProps) => React.ReactNode } = {
  'add tag': (props) => <TagPart {...props} add />,
  'remove tag': (props) => <TagPart {...props} add={false} />,
  'set field': (props) => <FieldPart {...props} />,
  'clear field': ({ of, catalogue, onChange }) => (
    <Picked
      label="Fact"
      choices={changeable(of, catalogue).map(({ key, name }) => [key, name])}
      onPick={(key) => onChange({ fields: { [key]: null } })}
    />
  ),
  stage: ({ catalogue, onChange }) => (
    <Picked
      label="Stage"
      choices={[...catalogue.ladder().map(({ key, name }) => [key, name] as const), ['-', 'none: off the ladder']]}
      onPick={(key) => onChange({ stage: key === '-' ? null : key })}
    />
  ),
  owner: (props) => <OwnerPart {...props} />,
  'no owner': ({ onChange }) => <NoOwner onChange={onChange} />,
  'put on': (props) => <ListPart {...props} on />,
  'take off': (props) => <ListPart {...props} on={false} />,
  consent: (props) => <ConsentPart {...props} />,
};

/** What tells one company from another is not changed of many, nor what the product keeps by itself. */
const NOT_CHANGED: Readonly<Record<TableOf, readonly string[]>> = {
  contact: ownFields,
  company: ['company-name', 'added', PARENT_COMPANY],
};
const changeable = (of: TableOf, catalogue: Catalogue): readonly Definition<'field'>[] =>
  catalogue.fields().filter(({ key, body }) => body.of === of && !NOT_CHANGED[of].includes(key));

interface PickedProps {
  readonly label: string;
  readonly choices: readonly (readonly [string, string])[];
  readonly onPick: (key: string) => void;
}

/** One of what there is, nothing at first. */
function Picked({ label, choices, onPick }: PickedProps) {
  const [picked, setPicked] = useState('');
  return (
    <Choice
      label={label}
      value={picked}
      choices={choices}
      onPick={(key) => {
        setPicked(key);
        onPick(key);
      }}
    />
  );
}

function TagPart({ catalogue, onChange, add }: PartProps & { readonly add: boolean }) {
  const [key, setKey] = useState('');
  const [value, setValue] = useState('');
  const kept = catalogue.find('tag', key)?.body.value;
  const put = (tag: string, typed: string): void => {
    setKey(tag);
    setValue(typed);
    const carries = catalogue.find('tag', tag)?.body.value;
    if (!add || !carries) return onChange(tag === '' ? undefined : { tags: { [tag]: add } });
    onChange(typed === '' ? undefined : { tags: { [tag]: carries === 'number' ? Number(typed) : typed } });
  };
  return (
    <>
      <Choice label="Tag" value={key} choices={catalogue.all('tag').map((tag) => [tag.key, tag.key])} onPick={(tag) => put(tag, '')} />
      {add && kept && <TagValueInput kind={kept} label="Value of the tag" value={value} onChange={(typed) => put(key, typed)} />}
    </>
  );
}

function FieldPart({ of, catalogue, onChange }: PartProps) {
  const [key, setKey] = useState('');
  const [value, setValue] = useState<string | string[]>('');
  const field = catalogue.find('field', key);
  const put = (next: string | string[]): void => {
    setValue(next);
    onChange(next.length === 0 ? undefined : { fields: { [key]: next } });
  };
  return (
    <>
      <Choice
        label="Fact"
        value={key}
        choices={changeable(of, catalogue).map((each) => [each.key, each.name])}
        onPick={(picked) => {
          setKey(picked);
          setValue('');
          onChange(undefined);
        }}
      />
      {field && (
        <>
          to
          {storageOf[field.body.type] === 'day' ? (
            <DayInput label={`Value of ${field.name}`} value={String(value)} onChange={put} />
          ) : (
            <ValueInput
              body={field.body}
              name={field.name}
              value={value}
              onChange={(next) =>
                typeof next !== 'object' || Array.isArray(next) ? put(Array.isArray(next) ? next : String(next)) : undefined
              }
            />
          )}
        </>
      )}
    </>
  );
}

function OwnerPart({ onChange }: PartProps) {
  const [owner, setOwner] = useState('');
  return (
    <PersonInput
      label="Owner, by sign-in address"
      value={owner}
      placeholder="whom?"
      onChange={(email) => {
        setOwner(email);
        onChange(email === '' ? undefined : { owner: email });
      }}
    />
  );
}

function NoOwner({ onChange }: Pick<PartProps, 'onChange'>) {
  return (
    <button type="button" className="btn btn-xs" onClick={() => onChange({ owner: null })}>
      Rehearse it
    </button>
  );
}

function ListPart({ of, catalogue, onChange, on }: PartProps & { readonly on: boolean }) {
  const lists = catalogue.lists(of);
  if (lists.length === 0) return <span className="quiet">There is no fixed list of {of === 'company' ? 'companies' : 'people'} yet.</span>;
  return <Picked label="List" choices={lists.map(({ key, name }) => [key, name])} onPick={(key) => onChange({ lists: { [key]: on } })} />;
}

const CHANNELS = ['email', 'text', 'chat'] as const;
const STATES = ['given', 'withdrawn', 'unknown'] as const;

function ConsentPart({ onChange }: PartProps) {
  const [channel, setChannel] = useState<(typeof CHANNELS)[number]>('email');
  const [state, setState] = useState<(typeof STATES)[number]>();
  const put = (to: typeof channel, as: typeof state): void => {
    setChannel(to);
    setState(as);
    onChange(as && { consent: { [to]: as } });
  };
  return (
    <>
      <Choice
        label="Channel"
        value={channel}
        choices={CHANNELS.map((each) => [each, `to ${each}`])}
        onPick={(key) => put(CHANNELS.find((each) => each === key) ?? channel, state)}
      />
      <Choice
        label="State of the consent"
        value={state ?? ''}
        choices={STATES.map((each) => [each, each])}
        onPick={(key) =>
          put(
            channel,
            STATES.find((each) => each === key),
          )
        }
      />
    </>
  );
}
