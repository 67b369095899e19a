import { GROUP_WORDS, isGroup, said, type Catalogue, type Group, type Leaf, type SieveLine, type SubjectKind } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { useKnown } from '../app/use-known';
import { count } from '../ui/number';
import { Dragging } from './dragging';
import { MatchPicker } from './match-picker';
import { OutlineRow } from './outline-row';
import { SubjectPicker } from './subject-picker';
import { asGroup } from './tree';
import { TypedLine } from './typed-line';
import { useOutline, type OutlineModel } from './use-outline';

interface OutlineProps {
  readonly value: Group;
  readonly catalogue: Catalogue;
  readonly onChange: (group: Group) => void;
  /** what each top line lets through, where it is known */
  readonly lines?: readonly SieveLine[] | undefined;
  readonly total?: number | undefined;
  readonly stale?: boolean;
  readonly onDraft?: ((leaf: Leaf | undefined) => void) | undefined;
  readonly draft?: ReactNode;
  readonly readOnly?: boolean;
  /** where the conditions stand in the definition, so that what was refused of a line is said under it */
  readonly at?: readonly (string | number)[];
  /** what the conditions are asked of */
  readonly of?: SubjectKind;
}

const PLAIN = 'grid grid-cols-1';
const WITH_MESH = 'grid grid-cols-[minmax(0,1fr)_330px] max-lg:grid-cols-[minmax(0,1fr)_210px] max-sm:grid-cols-1';

/** Conditions as an outline of sentences, one a line, that are read, picked and typed in one place. The mesh beside a line shows what it lets through. */
export function Outline({
  value,
  catalogue,
  onChange,
  lines,
  total,
  stale = false,
  onDraft,
  draft,
  readOnly = false,
  at: place,
  of = 'contact',
}: OutlineProps) {
  const known = useKnown(catalogue);
  const outline = useOutline({ value, catalogue: known, of, readOnly, onChange });
  const grid = total === undefined ? PLAIN : WITH_MESH;
  return (
    <div className="panel py-1" data-outline>
      <div className={`${grid} min-h-8 items-center px-3.5`}>
        <div className="quiet font-medium">
          <MatchPicker group={value} readOnly={outline.readOnly} onChange={outline.match} />
        </div>
        {total !== undefined && (
          <div className="grid grid-cols-[1fr_52px_58px] items-center gap-2 text-[11.5px] max-sm:hidden">
            <div className="quiet">{lines ? `of ${count(total)} ${of === 'company' ? 'companies' : 'people'}` : 'counting …'}</div>
            <div className="quiet text-right">alone</div>
            <div className="text-primary text-right font-semibold">{value.match === 'any' ? 'together' : 'remain'}</div>
          </div>
        )}
      </div>
      <p role="status" className="sr-only">
        {outline.told}
      </p>
      <Dragging outline={outline} wordsOf={(condition) => (isGroup(condition) ? GROUP_WORDS[condition.match] : said(condition, known, of))}>
        {outline.rows.map(({ path, condition, depth }) => (
          <OutlineRow
            key={path.join('.')}
            outline={outline}
            path={path}
            condition={condition}
            depth={depth}
            grid={grid}
            lines={lines}
            total={total}
            stale={stale}
            place={place}
            nested={(inner, put) => <Outline value={asGroup(inner)} catalogue={catalogue} onChange={put} />}
          />
        ))}
      </Dragging>
      {!outline.readOnly && (
        <div className={`${grid} border-base-300/60 min-h-9 items-center border-t px-3.5 py-1`}>
          <NewLine outline={outline} onDraft={onDraft} />
          {total !== undefined && <div className="quiet pl-2 text-[12.5px]">{draft}</div>}
        </div>
      )}
    </div>
  );
}

/** Adds a line by picking what it is about or by typing it, or a group. */
function NewLine({ outline, onDraft }: { outline: OutlineModel; onDraft: OutlineProps['onDraft'] }) {
  const { catalogue, of } = outline;
  return (
    <div className="flex flex-wrap items-center gap-2 pl-5.5">
      <SubjectPicker
        value=""
        first="+ line"
        label="Add a line about"
        catalogue={catalogue}
        of={of}
        onPick={(leaf) => outline.add([leaf], true)}
      />
      <button type="button" className="btn btn-xs" onClick={outline.addGroup}>
        + group
      </button>
      <span className="quiet">or type:</span>
      <TypedLine
        catalogue={catalogue}
        of={of}
        label="Type a line"
        placeholder={of === 'company' ? 'at least two people who looked at wheels' : 'bought glaze twice in the last 60 days'}
        onLines={(lines) => outline.add(lines)}
        {...(onDraft ? { onDraft } : {})}
      />
    </div>
  );
}
