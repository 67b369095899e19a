import { type DefinitionsDocument } from '@eager-sieve/core';
import { api } from './api';
import { wordsOf } from './errors';
import { told } from './notices';
import { useAppDispatch } from './store';

/** Saves a part of the definitions document and says how it went. Nothing that was entered is lost when it is refused. */
export function useSave(): [(document: DefinitionsDocument, done: string) => Promise<boolean>, boolean] {
  const dispatch = useAppDispatch();
  const [put, { isLoading }] = api.usePutDefinitionsMutation();
  const save = async (document: DefinitionsDocument, done: string): Promise<boolean> => {
    try {
      await put(document).unwrap();
      dispatch(told({ kind: 'done', text: done }));
      return true;
    } catch (error) {
      dispatch(told({ kind: 'wrong', text: wordsOf(error) }));
      return false;
    }
  };
  return [save, isLoading];
}
