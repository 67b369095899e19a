import { DndContext, DragOverlay, PointerSensor, useDraggable, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
import { type Catalogue, type FormBody, type Question } from '@eager-sieve/core';
import { GripVertical } from 'lucide-react';
import { useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { FaultsAt } from '../ui/faults-at';
import { useFocusAfter } from '../ui/focus-after';
import { QuestionEditor } from './question-editor';
import { moved, newQuestion, placeForNew, removed, replaced, TYPE_WORDS } from './question-list';

interface QuestionsProps {
  readonly form: FormBody;
  readonly catalogue: Catalogue;
  readonly onChange: (questions: Question[]) => void;
}

/** The questions of a form, in the order in which they are asked. Alt with an arrow moves one, as its grip does. */
export function Questions({ form, catalogue, onChange }: QuestionsProps) {
  const { questions } = form;
  const list = useRef<HTMLOListElement>(null);
  const [current, setCurrent] = useState<number>();
  const focusAfter = useFocusAfter();
  const focus = (index: number): void =>
    focusAfter(() => list.current?.children[index]?.querySelector<HTMLElement>('input[aria-label="Question"]'));
  const move = (from: number, to: number): void => {
    if (to < 0 || to >= questions.length || from === to) return;
    onChange(moved(questions, from, to));
    setCurrent(to);
    focus(to);
  };
  const add = (type: Question['type']): void => {
    const place = placeForNew(questions, current);
    onChange(questions.toSpliced(place, 0, newQuestion(type, questions)));
    setCurrent(place);
    focus(place);
  };
  return (
    <>
      <Dragged questions={questions} onMove={move}>
        <ol ref={list} className="flex flex-col gap-2.5">
          {questions.map((question, index) => (
            <Row
              key={index}
              index={index}
              isCurrent={index === current}
              onFocus={() => setCurrent(index)}
              onMove={(by) => move(index, index + by)}
            >
              <ToDo index={index} />
              <QuestionEditor
                form={form}
                index={index}
                catalogue={catalogue}
                onChange={(next) => onChange(replaced(questions, index, next))}
              />
              <div className="mt-2 flex gap-2">
                <button type="button" className="btn btn-xs" disabled={index === 0} onClick={() => move(index, index - 1)}>
                  Up
                </button>
                <button
                  type="button"
                  className="btn btn-xs"
                  disabled={index === questions.length - 1}
                  onClick={() => move(index, index + 1)}
                >
                  Down
                </button>
                <button type="button" className="btn btn-xs" onClick={() => onChange(removed(questions, index))}>
                  Remove
                </button>
              </div>
            </Row>
          ))}
        </ol>
      </Dragged>
      <div className="mt-3 flex flex-wrap gap-2" role="group" aria-label="Add a question">
        {TYPE_WORDS.map(([type, words]) => (
          <button key={type} type="button" className="btn btn-xs" onClick={() => add(type)}>
            + {words}
          </button>
        ))}
      </div>
      <p className="quiet mt-1.5 text-[12.5px]">A new question comes below the one that you were in.</p>
    </>
  );
}

/** What is wrong with a question as a whole; its parts say theirs themselves. */
function ToDo({ index }: { index: number }) {
  return <FaultsAt path={['questions', index]} />;
}

/** Lets rows be dragged by their grips. By keyboard they are moved where they stand. */
function Dragged({
  questions,
  onMove,
  children,
}: {
  questions: readonly Question[];
  onMove: (from: number, to: number) => void;
  children: ReactNode;
}) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const [held, setHeld] = useState<number>();
  return (
    <DndContext
      sensors={sensors}
      onDragStart={({ active }) => setHeld(Number(active.id))}
      onDragCancel={() => setHeld(undefined)}
      onDragEnd={({ active, over }) => {
        setHeld(undefined);
        if (over) onMove(Number(active.id), Number(over.id));
      }}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {held !== undefined && (
          <div className="panel w-fit max-w-[420px] truncate px-3 py-1 shadow-sm">
            {questions[held]?.label || 'a question without words'}
          </div>
        )}
      </DragOverlay>
    </DndContext>
  );
}

interface RowProps {
  readonly index: number;
  readonly isCurrent: boolean;
  readonly onFocus: () => void;
  readonly onMove: (by: 1 | -1) => void;
  readonly children: ReactNode;
}

function Row({ index, isCurrent, onFocus, onMove, children }: RowProps) {
  const { setNodeRef: dropRef, isOver } = useDroppable({ id: index });
  const { setNodeRef: dragRef, listeners } = useDraggable({ id: index });
  const pressed = (event: KeyboardEvent): void => {
    if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
    // The choices of a question are moved by the same keys.
    if ((event.target as HTMLElement).closest('[data-name]')) return;
    event.preventDefault();
    onMove(event.key === 'ArrowUp' ? -1 : 1);
  };
  return (
    <li
      ref={dropRef}
      className={`panel relative p-3.5 pl-8 ${isOver ? 'outline-primary outline-2' : isCurrent ? 'border-primary' : ''}`}
      onFocus={onFocus}
      onKeyDown={pressed}
    >
      <span
        ref={dragRef}
        {...listeners}
        aria-hidden
        className="absolute top-3.5 left-1.5 cursor-grab touch-none p-1"
        title="Drag to move it"
      >
        <GripVertical size={15} />
      </span>
      {children}
    </li>
  );
}
