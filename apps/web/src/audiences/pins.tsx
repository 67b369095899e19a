import { type AudienceBody } from '@eager-sieve/core';
import { type PinView } from '@eager-sieve/contracts';
import { Controller, useForm } from 'react-hook-form';
import { Link } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { CutShort, Empty, Loading, Wrong } from '../ui/states';
import { DayInput } from '../ui/day-input';
import { exactTime, relative, When } from '../ui/when';
import { Labelled } from '../ui/labelled';
import { Offer } from '../ui/offer';
import { Wide } from '../ui/wide';

/** Who is always in an audience or never, because somebody said so; and a form to say so of one more. */
export function Pins({ audienceKey, of }: { audienceKey: string; of: AudienceBody['of'] }) {
  const { data, error, refetch } = api.usePinsQuery({ key: audienceKey });
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  return (
    <>
      <Offer needs="contacts:write">
        <PinForm audienceKey={audienceKey} of={of} />
      </Offer>
      {data.pins.length === 0 ? (
        <Empty title="Nobody is pinned">
          The conditions decide about everyone. A pin keeps someone in or out whatever they say, with a reason and, if you like, an end.
        </Empty>
      ) : (
        <Wide>
          <table className="table w-full min-w-[620px] table-fixed">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="h-6.5 w-[22%]">{of === 'company' ? 'Company' : 'Contact'}</th>
                <th className="w-[10%]">Pinned</th>
                <th>Because</th>
                <th className="w-[12%]">Until</th>
                <th className="w-[22%]">By</th>
                <th className="w-[8%]">
                  <span className="sr-only">Take away</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data.pins.map((pin) => (
                <PinRow key={pin.subject} pin={pin} audienceKey={audienceKey} of={of} />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      <CutShort shown={data.pins.length} of={data.all} how="the latest of them; the API clears any" />
    </>
  );
}

function PinRow({ pin, audienceKey, of }: { pin: PinView; audienceKey: string; of: AudienceBody['of'] }) {
  const [clear, { isLoading }] = api.useClearPinMutation();
  const dispatch = useAppDispatch();
  const takeAway = async (): Promise<void> => {
    const result = await clear({ key: audienceKey, subject: pin.subject });
    dispatch(
      told(
        result.error
          ? { kind: 'wrong', text: errorMessage(result.error) }
          : { kind: 'done', text: `${pin.name} is pinned no more: the conditions decide.` },
      ),
    );
  };
  return (
    <tr className="border-base-300/60 border-b align-top [&>td]:py-1.75">
      <td className="truncate pr-2">
        <Link className="hover:underline" to={`${of === 'company' ? '/people/companies' : '/people'}/${pin.subject}`}>
          {pin.name}
        </Link>
      </td>
      <td className={pin.in ? 'text-success' : 'text-error'}>{pin.in ? 'always in' : 'never in'}</td>
      <td className="pr-3 wrap-break-word">{pin.reason}</td>
      <td className="quiet">{pin.until ? <span title={exactTime(pin.until)}>{relative(pin.until)}</span> : 'taken away'}</td>
      <td className="quiet pr-2">
        <span className="block truncate" title={pin.by}>
          {pin.by}
        </span>
        <When at={pin.since} />
      </td>
      <td className="text-right">
        <Offer needs="contacts:write">
          <button type="button" className="quiet cursor-pointer hover:underline" disabled={isLoading} onClick={() => void takeAway()}>
            unpin
          </button>
        </Offer>
      </td>
    </tr>
  );
}

interface Written {
  subject: string;
  is: 'in' | 'out';
  reason: string;
  until: string;
}
const BLANK: Written = { subject: '', is: 'in', reason: '', until: '' };

function PinForm({ audienceKey, of }: { audienceKey: string; of: AudienceBody['of'] }) {
  const { control, register, handleSubmit, reset } = useForm<Written>({ defaultValues: BLANK });
  const [put, { isLoading, error }] = api.usePutPinMutation();
  const pin = async ({ subject, is, reason, until }: Written): Promise<void> => {
    const result = await put({
      key: audienceKey,
      body: { subject: subject.trim(), in: is === 'in', reason, until: until === '' ? null : until },
    });
    // What was written stays where it was refused.
    if (!result.error) reset(BLANK);
  };
  return (
    <form
      className="mt-2 mb-3 flex flex-wrap items-end gap-2.5"
      onSubmit={(event) => void handleSubmit(pin)(event)}
      aria-label="Pin someone"
    >
      <Labelled label={of === 'company' ? 'Outside id of a company' : 'Email address'}>
        <input className="input input-sm w-60" required type={of === 'company' ? 'text' : 'email'} {...register('subject')} />
      </Labelled>
      <Labelled label="is">
        <select className="select select-sm w-auto" {...register('is')}>
          <option value="in">always in</option>
          <option value="out">never in</option>
        </select>
      </Labelled>
      <Labelled label="because" className="min-w-48 flex-1">
        <input className="input input-sm w-full" required maxLength={300} {...register('reason')} />
      </Labelled>
      <Labelled label="until (left empty: until it is taken away)">
        <Controller
          control={control}
          name="until"
          render={({ field }) => <DayInput label="until" value={field.value} onChange={field.onChange} />}
        />
      </Labelled>
      <button className="btn btn-sm btn-outline btn-primary" disabled={isLoading}>
        Pin
      </button>
      {error && (
        <p role="alert" className="text-error w-full text-[13px]">
          {errorMessage(error)}
        </p>
      )}
    </form>
  );
}
