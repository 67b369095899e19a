import { type Catalogue } from '@eager-sieve/core';
import { type TagFiguresView } from '@eager-sieve/contracts';
import { useState, type ChangeEvent } from 'react';
import { useSave } from '../app/use-save';
import { Dialog } from '../ui/dialog';
import { times } from '../ui/number';
import { Offer } from '../ui/offer';
import { planFromCsv, planToCsv, type ReadPlan } from './plan-csv';

/** The plan on paper, as a spreadsheet, and from one. */
export function PlanFile({ catalogue, figures }: { catalogue: Catalogue; figures: TagFiguresView | undefined }) {
  const [read, setRead] = useState<ReadPlan | null>(null);
  const choose = async (event: ChangeEvent<HTMLInputElement>): Promise<void> => {
    const file = event.target.files?.[0];
    event.target.value = '';
    if (file) setRead(planFromCsv(await file.text(), catalogue));
  };
  return (
    <span className="flex flex-wrap items-center gap-3 text-[12.5px] print:hidden">
      <button type="button" className="leads cursor-pointer" onClick={() => window.print()}>
        Print
      </button>
      <a
        className="leads"
        download="tag-plan.csv"
        href={`data:text/csv;charset=utf-8,${encodeURIComponent(planToCsv(catalogue, figures))}`}
      >
        Plan as CSV
      </a>
      <Offer needs="definitions:write">
        <label className="leads cursor-pointer focus-within:underline">
          Plan from CSV
          <input type="file" accept=".csv,text/csv" className="sr-only" onChange={(event) => void choose(event)} />
        </label>
      </Offer>
      {read && <Take read={read} onClose={() => setRead(null)} />}
    </span>
  );
}

function Take({ read, onClose }: { read: ReadPlan; onClose: () => void }) {
  const [save, isSaving, refused] = useSave();
  const { newFamilies, newTags, changed, wrong, document } = read;
  const all = newTags + changed;
  const words = [
    ...(newFamilies > 0 ? [times(newFamilies, 'new family', 'new families')] : []),
    ...(newTags > 0 ? [times(newTags, 'new tag')] : []),
    ...(changed > 0 ? [`${times(changed, 'tag')} said otherwise`] : []),
  ].join(', ');
  const take = async (): Promise<void> => {
    if (await save(document, `The plan has ${words}.`)) onClose();
  };
  return (
    <Dialog open title="Plan from a spreadsheet" onClose={onClose}>
      {wrong.length > 0 ? (
        <div role="alert" className="text-error">
          <p className="font-medium">Nothing was taken:</p>
          <ul>
            {wrong.slice(0, 10).map((each) => (
              <li key={each}>{each}</li>
            ))}
          </ul>
        </div>
      ) : (
        <p>{all === 0 ? 'All that it says stands in the plan already.' : `It holds ${words}. What it leaves out stays as it is.`}</p>
      )}
      {refused.map((fault, index) => (
        <p key={index} role="alert" className="text-error">
          {fault.words}
        </p>
      ))}
      <div className="mt-4 flex gap-2">
        {wrong.length === 0 && all > 0 && (
          <button type="button" className="btn btn-sm btn-primary" disabled={isSaving} onClick={() => void take()}>
            Take it into the plan
          </button>
        )}
        <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={onClose}>
          {wrong.length === 0 && all > 0 ? 'Leave it' : 'Close'}
        </button>
      </div>
    </Dialog>
  );
}
