import { type DefinitionKind } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { type ToldFault } from '../app/errors';
import { type Draft } from '../app/use-draft';
import { BrokenNote } from './broken-note';
import { DefinitionMenu } from './definition-menu';
import { FaultsHere } from './faults-at';
import { NameInput } from './name-input';
import { Offer, Retired, Writable } from './offer';
import { Page } from './page';
import { Refused } from './refused';
import { RetiredNote } from './retired';
import { isShelved, ShelfInputs } from './shelf';
import { Undo } from './undo';

interface DefinitionPageProps<Kind extends DefinitionKind> {
  readonly draft: Draft<Kind>;
  /** what it is called, such as "bundle" */
  readonly thing: string;
  /** what stands behind the name, such as how many it holds for */
  readonly beside?: ReactNode;
  readonly sentence?: string;
  /** what is said of its state; whether it is kept, where it is left out */
  readonly meta?: ReactNode;
  /** what can be done with it beside keeping it */
  readonly also?: ReactNode;
  /** the buttons that keep it, where it is not just kept */
  readonly keeping?: ReactNode;
  /** what is said when it is kept */
  readonly kept?: string;
  /** faults of what is shown, beside those for which keeping it was refused */
  readonly faults?: readonly ToldFault[];
  readonly children: ReactNode;
}

/** The page of one definition: its name as the heading, what there is to say about its state, and the ways to keep it. */
export function DefinitionPage<Kind extends DefinitionKind>({
  draft,
  thing,
  beside,
  sentence,
  meta,
  also,
  keeping,
  kept = `${draft.name} is kept.`,
  faults = [],
  children,
}: DefinitionPageProps<Kind>) {
  const { kind, itemKey, catalogue, name, isNew, mayWrite } = draft;
  const whole = { kind, itemKey, catalogue, written: draft.writtenSaved };
  const heading = <NameInput thing={thing} value={name} readOnly={!mayWrite} onChange={draft.setName} fitted={beside !== undefined} />;
  return (
    <Retired value={draft.retired}>
      <Page
        title={
          beside === undefined ? (
            heading
          ) : (
            <span className="flex flex-wrap items-baseline gap-x-2">
              {heading}
              {beside}
            </span>
          )
        }
        {...(sentence ? { sentence } : {})}
        meta={meta ?? <KeptOrNot draft={draft} />}
        actions={
          <>
            {also}
            {!isNew && <DefinitionMenu {...whole} restore={draft.restore} />}
            <Offer needs="definitions:write">
              <Undo undo={draft.undo} redo={draft.redo} />
              {draft.changed && !isNew && (
                <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={draft.discard}>
                  Discard
                </button>
              )}
              {keeping ?? <Keep draft={draft} thing={thing} kept={kept} />}
            </Offer>
          </>
        }
      >
        <BrokenNote kind={kind} itemKey={itemKey} />
        <RetiredNote {...whole} />
        <Refused faults={draft.refused} kind={kind} name={name} />
        <FaultsHere value={[...draft.refused, ...faults]}>
          {children}
          {isShelved(kind) && <ShelfInputs draft={draft} />}
        </FaultsHere>
      </Page>
    </Retired>
  );
}

/** What of a page can only be changed by those who may, and not where it is retired. */
export function Editing({ children }: { children: ReactNode }) {
  return <Writable needs="definitions:write">{children}</Writable>;
}

function KeptOrNot<Kind extends DefinitionKind>({ draft: { isNew, changed } }: { draft: Draft<Kind> }) {
  if (isNew) return <>not kept yet</>;
  return changed && <b className="text-base-content">unsaved changes</b>;
}

function Keep<Kind extends DefinitionKind>({ draft, thing, kept }: { draft: Draft<Kind>; thing: string; kept: string }) {
  const { name, isNew, changed, saving } = draft;
  const nameless = name.trim() === '';
  return (
    <button
      type="button"
      className="btn btn-sm btn-primary"
      disabled={saving || !changed || nameless}
      title={nameless ? 'It needs a name first' : undefined}
      onClick={() => void draft.keep(kept)}
    >
      {isNew ? `Keep ${thing}` : 'Keep changes'}
    </button>
  );
}
