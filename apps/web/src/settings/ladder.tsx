import { keyFrom, type Catalogue, type Definition } from '@eager-sieve/core';
import { useState } from 'react';
import { useSave } from '../app/use-save';
import { Labelled } from '../ui/labelled';
import { Opener } from '../ui/opener';
import { needsWords, stageItem, StageNeeds } from './stage-needs';

/** The stages that contacts climb, in their order. */
export function Ladder({ catalogue, mayWrite }: { catalogue: Catalogue; mayWrite: boolean }) {
  const ladder = catalogue.ladder();
  const [save, saving] = useSave();
  const [open, setOpen] = useState<string | null>(null);
  const move = (index: number, by: number): void => {
    const [stage] = ladder.slice(index, index + 1);
    const moved = stage ? ladder.toSpliced(index, 1).toSpliced(index + by, 0, stage) : ladder;
    const written = moved.map((each, place) => ({ ...stageItem(each, catalogue), position: place + 1 }));
    void save({ ladder: written }, 'The ladder is in its new order.');
  };
  return (
    <section>
      <h2 className="mb-2 text-[16px]">Ladder</h2>
      <ol className="panel divide-base-300/60 divide-y empty:hidden">
        {ladder.map((stage, index) => (
          <li key={stage.key} className="flex flex-wrap items-center gap-3 px-4 py-1.5">
            <span className="quiet w-5">{index + 1}</span>
            <input
              className="input input-sm w-60"
              aria-label={`Name of stage ${index + 1}`}
              disabled={!mayWrite || saving}
              defaultValue={stage.name}
              onBlur={(event) => {
                const next = event.target.value.trim();
                if (next && next !== stage.name)
                  void save({ ladder: [{ ...stageItem(stage, catalogue), name: next }] }, `${next} is its name now.`);
              }}
            />
            <span className="font-mono text-[12px]">{stage.key}</span>
            {mayWrite ? (
              <Opener open={open === stage.key} onToggle={() => setOpen(open === stage.key ? null : stage.key)}>
                {needsWords(stage, ladder[index - 1]?.name, catalogue)}
              </Opener>
            ) : (
              <span className="quiet">{needsWords(stage, ladder[index - 1]?.name, catalogue)}</span>
            )}
            {mayWrite && (
              <StageTools
                stage={stage}
                first={index === 0}
                last={index === ladder.length - 1}
                saving={saving}
                onMove={(by) => move(index, by)}
                onRetire={() =>
                  void save({ ladder: [{ key: stage.key, retire: true }] }, `${stage.name} is retired: whoever stands there stays there.`)
                }
              />
            )}
            {open === stage.key && (
              <div className="w-full">
                <StageNeeds key={stage.version} stage={stage} before={ladder[index - 1]?.name} catalogue={catalogue} />
              </div>
            )}
          </li>
        ))}
      </ol>
      {mayWrite && <NewStage catalogue={catalogue} />}
    </section>
  );
}

interface StageToolsProps {
  readonly stage: Definition<'stage'>;
  readonly first: boolean;
  readonly last: boolean;
  readonly saving: boolean;
  readonly onMove: (by: number) => void;
  readonly onRetire: () => void;
}

function StageTools({ stage, first, last, saving, onMove, onRetire }: StageToolsProps) {
  return (
    <span className="ml-auto flex gap-2">
      <button type="button" className="btn btn-xs" aria-label={`${stage.name} up`} disabled={saving || first} onClick={() => onMove(-1)}>
        ↑
      </button>
      <button type="button" className="btn btn-xs" aria-label={`${stage.name} down`} disabled={saving || last} onClick={() => onMove(1)}>
        ↓
      </button>
      <button type="button" className="btn btn-xs" disabled={saving} onClick={onRetire}>
        Retire
      </button>
    </span>
  );
}

function NewStage({ catalogue }: { catalogue: Catalogue }) {
  const [name, setName] = useState('');
  const [save, saving] = useSave();
  return (
    <form
      className="mt-2 flex items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        const key = keyFrom(name, new Set(catalogue.every('stage').map((stage) => stage.key)));
        void save({ ladder: [{ key, name: name.trim() }] }, `${name} is the last stage now.`).then((done) => done && setName(''));
      }}
    >
      <Labelled label="New stage, after the last">
        <input className="input input-sm w-60" required value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <button className="btn btn-sm btn-outline btn-primary" disabled={saving || name.trim() === ''}>
        Add stage
      </button>
    </form>
  );
}
