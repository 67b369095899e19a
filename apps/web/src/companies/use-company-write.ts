import { type CompanyWrite } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';

/** Said when it is done, and the way back where there is one. */
interface Done {
  readonly text: string;
  readonly undo?: () => Promise<unknown>;
}

/** Writes to one company, and says what was wrong where it is refused. Answers whether it was taken. */
export function useCompanyWrite(): readonly [write: (company: CompanyWrite, done?: Done) => Promise<boolean>, isWriting: boolean] {
  const [put, { isLoading }] = api.usePutCompaniesMutation();
  const dispatch = useAppDispatch();
  const write = async (company: CompanyWrite, done?: Done): Promise<boolean> => {
    const result = await put({ body: { companies: [company] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (result.error || fault)
      dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `Expected ${fault?.expected ?? ''}` }));
    else if (done) dispatch(told({ kind: 'done', ...done }));
    return !result.error && !fault;
  };
  return [write, isLoading];
}
