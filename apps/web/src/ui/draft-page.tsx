import { type Catalogue, type DefinitionKind } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { type Draft } from '../app/use-draft';
import { BrokenNote } from './broken-note';
import { DefinitionMenu } from './definition-menu';
import { RetiredNote } from './retired';
import { NameInput } from './name-input';
import { Page } from './page';
import { Offer, Retired, Writable } from './offer';
import { FaultsHere } from './faults-at';
import { Refused } from './refused';
import { useMay } from '../app/use-may';

/** The page of one definition that is edited: its name as the heading, and the ways to keep and to discard. */
export function DraftPage<Kind extends DefinitionKind>({
  draft,
  kind,
  itemKey,
  catalogue,
  thing,
  sentence,
  kept,
  children,
}: {
  draft: Draft<Kind>;
  kind: Kind;
  itemKey: string;
  catalogue: Catalogue;
  /** what it is called, such as "bundle" */
  thing: string;
  sentence?: string;
  /** what is said when it is kept */
  kept: string;
  children: ReactNode;
}) {
  const { name, isNew, changed, saving } = draft;
  const retired = catalogue.find(kind, itemKey)?.retired ?? false;
  const mayWrite = useMay('definitions:write') && !retired;
  const whole = { kind, itemKey, catalogue, written: draft.writtenSaved };
  return (
    <Retired value={retired}>
      <Page
        title={<NameInput thing={thing} value={name} readOnly={!mayWrite} onChange={draft.setName} />}
        {...(sentence ? { sentence } : {})}
        meta={isNew ? 'not kept yet' : changed && <b className="text-base-content">unsaved changes</b>}
        actions={
          <>
            {!isNew && <DefinitionMenu {...whole} restore={draft.restore} />}
            <Offer needs="definitions:write">
              {changed && !isNew && (
                <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={draft.discard}>
                  Discard
                </button>
              )}
              <button
                type="button"
                className="btn btn-sm btn-primary"
                disabled={saving || !changed || name.trim() === ''}
                title={name.trim() === '' ? 'It needs a name first' : undefined}
                onClick={() => void draft.keep(kept)}
              >
                {isNew ? `Keep ${thing}` : 'Keep changes'}
              </button>
            </Offer>
          </>
        }
      >
        <BrokenNote kind={kind} itemKey={itemKey} />
        <RetiredNote {...whole} />
        <Refused faults={draft.refused} kind={kind} name={name} />
        <FaultsHere value={draft.refused}>
          <Writable needs="definitions:write">{children}</Writable>
        </FaultsHere>
      </Page>
    </Retired>
  );
}
