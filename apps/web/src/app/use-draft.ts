import {
  DOCUMENT_SECTIONS,
  keyFrom,
  toWrittenBody,
  type Bodies,
  type Catalogue,
  type DefinitionKind,
  type WrittenBody,
} from '@eager-sieve/core';
import { useNavigate } from 'react-router';
import { type ToldFault } from './errors';
import { told } from './notices';
import { pendingLine } from './pending-lines';
import { useAppDispatch } from './store';
import { KEPT, useUnsaved, watchPage } from './unsaved';
import { useHistory, type Stepped } from './use-history';
import { useMay } from './use-may';
import { useSave } from './use-save';

export interface Draft<Kind extends DefinitionKind> {
  readonly kind: Kind;
  /** `new`, where it is not kept yet */
  readonly itemKey: string;
  readonly catalogue: Catalogue;
  /** as it is kept */
  readonly saved: { readonly name: string; readonly body: Bodies[Kind] };
  readonly version: number;
  readonly retired: boolean;
  /** whether whoever looks at it may change it, and it is not retired */
  readonly mayWrite: boolean;
  readonly name: string;
  readonly body: Bodies[Kind];
  readonly isNew: boolean;
  /** whether it differs from what is kept, or is not kept yet */
  readonly changed: boolean;
  readonly saving: boolean;
  /** what was wrong with it when it was last to be kept */
  readonly refused: readonly ToldFault[];
  readonly setName: (name: string) => void;
  readonly setBody: (body: Bodies[Kind]) => void;
  readonly discard: () => void;
  /** what was changed is undone step by step, and done again */
  readonly undo: Stepped<unknown>['undo'];
  readonly redo: Stepped<unknown>['redo'];
  /** puts an earlier version into the draft */
  readonly restore: (name: string, body: Bodies[Kind]) => void;
  /** what is kept, as the API takes it */
  readonly writtenSaved: () => WrittenBody<Kind>;
  /** the body as the API takes it, with keys in place of ids */
  readonly written: (body?: Bodies[Kind]) => WrittenBody<Kind>;
  /** keeps it; a new one gets its key from its name, and its page the address that goes with it */
  readonly keep: (done: string, body?: Bodies[Kind]) => Promise<boolean>;
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
}): Draft<Kind> {
  const known = catalogue.find(kind, itemKey);
  const retired = known?.retired ?? false;
  const mayWrite = useMay('definitions:write') && !retired;
  const isNew = itemKey === 'new';
  const { now, put, undo, redo } = useHistory(saved);
  const { name, body } = now;
  const setName = (next: string): void => put((before) => ({ ...before, name: next }), 'name');
  const setBody = (next: Bodies[Kind]): void => put((before) => ({ ...before, body: next }), 'body');
  const [save, saving, refused] = useSave();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const written = (next: Bodies[Kind] = body): WrittenBody<Kind> => toWrittenBody(kind, next, catalogue);
  const keep = async (done: string, next: Bodies[Kind] = body): Promise<boolean> => {
    const waiting = pendingLine();
    if (waiting) {
      dispatch(told({ kind: 'wrong', text: `“${waiting.text}” is typed, and not taken yet. Press Enter behind it, or take it out.` }));
      waiting.input.current?.focus();
      return false;
    }
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
  const discard = (): void => put(() => saved, 'all');
  const restore = (earlierName: string, earlier: Bodies[Kind]): void => put(() => ({ name: earlierName, body: earlier }), 'all');
  const writtenSaved = (): WrittenBody<Kind> => written(saved.body);
  return {
    kind,
    itemKey,
    catalogue,
    saved,
    version: known?.version ?? 0,
    retired,
    mayWrite,
    name,
    body,
    isNew,
    changed,
    saving,
    refused,
    setName,
    setBody,
    discard,
    undo,
    redo,
    restore,
    written,
    writtenSaved,
    keep,
  };
}
