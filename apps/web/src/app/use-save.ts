import { type WrittenDocument } from '@eager-sieve/core';
import { api } from './api';
import { useState } from 'react';
import { faultsIn, errorMessage, type ToldFault } from './errors';
import { told } from './notices';
import { useAppDispatch } from './store';

/** Saves a part of the definitions document and says how it went. Nothing that was entered is lost when it is refused. */
export function useSave(): [
  /** @param undo what is saved to undo it, while its notice is there */
  save: (document: WrittenDocument, done: string, undo?: WrittenDocument) => Promise<boolean>,
  saving: boolean,
  refused: readonly ToldFault[],
] {
  const dispatch = useAppDispatch();
  const [put, { isLoading }] = api.usePutDefinitionsMutation();
  const [refused, setRefused] = useState<readonly ToldFault[]>([]);
  const save = async (document: WrittenDocument, done: string, before?: WrittenDocument): Promise<boolean> => {
    try {
      await put({ body: document }).unwrap();
      // Before anything goes on with it, the page knows what was kept.
      await dispatch(api.endpoints.catalogue.initiate(undefined, { forceRefetch: true, subscribe: false }));
      setRefused([]);
      const undo = before && ((): unknown => save(before, 'It is as it was before.'));
      dispatch(told({ kind: 'done', text: done, ...(undo ? { undo } : {}) }));
      return true;
    } catch (error) {
      setRefused(faultsIn(error));
      dispatch(told({ kind: 'wrong', text: errorMessage(error) }));
      return false;
    }
  };
  return [save, isLoading, refused];
}
