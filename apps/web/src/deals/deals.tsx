import { groupedMoney, readFact, showFact, type Catalogue, type FieldBody } from '@eager-sieve/core';
import { type DealView, type DealWrite } from '@eager-sieve/contracts';
import { Fragment, use, useState } from 'react';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { NewFact } from '../contacts/new-fact';
import { FactInput } from '../ui/fact-input';
import { Choice } from '../conditions/lines/inputs';
import { DealHistory } from './deal-history';
import { When } from '../ui/when';
import { Labelled } from '../ui/labelled';
import { ReadOnly } from '../ui/offer';

/** Whose deals these are, as the API names them. */
interface Holder {
  readonly contact?: string;
  readonly company?: string;
}

/** The deals of a contact or of a company: where each stands, moved by picking another stage. */
export function Deals({ deals, catalogue, holder }: { deals: readonly DealView[]; catalogue: Catalogue; holder: Holder }) {
  const [put, { isLoading }] = api.usePutDealsMutation();
  const dispatch = useAppDispatch();
  const save = async (deal: DealWrite): Promise<boolean> => {
    const result = await put({ body: { deals: [deal] } });
    const fault = result.data?.results[0]?.faults?.[0];
    if (result.error || fault)
      dispatch(told({ kind: 'wrong', text: result.error ? errorMessage(result.error) : `Expected ${fault?.expected ?? ''}` }));
    return !result.error && !fault;
  };
  const pipelines = catalogue.all('pipeline');
  const readOnly = use(ReadOnly);
  return (
    <section>
      <h2 className="mb-1.5 text-[14px]">Deals</h2>
      {deals.length === 0 && (
        <p className="quiet">{pipelines.length === 0 ? 'Deals need a pipeline: make one in the settings.' : 'No deal yet.'}</p>
      )}
      {deals.length > 0 && (
        <ul>
          {deals.map((deal) => (
            <DealRow key={deal.id} deal={deal} catalogue={catalogue} onSet={(change) => save({ outsideId: deal.outsideId, ...change })} />
          ))}
        </ul>
      )}
      {pipelines.length > 0 && !readOnly && (
        <NewDeal busy={isLoading} catalogue={catalogue} onMake={(deal) => save({ ...holder, ...deal })} />
      )}
    </section>
  );
}

interface DealRowProps {
  readonly deal: DealView;
  readonly catalogue: Catalogue;
  /** whether it was kept */
  readonly onSet: (change: Omit<DealWrite, 'outsideId'>) => Promise<boolean>;
}

const AMOUNT: FieldBody = { of: 'deal', type: 'money' };

function DealRow({ deal, catalogue, onSet }: DealRowProps) {
  const name = deal.name || deal.outsideId;
  return (
    <li className="border-base-300/60 border-b py-1.5">
      <div className="flex items-baseline justify-between gap-3">
        <b className="min-w-0 font-semibold [overflow-wrap:anywhere]" title={deal.outsideId}>
          {name}
        </b>
        <span className="whitespace-nowrap">
          <FactInput
            body={AMOUNT}
            name={`Amount of ${name}`}
            value={deal.amount ?? undefined}
            shown={deal.amount === null ? undefined : `${groupedMoney(deal.amount)} ${deal.currency}`}
            onSet={(amount) => onSet({ amount: amount as string | null })}
          />
        </span>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
        <Choice
          label={`Stage of ${name}`}
          value={deal.stage}
          choices={(catalogue.find('pipeline', deal.pipeline)?.body.stages ?? []).map((stage) => [stage.key, stage.name])}
          onPick={(stage) => void onSet({ stage })}
        />
        <span className="quiet text-[12.5px]">
          since <When at={deal.moved} />
          {deal.scores.map((score) => ` · score ${score.points}`)}
        </span>
        <DealHistory id={deal.id} name={name} />
      </div>
      <DealFacts deal={deal} catalogue={catalogue} onSet={onSet} />
    </li>
  );
}

/** What is known of a deal beside its stage and amount, by the fields of deals. */
function DealFacts({ deal, catalogue, onSet }: DealRowProps) {
  const readOnly = use(ReadOnly);
  const fields = catalogue.fields().filter(({ body }) => body.of === 'deal');
  const known = fields.filter(({ key }) => key in deal.fields);
  const unknown = fields.filter(({ key }) => !(key in deal.fields));
  const set = (key: string, value: unknown): Promise<boolean> => onSet({ fields: { [key]: value } });
  return (
    <>
      {known.length > 0 && (
        <dl className="mt-1 grid grid-cols-[112px_1fr] gap-y-0.5 text-[12.5px]">
          {known.map(({ key, name, body }) => {
            const read = readFact(body, deal.fields[key], catalogue.workspace);
            return (
              <Fragment key={key}>
                <dt className="quiet">{name}</dt>
                <dd>
                  <FactInput
                    body={body}
                    name={name}
                    value={deal.fields[key]}
                    shown={read.ok && read.value ? showFact(body, read.value.fact, read.value.shown) : String(deal.fields[key])}
                    onSet={(value) => set(key, value)}
                  />
                </dd>
              </Fragment>
            );
          })}
        </dl>
      )}
      {unknown.length > 0 && !readOnly && <NewFact fields={unknown} onSet={set} />}
    </>
  );
}

function NewDeal({
  busy,
  catalogue,
  onMake,
}: {
  busy: boolean;
  catalogue: Catalogue;
  onMake: (deal: { outsideId: string; name: string; pipeline: string; amount?: string }) => Promise<boolean>;
}) {
  const pipelines = catalogue.all('pipeline');
  const [name, setName] = useState('');
  const [amount, setAmount] = useState('');
  const [pipeline, setPipeline] = useState(pipelines[0]?.key ?? '');
  const make = async (): Promise<void> => {
    const outsideId = `deal-${crypto.randomUUID().slice(0, 8)}`;
    if (await onMake({ outsideId, name: name.trim(), pipeline, ...(amount.trim() ? { amount: amount.trim() } : {}) })) {
      setName('');
      setAmount('');
    }
  };
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void make();
      }}
    >
      <Labelled label="New deal">
        <input className="input input-sm w-52" required value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <Labelled label={<>Amount in {catalogue.workspace.currency}</>}>
        <input className="input input-sm w-28" inputMode="decimal" value={amount} onChange={(event) => setAmount(event.target.value)} />
      </Labelled>
      {pipelines.length > 1 && (
        <Choice label="Pipeline" value={pipeline} choices={pipelines.map((each) => [each.key, each.name])} onPick={setPipeline} />
      )}
      <button className="btn btn-sm btn-outline btn-primary" disabled={busy || name.trim() === ''}>
        Add deal
      </button>
    </form>
  );
}
