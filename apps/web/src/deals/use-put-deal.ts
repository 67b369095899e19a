import { type DealWrite } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';

/** Writes one deal, and says so where that is refused. It comes back whether it was done. */
export function usePutDeal(): (deal: DealWrite) => Promise<boolean> {
  const [put] = api.usePutDealsMutation();
  const dispatch = useAppDispatch();
  return async (deal) => {
    const result = await put({ body: { deals: [deal] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (!result.error && !fault) return true;
    dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `Expected ${fault?.expected ?? ''}` }));
    return false;
  };
}
