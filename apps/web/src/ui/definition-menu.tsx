import {
  DOCUMENT_SECTIONS,
  keyFrom,
  kindWord,
  toWrittenBody,
  usersOf,
  type Bodies,
  type Catalogue,
  type DefinitionKind,
} from '@eager-sieve/core';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { addressOf, listOf } from '../app/addresses';
import { useSave } from '../app/use-save';
import { Dialog } from './dialog';
import { Menu, MenuItem } from './menu';
import { afterRetiring } from './retired';
import { useMay } from '../app/use-may';
import { Versions } from './versions';

type OpenDialog = 'used' | 'versions' | 'retire' | 'delete';

interface DefinitionMenuProps<Kind extends DefinitionKind> {
  readonly kind: Kind;
  /** of one that is kept; nothing is offered for a new one */
  readonly itemKey: string;
  readonly catalogue: Catalogue;
  /** what is kept of it, as the API takes it: what a copy is made of */
  readonly written: () => Record<string, unknown>;
  /** brings an earlier version into the draft */
  readonly restore: (name: string, body: Bodies[Kind]) => void;
}

/** What can be done with a definition as a whole. */
export function DefinitionMenu<Kind extends DefinitionKind>({ kind, itemKey, catalogue, written, restore }: DefinitionMenuProps<Kind>) {
  const [asked, setAsked] = useState<OpenDialog | null>(null);
  const mayWrite = useMay('definitions:write');
  const [save] = useSave();
  const navigate = useNavigate();
  const definition = catalogue.find(kind, itemKey);
  if (!definition) return null;
  const thing = kindWord(kind);
  const copy = async (): Promise<void> => {
    const name = `${definition.name}, copy`;
    const key = keyOfCopy(kind, itemKey, name, catalogue);
    const body = written();
    // A copy does nothing until somebody has looked at it.
    const still = { ...body, ...('on' in body ? { on: false } : {}), ...('published' in body ? { published: false } : {}) };
    if (await save({ [DOCUMENT_SECTIONS[kind]]: [{ key, name, ...still }] }, `${name} is made.`)) await navigate(addressOf(kind, key));
  };
  return (
    <>
      <Menu label={`More for this ${thing}`}>
        <MenuItem onClick={() => setAsked('used')}>Where it is used</MenuItem>
        <MenuItem onClick={() => setAsked('versions')}>Versions</MenuItem>
        {mayWrite && (
          <>
            <MenuItem onClick={() => void copy()}>Duplicate</MenuItem>
            {!definition.retired && <MenuItem onClick={() => setAsked('retire')}>Retire …</MenuItem>}
            <MenuItem onClick={() => setAsked('delete')}>Delete …</MenuItem>
          </>
        )}
      </Menu>
      <Dialog open={asked === 'used'} title={`Where “${definition.name}” is used`} onClose={() => setAsked(null)}>
        <Users catalogue={catalogue} id={definition.id} none={`Nothing uses this ${thing}.`} />
        <Close onClick={() => setAsked(null)} />
      </Dialog>
      <Dialog open={asked === 'versions'} title={`Versions of “${definition.name}”`} onClose={() => setAsked(null)}>
        <Versions
          kind={kind}
          itemKey={itemKey}
          catalogue={catalogue}
          now={definition.version}
          onPick={(name, body) => {
            restore(name, body);
            setAsked(null);
          }}
        />
        <Close onClick={() => setAsked(null)} />
      </Dialog>
      <Dialog open={asked === 'retire'} title={`Retire “${definition.name}”?`} onClose={() => setAsked(null)}>
        <Retire catalogue={catalogue} kind={kind} itemKey={itemKey} onDone={() => setAsked(null)} />
      </Dialog>
      <Dialog open={asked === 'delete'} title={`Delete “${definition.name}”?`} onClose={() => setAsked(null)}>
        <Delete catalogue={catalogue} kind={kind} itemKey={itemKey} onDone={() => setAsked(null)} />
      </Dialog>
    </>
  );
}

/** A key of its own; that of a tag begins as its family's tags do. */
function keyOfCopy(kind: DefinitionKind, itemKey: string, name: string, catalogue: Catalogue): string {
  const taken = new Set(catalogue.every(kind).map((each) => each.key));
  if (kind !== 'tag') return keyFrom(name, taken);
  const [prefix = ''] = itemKey.split('.');
  const after = new Set([...taken].flatMap((key) => (key.startsWith(`${prefix}.`) ? [key.slice(prefix.length + 1)] : [])));
  return `${prefix}.${keyFrom(name, after).replaceAll('.', '-')}`;
}

function Close({ onClick }: { onClick: () => void }) {
  return (
    <button type="button" className="btn btn-sm btn-outline btn-primary mt-4" onClick={onClick}>
      Close
    </button>
  );
}

/** What names a definition, each with a way to its page. */
function Users({ catalogue, id, none }: { catalogue: Catalogue; id: number; none: string }) {
  const users = usersOf(catalogue, id);
  if (users.length === 0) return <p>{none}</p>;
  return (
    <ul className="max-h-64 overflow-y-auto" tabIndex={0} aria-label="What uses it">
      {users.map((user) => (
        <li key={user.id} className="py-1">
          <Link className="leads" to={addressOf(user.kind, user.key)}>
            {user.name}
          </Link>{' '}
          <span className="quiet">{kindWord(user.kind)}</span>
        </li>
      ))}
    </ul>
  );
}

const capital = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

interface EndProps {
  readonly catalogue: Catalogue;
  readonly kind: DefinitionKind;
  readonly itemKey: string;
  readonly onDone: () => void;
}

function Retire({ catalogue, kind, itemKey, onDone }: EndProps) {
  const [save, saving] = useSave();
  const definition = catalogue.find(kind, itemKey);
  if (!definition) return null;
  const retire = async (): Promise<void> => {
    onDone();
    const section = DOCUMENT_SECTIONS[kind];
    const back = { key: itemKey, name: definition.name, ...toWrittenBody(kind, definition.body, catalogue) };
    await save({ [section]: [{ key: itemKey, retire: true }] }, `${definition.name} is retired.`, { [section]: [back] });
  };
  return (
    <>
      <p>{capital(afterRetiring(kind))}. What it did stays, and you can bring it back.</p>
      {usersOf(catalogue, definition.id).length > 0 && (
        <div className="mt-2">
          <p className="font-medium">These use it, and go on with it as it is:</p>
          <Users catalogue={catalogue} id={definition.id} none="" />
        </div>
      )}
      <Buttons words="Retire it" disabled={saving} onYes={() => void retire()} onNo={onDone} />
    </>
  );
}

function Delete({ catalogue, kind, itemKey, onDone }: EndProps) {
  const [save, saving] = useSave();
  const navigate = useNavigate();
  const definition = catalogue.find(kind, itemKey);
  if (!definition) return null;
  const used = usersOf(catalogue, definition.id).length > 0;
  const remove = async (): Promise<void> => {
    if (await save({ [DOCUMENT_SECTIONS[kind]]: [{ key: itemKey, delete: true }] }, `${definition.name} is deleted.`))
      await navigate(listOf(kind));
    else onDone();
  };
  if (used)
    return (
      <>
        <p>It cannot be deleted while these use it. Take it out of them first, or retire it instead.</p>
        <Users catalogue={catalogue} id={definition.id} none="" />
      </>
    );
  return (
    <>
      <p>It goes for good. The ledger keeps what it did.</p>
      <Buttons words="Delete it" disabled={saving} onYes={() => void remove()} onNo={onDone} />
    </>
  );
}

function Buttons({ words, disabled, onYes, onNo }: { words: string; disabled: boolean; onYes: () => void; onNo: () => void }) {
  return (
    <div className="mt-4 flex gap-2">
      <button type="button" className="btn btn-sm btn-primary" disabled={disabled} onClick={onYes}>
        {words}
      </button>
      <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onNo}>
        Leave it
      </button>
    </div>
  );
}
