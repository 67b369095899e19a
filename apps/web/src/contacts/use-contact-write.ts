import { type ContactView, type ContactWrite } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';

/** Writes to one contact, and says what was wrong where it is refused. Answers whether it was taken. */
export function useContactWrite(contact: Pick<ContactView, 'id'>): (change: Partial<ContactWrite>) => Promise<boolean> {
  const [put] = api.usePutContactsMutation();
  const dispatch = useAppDispatch();
  return async (change) => {
    const result = await put({ body: { matchBy: 'id', contacts: [{ id: contact.id, ...change }] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (!result.error && !fault) return true;
    dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `Expected ${fault?.expected ?? ''}` }));
    return false;
  };
}
