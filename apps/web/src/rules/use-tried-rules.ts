import { definitionKinds, type AnyDefinition, type Catalogue } from '@eager-sieve/core';
import { useEffect, useState } from 'react';
import { type Tried } from './rules.worker';
import RulesWorker from './rules.worker?worker';

/** What comes of trying the rules on people and companies made up for it; undefined meanwhile. That is done beside the page, which goes on. */
export function useTriedRules(catalogue: Catalogue | undefined): Tried | undefined {
  const [found, setFound] = useState<{ readonly of: Catalogue; readonly tried: Tried } | null>(null);
  useEffect(() => {
    if (!catalogue) return;
    const worker = new RulesWorker();
    worker.onmessage = ({ data }: MessageEvent<Tried>) => setFound({ of: catalogue, tried: data });
    const definitions = definitionKinds.flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[]);
    worker.postMessage({ workspace: catalogue.workspace, definitions });
    return () => worker.terminate();
  }, [catalogue]);
  return found?.of === catalogue ? found?.tried : undefined;
}
