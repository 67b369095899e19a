import { type ContactView, type ContactWrite, type LedgerRow } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';

/** What was done by hand, so that it can be undone: its words, and the effect by which it stands in the ledger. */
interface Act {
  readonly words: string;
  readonly kind: string;
  /** the key of the tag or the field */
  readonly thing?: string;
}
const LOOKED_THROUGH = 30;

/** Writes to one contact, and says what was wrong where it is refused. Answers whether it was taken. What is said of an act can be undone for a while. */
export function useContactWrite(contact: Pick<ContactView, 'id'>): (change: Partial<ContactWrite>, act?: Act) => Promise<boolean> {
  const [put] = api.usePutContactsMutation();
  const [takeBack] = api.useTakeBackMutation();
  const { data: session } = api.useSessionQuery();
  const dispatch = useAppDispatch();
  const undo = async ({ kind, thing }: Act): Promise<void> => {
    const isIt = (row: LedgerRow): boolean =>
      row.kind === kind &&
      (thing === undefined || row.thing === thing) &&
      row.cause.kind === 'person' &&
      row.cause.ref === session?.person.email;
    const asked = { id: contact.id, limit: LOOKED_THROUGH };
    const { data, error } = await dispatch(api.endpoints.contactLedger.initiate(asked, { forceRefetch: true, subscribe: false }));
    const effect = data?.rows.find(isIt)?.id;
    const result = effect === undefined ? undefined : await takeBack({ effect });
    const failed = error ?? result?.error;
    if (failed) dispatch(told({ kind: 'wrong', text: errorMessage(failed) }));
    else if (!result?.data?.effects) dispatch(told({ kind: 'wrong', text: 'It has been changed again since, and stays as it is.' }));
    else dispatch(told({ kind: 'done', text: 'It is as it was before.' }));
  };
  return async (change, act) => {
    const result = await put({ body: { matchBy: 'id', contacts: [{ id: contact.id, ...change }] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (!result.error && !fault) {
      if (act) dispatch(told({ kind: 'done', text: act.words, undo: () => undo(act) }));
      return true;
    }
    dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `Expected ${fault?.expected ?? ''}` }));
    return false;
  };
}
