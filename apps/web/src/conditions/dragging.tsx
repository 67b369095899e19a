import {
  DndContext,
  DragOverlay,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragMoveEvent,
} from '@dnd-kit/core';
import { isGroup, type Condition } from '@eager-sieve/core';
import { GripVertical } from 'lucide-react';
import { createContext, use, useState, type ReactNode } from 'react';
import { at, type Drop, type Path } from './tree';
import { type OutlineModel } from './use-outline';

/** Over which row something is held, and what letting it go there would do. */
interface Over {
  readonly row: string;
  readonly how: Drop;
}
const Held = createContext<Over | null>(null);

const pathOf = (id: unknown): Path => String(id).split('.').map(Number);

/** How deep inside a row the pointer is: its upper part is before the row, its lower part after it, and what is between is the row itself. */
function dropOf({ over, activatorEvent, delta }: DragMoveEvent, condition: Condition | undefined): Drop | undefined {
  if (!over || !condition) return undefined;
  const y = (activatorEvent as PointerEvent).clientY + delta.y;
  const part = (y - over.rect.top) / over.rect.height;
  if (part < 0.3) return 'before';
  // Below the head of a group its own lines begin.
  return part > 0.7 && !isGroup(condition) ? 'after' : 'on';
}

/** Lets the rows of an outline be dragged by their grips. By keyboard they are moved where they stand. */
export function Dragging({
  outline,
  wordsOf,
  children,
}: {
  outline: OutlineModel;
  wordsOf: (condition: Condition) => string;
  children: ReactNode;
}) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const [held, setHeld] = useState<Condition>();
  const [over, setOver] = useState<Over | null>(null);
  const lookAt = (event: DragMoveEvent): Over | null => {
    const how = dropOf(event, event.over ? at(outline.value, pathOf(event.over.id)) : undefined);
    return event.over && how ? { row: String(event.over.id), how } : null;
  };
  const end = (): void => {
    setHeld(undefined);
    setOver(null);
  };
  return (
    <DndContext
      sensors={sensors}
      onDragStart={({ active }) => (outline.close(), setHeld(at(outline.value, pathOf(active.id))))}
      onDragMove={(event) => setOver(lookAt(event))}
      onDragEnd={(event) => {
        const there = lookAt(event);
        end();
        if (there) outline.drop(pathOf(event.active.id), pathOf(there.row), there.how);
      }}
      onDragCancel={end}
      // What moves says so in the outline's own words, with the mouse and with the keys.
      accessibility={{ announcements: SILENT }}
    >
      <Held value={over}>{children}</Held>
      <DragOverlay dropAnimation={null}>
        {held && <div className="panel w-fit max-w-[520px] truncate px-3 py-1 shadow-sm">{wordsOf(held)}</div>}
      </DragOverlay>
    </DndContext>
  );
}
const nothing = (): undefined => undefined;
const SILENT = { onDragStart: nothing, onDragOver: nothing, onDragEnd: nothing, onDragCancel: nothing };

const MARKS: Readonly<Record<Drop, string>> = {
  before: 'shadow-[inset_0_2px_0_var(--color-primary)]',
  after: 'shadow-[inset_0_-2px_0_var(--color-primary)]',
  on: 'bg-glow outline-2 -outline-offset-2 outline-primary',
};

/** A row that can be dragged, and on which others can be let go. */
export function useRow(path: Path, readOnly: boolean) {
  const id = path.join('.');
  const { setNodeRef: setGrip, listeners, isDragging } = useDraggable({ id, disabled: readOnly });
  const { setNodeRef: setNode } = useDroppable({ id, disabled: readOnly });
  const over = use(Held);
  const mark = over?.row === id && !isDragging ? MARKS[over.how] : '';
  return {
    setNode,
    className: isDragging ? 'opacity-50' : mark,
    /** Only for the pointer: with the keyboard a row is moved by its own keys, which it says. */
    grip: readOnly ? null : (
      <span
        ref={setGrip}
        {...listeners}
        aria-hidden
        data-grip={id}
        className="quiet absolute top-1.75 left-0.5 cursor-grab touch-none opacity-0 group-hover:opacity-100"
      >
        <GripVertical size={15} />
      </span>
    ),
  };
}
