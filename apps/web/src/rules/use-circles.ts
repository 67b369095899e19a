import { definitionKinds, type AnyDefinition, type Catalogue, type Circle } from '@eager-sieve/core';
import { useEffect, useState } from 'react';
import CirclesWorker from './circles.worker?worker';

/** Rules that set each other off, as made-up contacts went through them; undefined while they are tried. They are tried beside the page, which goes on. */
export function useCircles(catalogue: Catalogue | undefined): readonly Circle[] | undefined {
  const [found, setFound] = useState<{ readonly of: Catalogue; readonly circles: readonly Circle[] } | null>(null);
  useEffect(() => {
    if (!catalogue) return;
    const worker = new CirclesWorker();
    worker.onmessage = ({ data }: MessageEvent<readonly Circle[]>) => setFound({ of: catalogue, circles: data });
    const definitions = definitionKinds.flatMap((kind) => catalogue.every(kind) as readonly AnyDefinition[]);
    worker.postMessage({ workspace: catalogue.workspace, definitions });
    return () => worker.terminate();
  }, [catalogue]);
  return found?.of === catalogue ? found?.circles : undefined;
}
