import { keyFrom, type Catalogue, type Definition, type PipelineBody } from '@eager-sieve/core';
import { useState } from 'react';
import { useSave } from '../app/use-save';
import { Choice } from '../conditions/lines/inputs';
import { Labelled } from '../ui/labelled';

type Stage = PipelineBody['stages'][number];
const FIRST_STAGES: readonly Stage[] = [
  { key: 'enquiry', name: 'enquiry' },
  { key: 'won', name: 'won', outcome: 'won' },
  { key: 'lost', name: 'lost', outcome: 'lost' },
];

/** The stages that deals go through, one row of them for each kind of deal. */
export function Pipelines({ catalogue, mayWrite }: { catalogue: Catalogue; mayWrite: boolean }) {
  const [name, setName] = useState('');
  const [save, saving] = useSave();
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Deals</h2>
      {catalogue.all('pipeline').length === 0 && <p className="quiet mb-2">A pipeline names the stages that deals go through.</p>}
      <div className="flex flex-col gap-3">
        {catalogue.all('pipeline').map((pipeline) => (
          <Pipeline key={`${pipeline.key} ${pipeline.version}`} pipeline={pipeline} mayWrite={mayWrite} />
        ))}
      </div>
      {mayWrite && (
        <form
          className="mt-2 flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            const key = keyFrom(name, new Set(catalogue.every('pipeline').map((each) => each.key)));
            void save({ pipelines: [{ key, name: name.trim(), stages: [...FIRST_STAGES] }] }, `${name} is there.`).then(
              (done) => done && setName(''),
            );
          }}
        >
          <Labelled label="New pipeline">
            <input className="input input-sm w-60" required value={name} onChange={(event) => setName(event.target.value)} />
          </Labelled>
          <button className="btn btn-sm btn-outline btn-primary" disabled={saving || name.trim() === ''}>
            Add pipeline
          </button>
        </form>
      )}
    </section>
  );
}

function Pipeline({ pipeline, mayWrite }: { pipeline: Definition<'pipeline'>; mayWrite: boolean }) {
  const [stages, setStages] = useState<readonly Stage[]>(pipeline.body.stages);
  const [save, saving] = useSave();
  const changed = JSON.stringify(stages) !== JSON.stringify(pipeline.body.stages);
  const put = (index: number, stage: Stage): void => setStages(stages.with(index, stage));
  return (
    <div className="panel px-4 py-3">
      <div className="mb-2 flex items-baseline justify-between">
        <b>{pipeline.name}</b>
        {mayWrite && (
          <button
            type="button"
            className="btn btn-xs"
            disabled={saving || !changed}
            onClick={() => void save({ pipelines: [{ key: pipeline.key, stages: [...stages] }] }, `${pipeline.name} is saved.`)}
          >
            Keep changes
          </button>
        )}
      </div>
      <ol className="flex flex-col gap-1.5">
        {stages.map((stage, index) => (
          <li key={stage.key} className="flex items-center gap-2">
            <span className="quiet w-5">{index + 1}</span>
            <input
              className="input input-sm w-48"
              aria-label={`Name of stage ${index + 1} of ${pipeline.name}`}
              disabled={!mayWrite}
              value={stage.name}
              onChange={(event) => put(index, { ...stage, name: event.target.value })}
            />
            <Choice
              label={`What stage ${index + 1} of ${pipeline.name} means`}
              value={stage.outcome ?? 'open'}
              choices={[
                ['open', 'open'],
                ['won', 'won'],
                ['lost', 'lost'],
              ]}
              onPick={(outcome) =>
                put(index, outcome === 'open' ? { key: stage.key, name: stage.name } : { ...stage, outcome: outcome as 'won' })
              }
            />
            {mayWrite && stages.length > 1 && (
              <button type="button" className="btn btn-xs" onClick={() => setStages(stages.toSpliced(index, 1))}>
                Remove
              </button>
            )}
          </li>
        ))}
      </ol>
      {mayWrite && (
        <button
          type="button"
          className="btn btn-xs mt-2 ml-7"
          onClick={() => setStages([...stages, { key: keyFrom('stage', new Set(stages.map((stage) => stage.key))), name: 'another' }])}
        >
          + stage
        </button>
      )}
    </div>
  );
}
