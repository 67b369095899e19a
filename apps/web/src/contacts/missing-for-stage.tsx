import { type Catalogue, type Definition, type Fillable } from '@eager-sieve/core';
import { type ContactView } from '@eager-sieve/contracts';
import { useState } from 'react';
import { Dialog } from '../ui/dialog';
import { DialogEnd } from '../ui/dialog-button';
import { FactInput } from '../ui/fact-input';
import { Tag } from '../ui/tag';
import { useContactWrite } from './use-contact-write';

/** A stage that a contact was held back from, and what of that can be filled in. */
export interface Missing {
  readonly stage: Definition<'stage'>;
  /** why they were held back */
  readonly words: string;
  readonly wanted: Fillable;
}

interface MissingProps {
  readonly missing: Missing;
  readonly contact: ContactView;
  readonly catalogue: Catalogue;
  /** says whether it is set */
  readonly onSetStage: () => Promise<boolean>;
  readonly onClose: () => void;
}

/** Asks for what a contact must have to come to a stage. What is filled in is kept at once. */
export function MissingForStage({ missing: { stage, words, wanted }, contact, catalogue, onSetStage, onClose }: MissingProps) {
  const set = useContactWrite(contact);
  const [busy, setBusy] = useState(false);
  const again = async (): Promise<void> => {
    setBusy(true);
    const done = await onSetStage();
    setBusy(false);
    if (done) onClose();
  };
  return (
    <Dialog open title={`What ${stage.name} needs`} onClose={onClose}>
      <p role="status">{words}.</p>
      <dl className="mt-3 grid grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)] items-baseline gap-x-4 gap-y-2">
        {wanted.fields.map((id) => {
          const field = catalogue.get('field', id);
          const known = contact.fields.find(({ key }) => key === field?.key);
          return (
            field && (
              <div key={id} className="contents">
                <dt className="quiet">{field.name}</dt>
                <dd>
                  <FactInput
                    body={field.body}
                    name={field.name}
                    value={known?.value}
                    shown={known?.shown}
                    onSet={(value) => set({ fields: { [field.key]: value as string | null } })}
                  />
                </dd>
              </div>
            )
          );
        })}
        {wanted.tags.map((id) => {
          const tag = catalogue.get('tag', id);
          const has = contact.tags.some(({ key }) => key === tag?.key);
          return (
            tag && (
              <div key={id} className="contents">
                <dt>
                  <Tag name={tag.key} />
                </dt>
                <dd>
                  {has ? (
                    'they have it'
                  ) : (
                    <button type="button" className="btn btn-xs" onClick={() => void set({ tags: { [tag.key]: true } })}>
                      Give them {tag.key}
                    </button>
                  )}
                </dd>
              </div>
            )
          );
        })}
      </dl>
      {wanted.others && <p className="quiet mt-2 text-[12.5px]">What else it needs cannot be filled in here.</p>}
      <DialogEnd act="Set the stage" disabled={busy} onAct={() => void again()} onClose={onClose} />
    </Dialog>
  );
}
