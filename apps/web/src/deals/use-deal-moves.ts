import { type PipelineBody } from '@eager-sieve/core';
import { type DealRow } from '@eager-sieve/contracts';
import { useState } from 'react';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { usePutDeal } from './use-put-deal';

export const nameOf = ({ name, outsideId }: Pick<DealRow, 'name' | 'outsideId'>): string => name || outsideId;

interface DealMoves {
  /** where those are shown that were moved and are not worked yet, by id */
  readonly moved: ReadonlyMap<string, string>;
  readonly move: (deal: DealRow, to: string) => void;
}

/** Moves deals to other stages. What was done can be undone for a while. @param onDone when it has been worked, or was refused */
export function useDealMoves(stages: Readonly<PipelineBody['stages']>, onDone?: (deal: DealRow) => void): DealMoves {
  const put = usePutDeal();
  const dispatch = useAppDispatch();
  const [moved, setMoved] = useState<ReadonlyMap<string, string>>(new Map());
  const send = async (deal: DealRow, to: string): Promise<boolean> => {
    setMoved((before) => new Map(before).set(deal.id, to));
    const isDone = await put({ outsideId: deal.outsideId, stage: to });
    setMoved((before) => new Map([...before].filter(([id]) => id !== deal.id)));
    return isDone;
  };
  return {
    moved,
    move: (deal, to) => {
      const from = deal.stage;
      if (from === to) return;
      const name = stages.find(({ key }) => key === to)?.name ?? to;
      void send(deal, to).then((isDone) => {
        if (isDone)
          dispatch(told({ kind: 'done', text: `${nameOf(deal)} is at ${name}.`, undo: () => send({ ...deal, stage: to }, from) }));
        onDone?.(deal);
      });
    },
  };
}
