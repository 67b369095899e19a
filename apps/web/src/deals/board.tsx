import { DndContext, DragOverlay, MouseSensor, TouchSensor, useDraggable, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
import { groupedMoney, type PipelineBody } from '@eager-sieve/core';
import { type DealBoard } from '@eager-sieve/contracts';
import { useRef, useState, type KeyboardEvent } from 'react';
import { Link, useSearchParams } from 'react-router';
import { api } from '../app/api';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { CompanyLink } from '../ui/company-link';
import { PeoplePlaces } from '../contacts/people-places';
import { Choice } from '../conditions/lines/inputs';
import { count } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading, Wrong } from '../ui/states';
import { Tabs } from '../ui/tabs';
import { When } from '../ui/when';
import { ClosesWords } from './expected-close';
import { DealTable } from './deal-table';
import { nameOf, useDealMoves } from './use-deal-moves';

type Deal = DealBoard['deals'][number];
type Stage = PipelineBody['stages'][number];
type Move = (deal: Deal, to: string) => void;

/** The deals of a pipeline on a board, each stage a column, moved by drawing them or with Alt and the arrows; or as a table. */
export default function DealBoardPage() {
  const catalogue = useCatalogue();
  const [search, setSearch] = useSearchParams();
  const pipelines = catalogue?.all('pipeline') ?? [];
  const pipeline = pipelines.find(({ key }) => key === search.get('pipeline')) ?? pipelines[0];
  const asTable = search.get('show') === 'table';
  const board = api.useDealBoardQuery({ pipeline: pipeline?.key ?? '' }, { skip: !pipeline });
  if (!catalogue) return <Loading />;
  if (!pipeline)
    return (
      <Page title="Deals">
        <PeoplePlaces />
        <Empty title="No pipeline yet">
          Deals go through the stages of a pipeline.{' '}
          <Link className="leads" to="/settings/stages">
            Make one in the settings
          </Link>
        </Empty>
      </Page>
    );
  const open = pipeline.body.stages.filter(({ outcome }) => outcome === undefined).map(({ key }) => key);
  return (
    <Page
      fitted
      title={
        <>
          Deals: <em className="text-primary not-italic">{pipeline.name}</em>
        </>
      }
      sentence={board.data && inHand(board.data, open)}
      actions={
        pipelines.length > 1 && (
          <Choice
            label="Pipeline"
            value={pipeline.key}
            choices={pipelines.map(({ key, name }) => [key, name])}
            onPick={(key) => setSearch({ pipeline: key, ...(asTable ? { show: 'table' } : {}) }, { replace: true })}
          />
        )
      }
    >
      <PeoplePlaces />
      <div className="mb-2">
        <Tabs
          label="Board or table"
          tabs={[
            { id: 'board', words: 'Board' },
            { id: 'table', words: 'Table' },
          ]}
          open={asTable ? 'table' : 'board'}
          onOpen={(show) => setSearch({ pipeline: pipeline.key, ...(show === 'table' ? { show } : {}) }, { replace: true })}
        />
      </div>
      {board.error ? (
        <Wrong error={board.error} again={() => void board.refetch()} />
      ) : !board.data ? (
        <Loading />
      ) : (
        <Shown key={pipeline.key} asTable={asTable} pipeline={pipeline.key} board={board.data} stages={pipeline.body.stages} />
      )}
    </Page>
  );
}

function Shown({ asTable, pipeline, ...props }: BoardProps & { readonly asTable: boolean; readonly pipeline: string }) {
  return asTable ? <DealTable pipeline={pipeline} stages={props.stages} /> : <Board {...props} />;
}

function inHand({ stages, currency }: DealBoard, open: readonly string[]): string {
  const still = stages.filter(({ key }) => open.includes(key));
  const deals = still.reduce((sum, stage) => sum + stage.deals, 0);
  const amount = still.reduce((sum, stage) => sum + Number(stage.amount), 0);
  const places = stages[0]?.amount.split('.')[1]?.length ?? 0;
  return deals === 0
    ? 'No deal is open.'
    : `${count(deals)} ${deals === 1 ? 'deal is' : 'deals are'} open, worth ${groupedMoney(amount.toFixed(places))} ${currency} together.`;
}

interface BoardProps {
  readonly board: DealBoard;
  readonly stages: readonly Stage[];
}

function Board({ board, stages }: BoardProps) {
  const mayMove = useMay('contacts:write');
  const [held, setHeld] = useState<Deal>();
  // A finger holds a card for a moment before it is drawn: otherwise it scrolls.
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 4 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 250, tolerance: 6 } }),
  );
  const holder = useRef<HTMLDivElement>(null);
  const { moved, move } = useDealMoves(stages, (deal) => holder.current?.querySelector<HTMLElement>(`[data-deal="${deal.id}"]`)?.focus());
  const deals = board.deals.map((deal) => ({ ...deal, stage: moved.get(deal.id) ?? deal.stage }));
  return (
    <DndContext
      sensors={sensors}
      onDragStart={({ active }) => setHeld(deals.find(({ id }) => id === active.id))}
      onDragCancel={() => setHeld(undefined)}
      onDragEnd={({ over }) => {
        if (held && over) move(held, String(over.id));
        setHeld(undefined);
      }}
    >
      <div ref={holder} className="flex min-h-72 flex-1 gap-3 overflow-x-auto pb-1" tabIndex={0} role="group" aria-label="Board">
        {stages.map((stage, index) => (
          <StageColumn
            key={stage.key}
            stage={stage}
            deals={deals.filter((deal) => deal.stage === stage.key)}
            sum={board.stages.find(({ key }) => key === stage.key)}
            currency={board.currency}
            mayMove={mayMove}
            stages={stages}
            onMove={move}
            before={stages[index - 1]?.key}
            after={stages[index + 1]?.key}
          />
        ))}
      </div>
      <DragOverlay dropAnimation={null}>
        {held && <div className="panel px-3 py-1.5 font-semibold shadow-sm">{nameOf(held)}</div>}
      </DragOverlay>
    </DndContext>
  );
}

interface StageColumnProps {
  readonly stage: Stage;
  readonly deals: readonly Deal[];
  readonly sum: DealBoard['stages'][number] | undefined;
  readonly currency: string;
  readonly mayMove: boolean;
  readonly stages: readonly Stage[];
  readonly onMove: Move;
  readonly before: string | undefined;
  readonly after: string | undefined;
}

function StageColumn({ stage, deals, sum, currency, onMove, before, after, ...rest }: StageColumnProps) {
  const { setNodeRef, isOver } = useDroppable({ id: stage.key });
  const all = sum?.deals ?? 0;
  return (
    <section
      ref={setNodeRef}
      aria-label={stage.name}
      className={`border-base-300 flex min-h-0 w-64 flex-none flex-col rounded-md border ${isOver ? 'bg-glow' : ''}`}
    >
      <header className="border-base-300 border-b px-3 py-1.5">
        <h2 className="text-[14px]">
          {stage.name} {stage.outcome && stage.outcome !== stage.name && <span className="quiet font-normal">({stage.outcome})</span>}
        </h2>
        <p className="quiet text-[12.5px]">
          {count(all)} {all === 1 ? 'deal' : 'deals'} · {groupedMoney(sum?.amount ?? '0')} {currency}
        </p>
      </header>
      <ul className="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto p-2" aria-label={`Deals at ${stage.name}`} tabIndex={0}>
        {deals.map((deal) => (
          <DealCard
            key={deal.id}
            deal={deal}
            currency={currency}
            {...rest}
            onMove={onMove}
            onStep={(back) => {
              const to = back ? before : after;
              if (to !== undefined) onMove(deal, to);
            }}
          />
        ))}
        {all > deals.length && <li className="quiet px-1 text-[12.5px]">and {count(all - deals.length)} more that moved here earlier</li>}
      </ul>
    </section>
  );
}

interface DealCardProps extends Pick<StageColumnProps, 'currency' | 'mayMove' | 'stages' | 'onMove'> {
  readonly deal: Deal;
  readonly onStep: (back: boolean) => void;
}

function DealCard({ deal, currency, mayMove, stages, onMove, onStep }: DealCardProps) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: deal.id, disabled: !mayMove });
  const pressed = (event: KeyboardEvent): void => {
    if (!mayMove || !event.altKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return;
    event.preventDefault();
    onStep(event.key === 'ArrowLeft');
  };
  return (
    <li
      ref={setNodeRef}
      data-deal={deal.id}
      tabIndex={0}
      aria-label={nameOf(deal)}
      aria-keyshortcuts="Alt+ArrowLeft Alt+ArrowRight"
      className={`bg-base-100 border-base-300 rounded-md border px-2.5 py-1.5 ${mayMove ? 'cursor-grab touch-manipulation' : ''} ${isDragging ? 'opacity-50' : ''}`}
      {...listeners}
      onKeyDown={pressed}
    >
      <div className="flex items-baseline justify-between gap-2">
        <b className="min-w-0 font-semibold [overflow-wrap:anywhere]">{nameOf(deal)}</b>
        <span className="whitespace-nowrap">{deal.amount === null ? '' : `${groupedMoney(deal.amount)} ${currency}`}</span>
      </div>
      <p className="text-[12.5px] [overflow-wrap:anywhere]">
        {deal.contact && (
          <Link className="leads" to={`/people/${deal.contact}`}>
            {deal.contactName}
          </Link>
        )}
        {deal.contact && deal.company && ' · '}
        {deal.company && <CompanyLink id={deal.company} name={deal.companyName ?? ''} />}
      </p>
      <ClosesWords deal={deal} isOpen={stages.find(({ key }) => key === deal.stage)?.outcome === undefined} />
      {deal.owner && <p className="quiet truncate text-[12px]">{deal.owner}</p>}
      <p className="quiet flex items-center justify-between gap-2 text-[12px]">
        <span className="shrink-0 whitespace-nowrap">
          here since <When at={deal.moved} />
        </span>
        {mayMove && (
          <select
            className="select select-ghost select-xs w-24 min-w-0 shrink ps-1 pe-5 text-[12px]"
            aria-label={`Stage of ${nameOf(deal)}`}
            value={deal.stage}
            onMouseDown={(event) => event.stopPropagation()}
            onTouchStart={(event) => event.stopPropagation()}
            onChange={(event) => onMove(deal, event.target.value)}
          >
            {stages.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        )}
      </p>
    </li>
  );
}
