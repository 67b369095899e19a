import { canTurn, GROUP_WORDS, isGroup, said, type Condition, type Group, type Leaf, type SieveLine } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { FaultsAt } from '../ui/faults-at';
import { useRow } from './dragging';
import { LineEditor } from './line-editor';
import { LineOffers } from './line-offers';
import { LineWords } from './line-words';
import { MatchPicker } from './match-picker';
import { Mesh, type MeshFigures } from './mesh';
import { type Path } from './tree';
import { TypedLine } from './typed-line';
import { type OutlineModel } from './use-outline';

const INDENT = 22;

interface OutlineRowProps {
  readonly outline: OutlineModel;
  readonly path: Path;
  readonly condition: Condition;
  readonly depth: number;
  /** the classes of the columns */
  readonly grid: string;
  readonly lines: readonly SieveLine[] | undefined;
  /** of how many, where a mesh is shown */
  readonly total: number | undefined;
  readonly stale: boolean;
  /** where the conditions stand in the definition */
  readonly place: readonly (string | number)[] | undefined;
  /** the conditions inside a line, such as those of a company's contacts */
  readonly nested: (inner: Condition | undefined, put: (group: Group) => void) => ReactNode;
}

/** One line or one group of the outline: in words, with what it lets through, and opened to be changed. */
export function OutlineRow({ outline, path, condition, depth, grid, lines, total, stale, place, nested }: OutlineRowProps) {
  const { catalogue, of, readOnly } = outline;
  const isOpen = outline.isOpen(path) && !isGroup(condition);
  const { setNode, className, grip } = useRow(path, readOnly);
  const words = isGroup(condition) ? GROUP_WORDS[condition.match] : said(condition, catalogue, of);
  return (
    <div className={isOpen ? 'bg-glow shadow-[inset_2px_0_var(--color-accent)]' : ''}>
      <div
        ref={setNode}
        tabIndex={readOnly ? -1 : 0}
        role="group"
        aria-label={words}
        data-line={path.join('.')}
        className={`${grid} group border-base-300/60 relative min-h-8 items-center border-t px-3.5 py-0.75 ${className}`}
        onKeyDown={(event) => !readOnly && outline.pressed(event, path)}
      >
        {grip}
        <div className="flex min-w-0 flex-wrap items-baseline gap-x-1.5 gap-y-0.5" style={{ paddingLeft: depth * INDENT }}>
          {isGroup(condition) ? (
            <span className="quiet font-medium">
              <MatchPicker group={condition} readOnly={readOnly} onChange={(match) => outline.replace(path, { ...condition, match })} />
            </span>
          ) : (
            <>
              <LineWords leaf={condition} catalogue={catalogue} of={of} onSlot={readOnly ? undefined : () => outline.toggle(path)} />
              <LineOffers
                leaf={condition}
                figures={path.length === 1 ? lines?.[path[0] ?? 0] : undefined}
                onTake={(leaf) => outline.replace(path, leaf)}
                readOnly={readOnly}
              />
            </>
          )}
          {!readOnly && <RowButtons outline={outline} path={path} condition={condition} />}
        </div>
        {total !== undefined && <Mesh figures={figuresOf(path, lines)} total={total} stale={stale} words={words} />}
      </div>
      {place && !isGroup(condition) && (
        <div className="px-3.5" style={{ paddingLeft: depth * INDENT + 14 }}>
          <FaultsAt path={[...place, ...path.flatMap((step) => ['of', step])]} />
        </div>
      )}
      {isOpen && !isGroup(condition) && <OpenedLine outline={outline} path={path} leaf={condition} depth={depth} nested={nested} />}
    </div>
  );
}

/** What can be done with a line or a group, shown as one comes near it. */
function RowButtons({ outline, path, condition }: { outline: OutlineModel; path: Path; condition: Condition }) {
  return (
    <span className="ml-auto flex gap-2 pr-3 text-[12px] opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
      {isGroup(condition) && (
        <button type="button" className="quiet cursor-pointer hover:underline" onClick={() => outline.addInto(path, condition.of.length)}>
          + line
        </button>
      )}
      {!isGroup(condition) && canTurn(condition) && (
        <button type="button" className="quiet cursor-pointer hover:underline" onClick={() => outline.turn(path)}>
          turn round
        </button>
      )}
      <button type="button" className="quiet cursor-pointer hover:underline" onClick={() => outline.remove(path)}>
        remove
      </button>
    </span>
  );
}

interface OpenedLineProps extends Pick<OutlineRowProps, 'outline' | 'path' | 'depth' | 'nested'> {
  readonly leaf: Leaf;
}

/** A line opened to be changed, by picking or by typing it over. */
function OpenedLine({ outline, path, leaf, depth, nested }: OpenedLineProps) {
  const { catalogue, of, close } = outline;
  const text = said(leaf, catalogue, of);
  return (
    <div
      className="appears flex flex-col gap-2 px-3.5 pb-2.5"
      style={{ paddingLeft: depth * INDENT + 14 }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <LineEditor leaf={leaf} catalogue={catalogue} of={of} onChange={(next) => outline.replace(path, next)} nested={nested} />
      <div className="flex items-center gap-2">
        <span className="quiet text-[12.5px]">or type it over:</span>
        <TypedLine
          key={text}
          catalogue={catalogue}
          of={of}
          initial={text}
          label="this line, typed"
          onLines={(next) => (close(), outline.replace(path, together(next)))}
          onEscape={close}
        />
        <button type="button" className="btn btn-xs" onClick={close}>
          Close
        </button>
      </div>
    </div>
  );
}

/** What takes the place of one line: another one, or a group of several. */
const together = (lines: readonly Condition[]): Condition => {
  const [only, ...more] = lines;
  return only && more.length === 0 ? only : { match: 'all', of: [...lines] };
};

function figuresOf(path: Path, lines: readonly SieveLine[] | undefined): MeshFigures | undefined {
  const line = lines?.[path[0] ?? 0];
  if (!line) return undefined;
  if (path.length === 1) return { alone: line.alone, remain: line.remain };
  const inner = line.inner.find((each) => each.path.join('.') === path.slice(1).join('.'));
  return inner && { alone: inner.alone };
}
