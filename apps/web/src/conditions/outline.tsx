import {
  canTurn,
  GROUP_WORDS,
  isGroup,
  lineParts,
  lineText,
  Moment,
  opposite,
  prepareWindow,
  boundsAt,
  type Catalogue,
  type Condition,
  type Group,
  type Leaf,
  type SieveLine,
  type SubjectKind,
} from '@eager-sieve/core';
import { use, useState, type KeyboardEvent, type ReactNode } from 'react';
import { Link } from 'react-router';
import { Tag } from '../ui/tag';
import { count } from '../ui/number';
import { LineEditor, SubjectPicker } from './line-editor';
import { Mesh, type MeshFigures } from './mesh';
import { asGroup, at, inserted, into, moved, outOf, replaced, rowsOf, samePath, type Path } from './tree';
import { FaultsAt } from '../ui/faults-at';
import { useFocusAfter } from '../ui/focus-after';
import { ReadOnly } from '../ui/offer';
import { TypedLine } from './typed-line';

interface OutlineProps {
  readonly value: Group;
  readonly catalogue: Catalogue;
  readonly onChange: (group: Group) => void;
  /** what each top line lets through, where it is known */
  readonly lines?: readonly SieveLine[] | undefined;
  readonly total?: number | undefined;
  readonly stale?: boolean;
  readonly onDraft?: (leaf: Leaf | undefined) => void;
  readonly draft?: ReactNode;
  readonly readOnly?: boolean;
  /** where the conditions stand in the definition, so that what was refused of a line is said under it */
  readonly at?: readonly (string | number)[];
  /** what the conditions are asked of */
  readonly of?: SubjectKind;
}

/** Conditions as an outline of sentences, one a line, that are read, picked and typed in one place. The mesh beside a line shows what it lets through. */
export function Outline({
  value,
  catalogue,
  onChange,
  lines,
  total,
  stale,
  onDraft,
  draft,
  readOnly: standsStill = false,
  at: place,
  of = 'contact',
}: OutlineProps) {
  const onlyRead = use(ReadOnly);
  const readOnly = standsStill || onlyRead;
  const [open, setOpen] = useState<Path | null>(null);
  const rows = rowsOf(value);
  const focusAfter = useFocusAfter();
  const withMesh = total !== undefined;

  const change = (root: Group, focus: Path | null): void => {
    if (focus) focusAfter(() => document.querySelector<HTMLElement>(`[data-line="${focus.join('.')}"]`));
    onChange(root);
  };
  const pressed = (event: KeyboardEvent, path: Path): void => {
    if (event.target !== event.currentTarget) return;
    const index = rows.findIndex((row) => samePath(row.path, path));
    const focus = (to: number): void => document.querySelector<HTMLElement>(`[data-line="${rows[to]?.path.join('.')}"]`)?.focus();
    const result =
      event.ctrlKey && event.key === ']'
        ? into(value, path)
        : event.ctrlKey && event.key === '['
          ? outOf(value, path)
          : event.altKey && event.key === 'ArrowUp'
            ? moved(value, path, -1)
            : event.altKey && event.key === 'ArrowDown'
              ? moved(value, path, 1)
              : undefined;
    if (result) {
      event.preventDefault();
      setOpen(null);
      change(result.root, result.path);
    } else if (event.key === 'ArrowDown') {
      event.preventDefault();
      focus(index + 1);
    } else if (event.key === 'ArrowUp') {
      event.preventDefault();
      focus(index - 1);
    } else if (event.key === 'Delete') {
      setOpen(null);
      change(replaced(value, path, undefined), rows[Math.max(0, index - 1)]?.path ?? null);
    } else if (event.key === 'Enter') setOpen(path);
    else if (event.key === '!') turn(path);
  };
  const turn = (path: Path): void => {
    const line = at(value, path);
    const turned = line && !isGroup(line) ? opposite(line) : undefined;
    if (turned) onChange(replaced(value, path, turned));
  };
  const grid = withMesh
    ? 'grid grid-cols-[minmax(0,1fr)_330px] max-lg:grid-cols-[minmax(0,1fr)_210px] max-sm:grid-cols-1'
    : 'grid grid-cols-1';

  return (
    <div className="panel py-1" data-outline>
      <div className={`${grid} min-h-8 items-center px-3.5`}>
        <div className="quiet font-medium">
          <MatchPicker group={value} readOnly={readOnly} onChange={(match) => onChange({ ...value, match })} />
        </div>
        {withMesh && (
          <div className="grid grid-cols-[1fr_52px_58px] items-center gap-2 text-[11.5px] max-sm:hidden">
            <div className="quiet">
              of {count(total)} {of === 'company' ? 'companies' : 'people'}
            </div>
            <div className="quiet text-right">alone</div>
            <div className="text-primary text-right font-semibold">{value.match === 'any' ? 'together' : 'remain'}</div>
          </div>
        )}
      </div>
      {rows.map(({ path, condition, depth }) => {
        const isOpen = samePath(open, path) && !isGroup(condition);
        const key = path.join('.');
        return (
          <div key={key} className={isOpen ? 'bg-glow shadow-[inset_2px_0_var(--color-accent)]' : ''}>
            <div
              tabIndex={readOnly ? -1 : 0}
              role="group"
              aria-label={isGroup(condition) ? GROUP_WORDS[condition.match] : lineText(condition, catalogue)}
              data-line={key}
              className={`${grid} group border-base-300/60 min-h-8 items-center border-t px-3.5 py-0.75`}
              onKeyDown={(event) => !readOnly && pressed(event, path)}
            >
              <div className="flex min-w-0 flex-wrap items-baseline gap-x-1.5 gap-y-0.5" style={{ paddingLeft: depth * 22 }}>
                {isGroup(condition) ? (
                  <span className="quiet font-medium">
                    <MatchPicker
                      group={condition}
                      readOnly={readOnly}
                      onChange={(match) => onChange(replaced(value, path, { ...condition, match }))}
                    />
                  </span>
                ) : (
                  <LineWords leaf={condition} catalogue={catalogue} onSlot={readOnly ? undefined : () => setOpen(isOpen ? null : path)} />
                )}
                {!isGroup(condition) && (
                  <Offers
                    leaf={condition}
                    figures={path.length === 1 ? lines?.[path[0] ?? 0] : undefined}
                    onTake={(leaf) => onChange(replaced(value, path, leaf))}
                    readOnly={readOnly}
                  />
                )}
                {!readOnly && (
                  <span className="ml-auto flex gap-2 pr-3 text-[12px] opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
                    {isGroup(condition) && (
                      <button
                        type="button"
                        className="quiet cursor-pointer hover:underline"
                        onClick={() => onChange(inserted(value, [...path, condition.of.length], newLine(catalogue, of)))}
                      >
                        + line
                      </button>
                    )}
                    {!isGroup(condition) && canTurn(condition) && (
                      <button type="button" className="quiet cursor-pointer hover:underline" onClick={() => turn(path)}>
                        turn round
                      </button>
                    )}
                    <button
                      type="button"
                      className="quiet cursor-pointer hover:underline"
                      onClick={() => (setOpen(null), onChange(replaced(value, path, undefined)))}
                    >
                      remove
                    </button>
                  </span>
                )}
              </div>
              {withMesh && (
                <Mesh
                  figures={figuresOf(path, lines)}
                  total={total}
                  stale={stale ?? false}
                  words={isGroup(condition) ? GROUP_WORDS[condition.match] : lineText(condition, catalogue)}
                />
              )}
            </div>
            {place && !isGroup(condition) && (
              <div className="px-3.5" style={{ paddingLeft: depth * 22 + 14 }}>
                <FaultsAt path={[...place, ...path.flatMap((step) => ['of', step])]} />
              </div>
            )}
            {isOpen && !isGroup(condition) && (
              <div
                className="appears flex flex-col gap-2 px-3.5 pb-2.5"
                style={{ paddingLeft: depth * 22 + 14 }}
                onKeyDown={(event) => event.key === 'Escape' && setOpen(null)}
              >
                <LineEditor
                  leaf={condition}
                  catalogue={catalogue}
                  of={of}
                  onChange={(leaf) => onChange(replaced(value, path, leaf))}
                  nested={(inner, put) => <Outline value={asGroup(inner)} catalogue={catalogue} onChange={put} />}
                />
                <div className="flex items-center gap-2">
                  <span className="quiet text-[12.5px]">or type it over:</span>
                  <TypedLine
                    key={lineText(condition, catalogue)}
                    catalogue={catalogue}
                    of={of}
                    initial={lineText(condition, catalogue)}
                    label="this line, typed"
                    onLine={(leaf) => (setOpen(null), onChange(replaced(value, path, leaf)))}
                    onEscape={() => setOpen(null)}
                  />
                  <button type="button" className="btn btn-xs" onClick={() => setOpen(null)}>
                    Close
                  </button>
                </div>
              </div>
            )}
          </div>
        );
      })}
      {!readOnly && (
        <div className={`${grid} border-base-300/60 min-h-9 items-center border-t px-3.5 py-1`}>
          <div className="flex flex-wrap items-center gap-2" style={{ paddingLeft: 22 }}>
            <SubjectPicker
              value=""
              first="+ line"
              label="Add a line about"
              catalogue={catalogue}
              of={of}
              onPick={(leaf) => {
                onChange({ ...value, of: [...value.of, leaf] });
                setOpen([value.of.length]);
              }}
            />
            <button
              type="button"
              className="btn btn-xs"
              onClick={() => onChange({ ...value, of: [...value.of, { match: 'any', of: [newLine(catalogue, of)] }] })}
            >
              + group
            </button>
            <span className="quiet">or type:</span>
            <TypedLine
              catalogue={catalogue}
              of={of}
              label="Type a line"
              placeholder="ordered at least 2 times in the last 30 days"
              onLine={(leaf) => onChange({ ...value, of: [...value.of, leaf] })}
              {...(onDraft ? { onDraft } : {})}
            />
          </div>
          {withMesh && <div className="quiet text-[12.5px]">{draft}</div>}
        </div>
      )}
    </div>
  );
}

const newLine = (catalogue: Catalogue, of: SubjectKind): Condition => {
  if (of === 'company') return { kind: 'contacts', condition: { match: 'all', of: [] } };
  const tag = catalogue.all('tag')[0];
  return tag ? { kind: 'tag', tag: tag.id, op: 'has' } : { kind: 'consent', channel: 'email', op: 'is', value: 'given' };
};

function MatchPicker({ group, readOnly, onChange }: { group: Group; readOnly: boolean; onChange: (match: Group['match']) => void }) {
  if (readOnly) return <>{GROUP_WORDS[group.match]}</>;
  return (
    <select
      className="cursor-pointer bg-transparent font-medium [field-sizing:content]"
      aria-label="how the lines of this group hold together"
      value={group.match}
      onChange={(event) => onChange(event.target.value as Group['match'])}
    >
      {Object.entries(GROUP_WORDS).map(([match, words]) => (
        <option key={match} value={match}>
          {words}
        </option>
      ))}
    </select>
  );
}

/** A line in words; what can be changed has a dotted underline, what leads elsewhere is a link. */
export function LineWords({ leaf, catalogue, onSlot }: { leaf: Leaf; catalogue: Catalogue; onSlot?: (() => void) | undefined }) {
  const parts = lineParts(leaf, catalogue);
  return (
    <>
      {parts.map((part, index) => {
        const shown = part.names?.kind === 'tag' ? <Tag name={part.text} /> : part.text;
        if (part.slot && onSlot) {
          return (
            <button key={index} type="button" className="slot text-left" onClick={onSlot}>
              {shown}
            </button>
          );
        }
        return (
          <span key={index}>
            {part.names?.kind === 'audience' ? (
              <Link className="leads" to={`/audiences/${part.names.key}`}>
                {shown}
              </Link>
            ) : (
              shown
            )}
          </span>
        );
      })}
      <Since leaf={leaf} catalogue={catalogue} />
    </>
  );
}

const since = (at: number, zone: string): string =>
  new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    ...(Date.now() - at > YEAR_SHOWN_AFTER_MS ? { year: 'numeric' as const } : {}),
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
  }).format(at);

/** A date so long ago could be of either year. */
const YEAR_SHOWN_AFTER_MS = 180 * 86_400_000;

/** The instant at which a window that moves begins now, so that nobody has to count days. */
function Since({ leaf, catalogue }: { leaf: Leaf; catalogue: Catalogue }) {
  const [now] = useState(Date.now);
  if (leaf.kind !== 'signal' || leaf.within === undefined || leaf.within === 'ever' || !('last' in leaf.within)) return null;
  const window = prepareWindow(leaf.within, catalogue.zone, []);
  if (!window.ok) return null;
  return (
    <span className="quiet text-[12.5px]">since {since(boundsAt(window.value, new Moment(now, catalogue.zone)).from, catalogue.zone)}</span>
  );
}

function figuresOf(path: Path, lines: readonly SieveLine[] | undefined): MeshFigures | undefined {
  const line = lines?.[path[0] ?? 0];
  if (!line) return undefined;
  if (path.length === 1) return { alone: line.alone, remain: line.remain };
  const inner = line.inner.find((each) => each.path.join('.') === path.slice(1).join('.'));
  return inner && { alone: inner.alone };
}

/** What is often meant instead, offered with the number of people it is about. */
function Offers({
  leaf,
  figures,
  onTake,
  readOnly,
}: {
  leaf: Leaf;
  figures: SieveLine | undefined;
  onTake: (leaf: Leaf) => void;
  readOnly: boolean;
}) {
  if (!figures || readOnly) return null;
  const offers: { words: string; leaf: Leaf }[] = [];
  const op = leaf.kind === 'signal' ? leaf.count?.op : 'op' in leaf ? leaf.op : undefined;
  if (figures.onLimit && (op === '>' || op === '<') && (leaf.kind === 'field' || leaf.kind === 'score')) {
    offers.push({
      words: `let the ${count(figures.onLimit)} with exactly ${String(leaf.value)} in`,
      leaf: { ...leaf, op: op === '>' ? '>=' : '<=' } as Leaf,
    });
  }
  return (
    <>
      {offers.map((offer) => (
        <button key={offer.words} type="button" className="offer" onClick={() => onTake(offer.leaf)}>
          {offer.words}
        </button>
      ))}
      {figures.onLimit !== null && figures.onLimit > 0 && offers.length === 0 && (op === '>=' || op === '<=') && (
        <span className="quiet text-[12px]">{count(figures.onLimit)} exactly on it</span>
      )}
      {figures.empty !== null && figures.empty > 0 && <span className="quiet text-[12px]">{count(figures.empty)} have no value</span>}
      {figures.never !== null && leaf.kind === 'signal' && leaf.count?.op === '=' && leaf.count.value === 0 && (
        <span className="quiet text-[12px]">{count(figures.never)} of them never did</span>
      )}
    </>
  );
}
