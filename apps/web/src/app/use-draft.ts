import {
  DOCUMENT_SECTIONS,
  keyFrom,
  toDocumentItem,
  type AnyDefinition,
  type Bodies,
  type Catalogue,
  type DefinitionKind,
} from '@eager-sieve/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { type ToldFault } from './errors';
import { KEPT, useUnsaved, watchPage } from './unsaved';
import { useSave } from './use-save';

export interface Draft<Body> {
  readonly name: string;
  readonly body: Body;
  readonly isNew: boolean;
  /** whether it differs from what is kept, or is not kept yet */
  readonly changed: boolean;
  readonly saving: boolean;
  /** what was wrong with it when it was last to be kept */
  readonly refused: readonly ToldFault[];
  readonly setName: (name: string) => void;
  readonly setBody: (body: Body) => void;
  readonly discard: () => void;
  /** puts an earlier version into the draft */
  readonly restore: (name: string, body: Body) => void;
  /** what is kept, as the API takes it */
  readonly writtenSaved: () => Record<string, unknown>;
  /** the body as the API takes it, with keys in place of ids */
  readonly written: (body?: Body) => Record<string, unknown>;
  /** keeps it; a new one gets its key from its name, and its page the address that goes with it */
  readonly keep: (done: string, body?: Body) => Promise<boolean>;
}

/** A definition that is being edited: a draft beside what is kept, and the way to keep it. Nothing is lost when keeping is refused. */
export function useDraft<Kind extends DefinitionKind>({
  kind,
  itemKey,
  saved,
  catalogue,
  address,
}: {
  kind: Kind;
  itemKey: string;
  saved: { readonly name: string; readonly body: Bodies[Kind] };
  catalogue: Catalogue;
  /** where the page of one lives, such as `/rules` */
  address: string;
}): Draft<Bodies[Kind]> {
  const isNew = itemKey === 'new';
  const [name, setName] = useState(saved.name);
  const [body, setBody] = useState(saved.body);
  const [save, saving, refused] = useSave();
  const navigate = useNavigate();
  const written = (next: Bodies[Kind] = body): Record<string, unknown> => {
    const definition = { id: 0, kind, key: 'x', name: 'x', version: 0, retired: false, epoch: 0, body: next };
    const { key: _key, name: _name, ...rest } = toDocumentItem(definition as unknown as AnyDefinition, catalogue);
    return rest;
  };
  const keep = async (done: string, next: Bodies[Kind] = body): Promise<boolean> => {
    const key = isNew ? keyFrom(name, new Set(catalogue.every(kind).map((each) => each.key))) : itemKey;
    const stillHere = watchPage();
    const kept = await save({ [DOCUMENT_SECTIONS[kind]]: [{ key, name: name.trim() || key, ...written(next) }] }, done);
    // Whoever has gone elsewhere meanwhile is not pulled back.
    if (kept && isNew && stillHere()) await navigate(`${address}/${key}`, { replace: true, state: KEPT });
    return kept;
  };
  const differs = name !== saved.name || JSON.stringify(written()) !== JSON.stringify(written(saved.body));
  const changed = isNew || differs;
  useUnsaved(differs && !saving);
  const discard = (): void => {
    setName(saved.name);
    setBody(saved.body);
  };
  const restore = (earlierName: string, earlier: Bodies[Kind]): void => {
    setName(earlierName);
    setBody(earlier);
  };
  const writtenSaved = (): Record<string, unknown> => written(saved.body);
  return { name, body, isNew, changed, saving, refused, setName, setBody, discard, restore, written, writtenSaved, keep };
}
