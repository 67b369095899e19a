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
  /** of a stage: told instead of saying it, where the contact is held back; says whether that was seen to */
  readonly onKept?: (words: string) => boolean;
}
const LOOKED_THROUGH = 30;

/** Writes to one contact, and says what was wrong where it is refused. Answers whether it was taken. What is said of an act can be undone for a while. */
export function useContactWrite(contact: Pick<ContactView, 'id'>): (change: Partial<ContactWrite>, act?: Act) => Promise<boolean> {
  const [put] = api.usePutContactsMutation();
  const [takeBack] = api.useTakeBackMutation();
  const { data: session } = api.useSessionQuery();
  const dispatch = useAppDispatch();
  const ledger = (limit: number) =>
    dispatch(api.endpoints.contactLedger.initiate({ id: contact.id, limit }, { forceRefetch: true, subscribe: false }));
  /** @param before the newest effect before the act: an older one like it is another act */
  const undo = async ({ kind, thing }: Act, before: number): Promise<void> => {
    const isIt = (row: LedgerRow): boolean =>
      row.id > before &&
      row.kind === kind &&
      (thing === undefined || row.thing === thing) &&
      row.cause.kind === 'person' &&
      row.cause.ref === session?.person.email;
    const { data, error } = await ledger(LOOKED_THROUGH);
    const effect = data?.rows.find(isIt)?.id;
    const result = effect === undefined ? undefined : await takeBack({ effect });
    const failed = error ?? result?.error;
    if (failed) dispatch(told({ kind: 'wrong', text: errorMessage(failed) }));
    else if (!result?.data?.effects) dispatch(told({ kind: 'wrong', text: 'It has been changed again since, and stays as it is.' }));
    else dispatch(told({ kind: 'done', text: 'It is as it was before.' }));
  };
  /** Why the stage did not change, where the ladder holds the contact back. */
  const keptAsItIs = async (before: number): Promise<string | undefined> => {
    const { data } = await ledger(LOOKED_THROUGH);
    return data?.rows.find((row) => row.id > before && row.kind === 'kept')?.words;
  };
  return async (change, act) => {
    const newest = act ? await ledger(1) : undefined;
    const result = await put({ body: { matchBy: 'id', contacts: [{ id: contact.id, ...change }] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (!result.error && !fault) {
      const before = newest?.data && (newest.data.rows[0]?.id ?? 0);
      const kept = act?.kind === 'stage' && before !== undefined ? await keptAsItIs(before) : undefined;
      if (kept && act?.onKept?.(kept)) return false;
      if (kept) dispatch(told({ kind: 'wrong', text: kept }));
      else if (act) dispatch(told({ kind: 'done', text: act.words, ...(before === undefined ? {} : { undo: () => undo(act, before) }) }));
      return true;
    }
    dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `Expected ${fault?.expected ?? ''}` }));
    return false;
  };
}
