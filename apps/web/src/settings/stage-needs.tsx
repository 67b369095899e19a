import {
  choicesOf,
  optionOf,
  saidOfThem,
  stepFactWords,
  toWrittenBody,
  type Catalogue,
  type Definition,
  type StageBody,
} from '@eager-sieve/core';
import { useState } from 'react';
import { useUnsaved } from '../app/unsaved';
import { useSave } from '../app/use-save';
import { Checks } from '../conditions/lines/inputs';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { Toggle } from '../ui/toggle';

interface StageNeedsProps {
  readonly stage: Definition<'stage'>;
  /** the stage before it; none for the first */
  readonly before: string | undefined;
  readonly catalogue: Catalogue;
}

/** The whole stage as it is sent. */
export const stageItem = ({ key, name, body }: Definition<'stage'>, catalogue: Catalogue) => ({
  ...{ key, name },
  ...toWrittenBody('stage', body, catalogue),
});

/** What the stage asks of those who come to it, in a few words. */
export function needsWords({ body }: Definition<'stage'>, before: string | undefined, catalogue: Catalogue): string {
  const parts = [
    ...(body.inOrder ? [before === undefined ? 'first of all' : `only from ${before}`] : []),
    ...(body.needs ? [`only if ${saidOfThem(body.needs, catalogue)}`] : []),
    ...(body.deals?.length ? ['in step with deals'] : []),
    ...(body.facts ?? []).map((fact) => `when ${stepFactWords(fact, catalogue)}`),
  ];
  return parts.join(', ') || 'anybody, from any stage';
}

/** Who comes to a stage: in which order, if what is so of them, and with which stages of deals and facts. */
export function StageNeeds({ stage, before, catalogue }: StageNeedsProps) {
  const [body, setBody] = useState<StageBody>(stage.body);
  const [save, saving] = useSave();
  const changed = JSON.stringify(body) !== JSON.stringify(stage.body);
  useUnsaved(changed);
  const group = asGroup(body.needs);
  const pipelines = catalogue.all('pipeline');
  const has = (pipeline: number, key: string): boolean =>
    body.deals?.some((deal) => deal.pipeline === pipeline && deal.stage === key) ?? false;
  const put = (next: { inOrder?: boolean; needs?: StageBody['needs']; deals?: StageBody['deals']; facts?: StageBody['facts'] }): void => {
    const { inOrder, needs, deals, facts } = { ...body, ...next };
    setBody({
      position: body.position,
      ...(needs ? { needs } : {}),
      ...(inOrder ? { inOrder } : {}),
      ...(deals?.length ? { deals } : {}),
      ...(facts?.length ? { facts } : {}),
    });
  };
  const keep = (): Promise<boolean> => save({ ladder: [stageItem({ ...stage, body }, catalogue)] }, `Who comes to ${stage.name} is kept.`);
  return (
    <div className="appears flex flex-col gap-3 pt-2 pb-3 pl-8">
      <Toggle
        label={
          before === undefined
            ? 'only who has no stage yet'
            : `only from ${before}; otherwise stages that are jumped over are marked as skipped`
        }
        isOn={body.inOrder ?? false}
        onChange={(inOrder) => put({ inOrder })}
      />
      <div>
        <h3 className="quiet mb-1 text-[13px]">only if this is so of them</h3>
        <Outline value={group} catalogue={catalogue} onChange={(next) => put({ needs: next.of.length > 0 ? next : undefined })} />
      </div>
      {pipelines.length > 0 && (
        <fieldset>
          <legend className="quiet mb-1 text-[13px]">whenever a deal of theirs comes to</legend>
          {pipelines.map((pipeline) => (
            <p key={pipeline.key} className="flex flex-wrap items-center gap-x-4 gap-y-1">
              <span className="w-44 truncate font-medium">{pipeline.name}</span>
              {pipeline.body.stages.map(({ key, name }) => (
                <label key={key} className="inline-flex min-h-[26px] items-center gap-1.5">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-primary checkbox-xs"
                    checked={has(pipeline.id, key)}
                    onChange={(event) =>
                      put({
                        deals: event.target.checked
                          ? [...(body.deals ?? []), { pipeline: pipeline.id, stage: key }]
                          : (body.deals ?? []).filter((deal) => deal.pipeline !== pipeline.id || deal.stage !== key),
                      })
                    }
                  />
                  {name}
                </label>
              ))}
            </p>
          ))}
        </fieldset>
      )}
      <StepFacts facts={body.facts ?? []} catalogue={catalogue} onChange={(facts) => put({ facts })} />
      <div className="flex gap-2">
        <button type="button" className="btn btn-sm btn-primary" disabled={saving || !changed} onClick={() => void keep()}>
          Keep
        </button>
        {changed && (
          <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={saving} onClick={() => setBody(stage.body)}>
            Discard
          </button>
        )}
      </div>
    </div>
  );
}

type StepFact = NonNullable<StageBody['facts']>[number];

/** With which choices the stage is kept in step, such as what the selling side says of somebody. */
function StepFacts({
  facts,
  catalogue,
  onChange,
}: {
  facts: readonly StepFact[];
  catalogue: Catalogue;
  onChange: (facts: StepFact[]) => void;
}) {
  const [begun, setBegun] = useState<readonly number[]>([]);
  const fields = catalogue.all('field').filter(({ body }) => body.of === 'contact' && body.type === 'one choice');
  const isShown = (id: number): boolean => begun.includes(id) || facts.some(({ field }) => field === id);
  const others = fields.filter(({ id }) => !isShown(id));
  if (fields.length === 0) return null;
  return (
    <fieldset>
      <legend className="quiet mb-1 text-[13px]">whenever a fact of theirs becomes</legend>
      {fields
        .filter(({ id }) => isShown(id))
        .map(({ id, key, name, body }) => (
          <p key={key} className="flex flex-wrap items-center gap-x-4 gap-y-1">
            <span className="w-44 truncate font-medium" title={name}>
              {name}
            </span>
            <Checks
              label={name}
              chosen={facts.filter(({ field }) => field === id).flatMap(({ value }) => optionOf(body, value) ?? [])}
              choices={choicesOf(body)}
              onChange={(chosen) =>
                onChange([...facts.filter(({ field }) => field !== id), ...chosen.map((value): StepFact => ({ field: id, value }))])
              }
            />
          </p>
        ))}
      {others.length > 0 && (
        <select
          className="select select-sm mt-1 w-auto"
          aria-label="Another fact"
          value=""
          onChange={(event) => setBegun([...begun, Number(event.target.value)])}
        >
          <option value="">+ fact</option>
          {others.map(({ id, key, name }) => (
            <option key={key} value={id}>
              {name}
            </option>
          ))}
        </select>
      )}
    </fieldset>
  );
}
