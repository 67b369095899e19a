import { groupedMoney, type PipelineBody } from '@eager-sieve/core';
import { type DealRow, type DealSort } from '@eager-sieve/contracts';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { About } from '../ui/about';
import { CompanyLink } from '../ui/company-link';
import { OfferCall, ReadOnly } from '../ui/offer';
import { Empty, Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Wide } from '../ui/wide';
import { ClosesInput } from './expected-close';
import { nameOf, useDealMoves } from './use-deal-moves';

type Stages = Readonly<PipelineBody['stages']>;
/** The columns with what each sorts by; the first click on one of words goes from the first letter, on one of days from the next to come. */
const COLUMNS: readonly (readonly [sort: DealSort, words: string, width: string])[] = [
  ['name', 'Deal', 'w-[18%]'],
  ['stage', 'Stage', 'w-[14%]'],
  ['amount', 'Amount', 'w-[12%]'],
  ['closes', 'Expected close', 'w-[13%]'],
  ['contact', 'Of whom', 'w-[18%]'],
  ['owner', 'Owner', 'w-[14%]'],
  ['moved', 'Here since', ''],
];
const WORDS: ReadonlySet<DealSort> = new Set(['name', 'contact', 'owner', 'stage', 'closes']);

const FILES = [
  ['csv', 'As CSV'],
  ['ndjson', 'As NDJSON'],
] as const;
function fileAddress(pipeline: string, { stage, ...asked }: Readonly<Record<'sort' | 'up' | 'stage' | 'format', string>>): string {
  const query = new URLSearchParams({ ...asked, ...(stage === '' ? {} : { stage }) });
  return `/api/app/pipelines/${encodeURIComponent(pipeline)}/deals/file?${query.toString()}`;
}

interface DealTableProps {
  readonly pipeline: string;
  readonly stages: Stages;
}

/** The deals of a pipeline as a table, sorted by any of its columns. */
export function DealTable({ pipeline, stages }: DealTableProps) {
  const { moved, move } = useDealMoves(stages);
  const [{ sort, up }, setOrder] = useState<{ readonly sort: DealSort; readonly up: boolean }>({ sort: 'moved', up: false });
  const [stage, setStage] = useState('');
  const list = api.useDealListInfiniteQuery({ pipeline, sort, up: up ? 'true' : 'false', stage });
  const deals = list.data?.pages.flatMap((page) => page.deals) ?? [];
  if (list.error) return <Wrong error={list.error} again={() => void list.refetch()} />;
  if (!list.data) return <Loading />;
  return (
    <>
      <p className="mb-2 flex flex-wrap items-center gap-2">
        <Choice
          label="At which stage"
          value={stage}
          choices={[['', 'at any stage'], ...stages.map(({ key, name }) => [key, name] as const)]}
          onPick={setStage}
        />
        <OfferCall to="dealFile">
          {FILES.map(([format, words]) => (
            <a key={format} className="leads" download href={fileAddress(pipeline, { sort, up: String(up), stage, format })}>
              {words}
            </a>
          ))}
        </OfferCall>
      </p>
      {deals.length === 0 ? (
        <Empty title={stage ? 'No deal is at this stage' : 'No deal yet'}>
          Deals are made on the page of a contact or a company, or come by the API.
        </Empty>
      ) : (
        <Wide>
          <table
            className="table w-full min-w-[900px] table-fixed"
            aria-busy={list.isFetching && !list.isFetchingNextPage}
            aria-label="Deals"
          >
            <thead>
              <tr className="quiet text-left text-[12px]">
                {COLUMNS.map(([by, words, width]) => (
                  <th key={by} className={`h-7 pr-2.5 ${width}`} aria-sort={by === sort ? (up ? 'ascending' : 'descending') : undefined}>
                    <button
                      type="button"
                      className="flex min-h-[24px] w-full items-center gap-1 text-left font-medium"
                      onClick={() => setOrder({ sort: by, up: by === sort ? !up : WORDS.has(by) })}
                    >
                      {words}
                      {by === sort &&
                        (up ? (
                          <ArrowUp size={12} aria-hidden className="text-primary" />
                        ) : (
                          <ArrowDown size={12} aria-hidden className="text-primary" />
                        ))}
                    </button>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {deals.map((deal) => (
                <Row
                  key={deal.id}
                  deal={{ ...deal, stage: moved.get(deal.id) ?? deal.stage }}
                  stages={stages}
                  currency={list.data.pages[0]?.currency ?? ''}
                  onMove={move}
                />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      {list.hasNextPage && (
        <button type="button" className="btn btn-xs my-2 self-start" disabled={list.isFetching} onClick={() => void list.fetchNextPage()}>
          More
        </button>
      )}
    </>
  );
}

interface RowProps extends Pick<DealTableProps, 'stages'> {
  readonly deal: DealRow;
  readonly onMove: (deal: DealRow, to: string) => void;
  readonly currency: string;
}

function Row({ deal, stages, currency, onMove }: RowProps) {
  const readOnly = !useMay('contacts:write');
  const name = nameOf(deal);
  return (
    <tr className="border-base-300/60 h-9 border-b">
      <td className="truncate pr-2.5 font-semibold" title={name}>
        {deal.contact ? (
          <Link className="hover:underline" to={`/people/${deal.contact}`}>
            {name}
          </Link>
        ) : (
          name
        )}
      </td>
      <td className="pr-2.5">
        <ReadOnly value={readOnly}>
          <Choice
            label={`Stage of ${name}`}
            value={deal.stage}
            choices={stages.map((stage) => [stage.key, stage.name])}
            onPick={(to) => onMove(deal, to)}
          />
        </ReadOnly>
      </td>
      <td className="pr-2.5 whitespace-nowrap tabular-nums">
        {deal.amount === null ? <span className="quiet">none</span> : `${groupedMoney(deal.amount)} ${currency}`}
      </td>
      <td className="pr-2.5 whitespace-nowrap">
        <ReadOnly value={readOnly}>
          <ClosesInput deal={deal} isOpen={stages.find(({ key }) => key === deal.stage)?.outcome === undefined} />
        </ReadOnly>
      </td>
      <td className="truncate pr-2.5">
        <About of={{ contact: deal.contact, contactName: deal.contactName }} />
        {deal.contact && deal.company && ' · '}
        {deal.company && <CompanyLink id={deal.company} name={deal.companyName ?? ''} />}
      </td>
      <td className="quiet truncate pr-2.5" title={deal.owner ?? ''}>
        {deal.owner}
      </td>
      <td className="quiet">
        <When at={deal.moved} />
      </td>
    </tr>
  );
}
