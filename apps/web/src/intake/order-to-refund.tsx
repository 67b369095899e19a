import { api } from '../app/api';
import { errorMessage, statusOf } from '../app/errors';
import { Loading } from '../ui/states';
import { When } from '../ui/when';
import { type EnteredDetails } from './details-form';

/** What was just ordered has to be worked before it stands here. */
const LOOKED_EVERY_MS = 2_000;
const orderOf = (data: unknown): EnteredDetails => (typeof data === 'object' && data !== null ? (data as EnteredDetails) : {});

/** The orders of somebody that were not refunded yet, one of which is picked: what it was for goes back as it came. */
export function OrderToRefund({
  who,
  value,
  onPick,
}: {
  who: string | undefined;
  value: EnteredDetails;
  onPick: (order: EnteredDetails) => void;
}) {
  const { currentData, error, isFetching } = api.useTimelineQuery(
    { id: who ?? '' },
    { skip: who === undefined, refetchOnMountOrArgChange: true, pollingInterval: LOOKED_EVERY_MS },
  );
  if (who === undefined) return <p className="quiet">Say whose order it was.</p>;
  if (isFetching && !currentData) return <Loading />;
  // Nobody of that address is known.
  if (error && statusOf(error) !== 404)
    return (
      <p role="alert" className="text-error font-medium">
        {errorMessage(error)}
      </p>
    );
  const signals = currentData?.signals ?? [];
  const gone = new Set(signals.filter(({ type }) => type === 'order.refunded').map(({ data }) => orderOf(data)['order']));
  const orders = signals.filter(({ type, data }) => type === 'order.placed' && !gone.has(orderOf(data)['order']));
  if (orders.length === 0) return <p className="quiet">Nothing that they ordered could be refunded. Let them order something first.</p>;
  return (
    <fieldset className="flex flex-col gap-1.5">
      <legend className="quiet mb-1 text-[12.5px]">Which order</legend>
      {orders.map(({ id, time, summary, data }) => (
        <label key={id} className="flex items-center gap-2">
          <input
            type="radio"
            name="order"
            className="radio radio-primary radio-sm"
            checked={value['order'] === orderOf(data)['order']}
            onChange={() => onPick(orderOf(data))}
          />
          <span>
            {summary} <When at={time} className="quiet" />
          </span>
        </label>
      ))}
    </fieldset>
  );
}
