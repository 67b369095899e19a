import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { arrayMove, SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { columnId, columnWords, type Catalogue, type Column, type TableOf } from '@eager-sieve/core';
import { GripVertical, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { Dialog } from '../../ui/dialog';
import { lookedFor, measured, measuresOf, offeredColumns } from './offered';
import { firstColumns, type LaidOut } from './view';

interface ColumnsDialogProps {
  readonly of: TableOf;
  readonly columns: readonly LaidOut[];
  readonly catalogue: Catalogue;
  readonly onChange: (columns: readonly LaidOut[]) => void;
  readonly onClose: () => void;
}

/** Which columns a table has, and in which order. The table behind follows at once. */
export function ColumnsDialog({ of, columns, catalogue, onChange, onClose }: ColumnsDialogProps) {
  const add = (column: Column): void => {
    if (!columns.some((each) => columnId(each.column) === columnId(column))) onChange([...columns, { column }]);
  };
  return (
    <Dialog open wide title="Columns" onClose={onClose}>
      <div className="grid grid-cols-2 gap-6 max-sm:grid-cols-1">
        <section aria-label="In the table">
          <h3 className="mb-1 text-[14px]">In the table</h3>
          <p className="quiet mb-2 text-[12.5px]">
            The name always comes first. Drag the others by their grips, or move them with Space and the arrows.
          </p>
          <Chosen {...{ of, columns, catalogue, onChange }} />
          {columns.length === 0 && <p className="quiet">Only the name.</p>}
          <button type="button" className="btn btn-xs mt-2" onClick={() => onChange(firstColumns(catalogue, of))}>
            As it was at first
          </button>
        </section>
        <section aria-label="Add a column">
          <h3 className="mb-1 text-[14px]">Add a column</h3>
          {of === 'contact' && <Counted catalogue={catalogue} onAdd={add} />}
          <Offered of={of} taken={columns.map(({ column }) => column)} catalogue={catalogue} onAdd={add} />
        </section>
      </div>
      <button type="button" className="btn btn-sm btn-primary mt-4" onClick={onClose}>
        Done
      </button>
    </Dialog>
  );
}

function Chosen({ of, columns, catalogue, onChange }: Omit<ColumnsDialogProps, 'onClose'>) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = columns.map(({ column }) => columnId(column));
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        if (over && over.id !== active.id) onChange(arrayMove([...columns], ids.indexOf(String(active.id)), ids.indexOf(String(over.id))));
      }}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <ul className="flex flex-col">
          {columns.map((each, index) => (
            <ChosenRow
              key={ids[index]}
              id={ids[index] ?? ''}
              words={columnWords(each.column, catalogue, of)}
              isPinned={each.pinned === true}
              onPin={(pinned) => onChange(columns.map((other) => (other === each ? { ...each, pinned } : other)))}
              onRemove={() => onChange(columns.filter((other) => other !== each))}
            />
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  );
}

interface ChosenRowProps {
  readonly id: string;
  readonly words: string;
  readonly isPinned: boolean;
  readonly onPin: (pinned: boolean) => void;
  readonly onRemove: () => void;
}

function ChosenRow({ id, words, isPinned, onPin, onRemove }: ChosenRowProps) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id });
  return (
    <li
      ref={setNodeRef}
      className="border-base-300/60 flex min-h-8 items-center gap-2 border-b"
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
    >
      <button
        type="button"
        className="quiet flex h-[24px] w-[24px] cursor-grab touch-none items-center"
        {...attributes}
        {...listeners}
        aria-label={`Move ${words}`}
      >
        <GripVertical size={15} aria-hidden />
      </button>
      <span className="min-w-0 flex-1 truncate" title={words}>
        {words}
      </span>
      <label className="quiet flex items-center gap-1.5 text-[12px] whitespace-nowrap">
        <input
          type="checkbox"
          className="checkbox checkbox-primary checkbox-xs"
          checked={isPinned}
          onChange={(event) => onPin(event.target.checked)}
        />
        stays in sight
      </label>
      <button
        type="button"
        className="btn btn-ghost btn-xs btn-square h-[24px] w-[24px]"
        aria-label={`Take ${words} out`}
        onClick={onRemove}
      >
        <X size={14} aria-hidden />
      </button>
    </li>
  );
}

/** Columns that are counted out of signals: orders in the last 90 days, what was spent this year. */
function Counted({ catalogue, onAdd }: { catalogue: Catalogue; onAdd: (column: Column) => void }) {
  const types = catalogue.all('signalType');
  const [signal, setSignal] = useState(types.find(({ key }) => key === 'order.placed')?.key ?? types[0]?.key ?? '');
  const [what, setWhat] = useState('times');
  const [days, setDays] = useState('90');
  const measures = measuresOf(signal, catalogue);
  const isDays = days === '' || (Number.isInteger(Number(days)) && Number(days) > 0 && Number(days) <= 36_500);
  return (
    <form
      className="panel mb-3 flex flex-wrap items-center gap-2 px-3 py-2"
      aria-label="A column that is counted"
      onSubmit={(event) => {
        event.preventDefault();
        onAdd(measured(signal, what, days === '' ? undefined : Number(days)));
      }}
    >
      <select
        className="select select-sm w-auto"
        aria-label="Of which signals"
        value={signal}
        onChange={(event) => {
          setSignal(event.target.value);
          setWhat('times');
        }}
      >
        {types.map(({ key, name }) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>
      <select
        className="select select-sm w-auto"
        aria-label="What is counted"
        value={what}
        onChange={(event) => setWhat(event.target.value)}
      >
        {measures.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      <label className="flex items-center gap-1.5">
        in the last
        <input
          className="input input-sm w-18"
          inputMode="numeric"
          aria-label="Days"
          placeholder="all"
          value={days}
          onChange={(event) => setDays(event.target.value.trim())}
        />
        days
      </label>
      <button className="btn btn-xs" disabled={!isDays || signal === ''}>
        Add
      </button>
    </form>
  );
}

function Offered({
  of,
  taken,
  catalogue,
  onAdd,
}: {
  of: TableOf;
  taken: readonly Column[];
  catalogue: Catalogue;
  onAdd: (column: Column) => void;
}) {
  const [search, setSearch] = useState('');
  const groups = useMemo(() => offeredColumns(catalogue, of), [catalogue, of]);
  const found = lookedFor(groups, search, taken);
  return (
    <>
      <input
        className="input input-sm mb-2 w-full"
        type="search"
        aria-label="Search for a column"
        placeholder={of === 'company' ? 'a fact, a score, an audience …' : 'a fact, a score, a family of tags …'}
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      <div className="max-h-[38vh] overflow-y-auto" tabIndex={0} role="group" aria-label="Columns there are">
        {found.map(({ title, columns }) => (
          <div key={title} className="mb-2">
            <h4 className="quiet text-[12px] font-medium">{title}</h4>
            <ul className="flex flex-wrap gap-1.5">
              {columns.map(({ column, words }) => (
                <li key={columnId(column)}>
                  <button type="button" className="btn btn-xs h-auto min-h-[24px] text-left" onClick={() => onAdd(column)}>
                    {words}
                  </button>
                </li>
              ))}
            </ul>
          </div>
        ))}
        {found.length === 0 && <p className="quiet">No other column goes by “{search}”.</p>}
      </div>
    </>
  );
}
