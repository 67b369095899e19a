import { oftenWords, ruleSentence, type Group, type RuleBody, type RuleSubject } from '@eager-sieve/core';
import { useEffect, useEffectEvent, useRef, useState } from 'react';
import { type RuleRehearsal } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { saysSame } from '../app/says-same';
import { type Draft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { FaultsAt } from '../ui/faults-at';
import { TakeBack } from '../ui/take-back';
import { Actions } from './actions';
import { newRule } from './new-rule';
import { Rehearsal } from './rehearsal';
import { RuleCircles } from './rule-circles';
import { detailsOfRule, SignalDetails } from './signal-details';
import { RuleDid } from './rule-did';
import { StartPicker } from './start-picker';
import { Sweeps } from './sweeps';
import { When } from './when';
import { useMay } from '../app/use-may';
import { Offer } from '../ui/offer';
import { CircleNote } from './circle-note';

/** A rehearsal that takes no longer follows what is changed by itself. */
const QUICK_MS = 1_500;
/** So long nothing is to have been changed. */
const SETTLES_MS = 900;

/** What a rule would do, asked as it stands in the draft. */
function useRehearsal({ body: rule, itemKey, isNew, written }: Draft<'rule'>) {
  const [rehearse, { isLoading, error }] = api.useRehearseMutation();
  const [rehearsed, setRehearsed] = useState<{ of: RuleBody; result: RuleRehearsal } | null>(null);
  /** how long the last one took, in milliseconds */
  const [took, setTook] = useState(Infinity);
  const asked = useRef<ReturnType<typeof rehearse>>(undefined);
  const [isOfAll, setIsOfAll] = useState(false);
  const run = async (all = false): Promise<void> => {
    const began = performance.now();
    setIsOfAll(all);
    asked.current = rehearse({
      body: { rule: written({ ...rule, on: false }), ...(isNew ? {} : { key: itemKey }), ...(all ? { all } : {}) },
    });
    const result = await asked.current;
    setIsOfAll(false);
    setTook(performance.now() - began);
    if (result.data) setRehearsed({ of: rule, result: result.data });
  };
  const cancel = (): void => asked.current?.abort();
  const fresh = rehearsed !== null && saysSame(rehearsed.of, rule);
  // Once it has been rehearsed and that was quick, it follows what is changed.
  const follows = useEffectEvent(run);
  const isBehind = rehearsed !== null && !fresh && took < QUICK_MS;
  useEffect(() => {
    if (!isBehind) return;
    const timer = setTimeout(() => void follows(), SETTLES_MS);
    return () => clearTimeout(timer);
  }, [isBehind, rule]);
  return { run, cancel, isLoading, isOfAll, error: wasCancelled(error) ? undefined : error, rehearsed, fresh };
}

const wasCancelled = (error: unknown): boolean => (error as { name?: unknown } | undefined)?.name === 'AbortError';

function Rule({ draft }: { draft: Draft<'rule'> }) {
  const { body: rule, itemKey, catalogue, isNew } = draft;
  const rehearsal = useRehearsal(draft);
  const mayTakeBack = useMay('definitions:write');
  const isSweep = draft.saved.body.when.kind === 'sweep';
  return (
    <DefinitionPage
      draft={draft}
      thing="rule"
      sentence={ruleSentence(rule, catalogue)}
      meta={<RuleState draft={draft} />}
      also={
        <>
          <Offer needs="audiences:read">
            <button
              type="button"
              data-rehearse
              className="btn btn-sm btn-outline btn-primary"
              disabled={rehearsal.isLoading}
              onClick={() => void rehearsal.run()}
            >
              {rehearsal.isLoading ? 'Rehearsing …' : 'Rehearse'} <kbd className="font-mono text-[11px]">r</kbd>
            </button>
          </Offer>
          {!isNew && mayTakeBack && <TakeBack what={{ rule: itemKey }} words="Take back what it did" small={false} />}
        </>
      }
      keeping={<RuleKeeping draft={draft} fresh={rehearsal.fresh} />}
    >
      <CircleNote ruleKey={itemKey} mayWrite={draft.mayWrite} />
      {isNew && draft.mayWrite && <StartPicker catalogue={catalogue} onPick={draft.restore} />}
      <Editing>
        <RuleParts draft={draft} />
      </Editing>
      {!isNew && !draft.retired && (
        <Sweeps
          what={{ kind: 'rule', key: itemKey, name: draft.name }}
          of={rule.of}
          title={isSweep ? 'Runs' : 'Run it once'}
          means={isSweep ? '' : 'For whoever matches now and whatever happened before, whether the rule is on or off.'}
          always={isSweep}
          wouldTouch={
            rehearsal.fresh && !draft.changed && !rehearsal.rehearsed?.result.part ? rehearsal.rehearsed?.result.touched : undefined
          }
        />
      )}
      {!isNew && <RuleDid ruleKey={itemKey} />}
      <RuleCircles draft={draft} isAsked={rehearsal.fresh} />
      {rehearsal.error && (
        <p role="alert" className="text-error font-medium">
          {errorMessage(rehearsal.error)}
        </p>
      )}
      {rehearsal.rehearsed && (
        <Rehearsal
          result={rehearsal.rehearsed.result}
          of={rehearsal.rehearsed.of.of}
          stale={!rehearsal.fresh}
          whole={{ isUnderWay: rehearsal.isOfAll, begin: () => void rehearsal.run(true), cancel: rehearsal.cancel }}
        />
      )}
    </DefinitionPage>
  );
}

function RuleState({ draft: { saved, isNew, retired, changed, version } }: { draft: Draft<'rule'> }) {
  const on = saved.body.on && !isNew && !retired;
  return (
    <>
      <span className={`badge badge-sm badge-outline mr-2 font-semibold ${on ? 'badge-success' : 'quiet'}`}>
        {retired ? 'retired' : on ? 'on' : 'off'}
      </span>
      {isNew ? 'not kept yet' : `version ${version}`}
      {changed && !isNew && <b className="text-base-content"> · unsaved changes</b>}
    </>
  );
}

/** Turns it on and off. It can only be turned on as it was rehearsed. */
function RuleKeeping({ draft, fresh }: { draft: Draft<'rule'>; fresh: boolean }) {
  const { name, body: rule, saved, isNew, changed, saving } = draft;
  const nameless = name.trim() === '';
  const isByHand = rule.when.kind === 'sweep' && rule.when.times === undefined;
  const keep = (on: boolean): Promise<boolean> =>
    draft.keep(on ? `${name} is on.` : isByHand ? `${name} is kept.` : `${name} is kept and off.`, { ...rule, on });
  if (isByHand)
    return (
      <button type="button" className="btn btn-sm btn-primary" disabled={saving || nameless || !changed} onClick={() => void keep(false)}>
        Keep
      </button>
    );
  return (
    <>
      {saved.body.on && !isNew ? (
        <>
          <button type="button" className="btn btn-sm btn-outline btn-primary" disabled={saving} onClick={() => void keep(false)}>
            Turn off
          </button>
          {changed && (
            <button type="button" className="btn btn-sm btn-primary" disabled={saving || nameless} onClick={() => void keep(true)}>
              Keep changes
            </button>
          )}
        </>
      ) : (
        <>
          {changed && (
            <button
              type="button"
              className="btn btn-sm btn-outline btn-primary"
              disabled={saving || nameless}
              onClick={() => void keep(false)}
            >
              Keep, off
            </button>
          )}
          <button
            type="button"
            className="btn btn-sm btn-primary"
            disabled={saving || nameless || !fresh}
            title={nameless ? 'It needs a name first' : fresh ? undefined : 'Rehearse it first: then you see what turning it on does'}
            onClick={() => void keep(true)}
          >
            Turn on
          </button>
        </>
      )}
    </>
  );
}

/** The sentence of a rule, part by part. */
function RuleParts({ draft }: { draft: Draft<'rule'> }) {
  const { body: rule, catalogue, isNew, setBody: setRule } = draft;
  return (
    <div className="panel mb-3 grid grid-cols-[104px_minmax(0,1fr)] gap-y-3 px-4 py-3 max-sm:grid-cols-1">
      {(isNew || rule.of === 'company') && (
        <Part name="For" spoken>
          <ForWhom of={rule.of} isNew={isNew} onPick={(of) => setRule(newRule(catalogue, of))} />
        </Part>
      )}
      <Part name="When">
        <When rule={rule} catalogue={catalogue} onChange={setRule} />
      </Part>
      <Part name="If">
        <Outline
          at={['if']}
          of={rule.of}
          value={asGroup(rule.if)}
          catalogue={catalogue}
          onChange={(group) => setRule(withIf(rule, group))}
        />
      </Part>
      <Part name="Then">
        <SignalDetails value={detailsOfRule(rule.when, catalogue)}>
          <Actions actions={rule.then} of={rule.of} catalogue={catalogue} onChange={(then) => setRule({ ...rule, then })} />
        </SignalDetails>
      </Part>
      <Part name="How often" spoken>
        <HowOften value={rule.howOften} of={rule.of} onChange={(howOften) => setRule({ ...rule, howOften })} />
        <FaultsAt path={['howOften']} />
      </Part>
      {rule.when.kind !== 'sweep' && <BeginsWith rule={rule} onChange={setRule} />}
    </div>
  );
}

function BeginsWith({ rule, onChange }: { rule: RuleBody; onChange: (rule: RuleBody) => void }) {
  return (
    <>
      <Part name="Begins with" spoken>
        <Choice
          label="Begins with"
          value={rule.beginsWith}
          choices={[
            ['from now on', 'from now on'],
            ['everyone', rule.of === 'company' ? 'every company, past included' : 'everyone, past included'],
          ]}
          onPick={(beginsWith) => onChange({ ...rule, beginsWith: beginsWith as 'everyone' })}
        />
        <span className="quiet ml-2">
          {rule.beginsWith === 'everyone' ? 'what happened before is worked when it is turned on' : 'what happened before stays as it is'}
        </span>
      </Part>
    </>
  );
}

function Part({ name, spoken = false, children }: { name: string; spoken?: boolean; children: React.ReactNode }) {
  return (
    <>
      <h2 className="text-primary text-[14px]">{name}</h2>
      <div className={spoken ? 'spoken min-w-0' : 'min-w-0'}>{children}</div>
    </>
  );
}

function withIf(rule: RuleBody, group: Group): RuleBody {
  const { if: _if, ...rest } = rule;
  return group.of.length === 0 ? rest : { ...rest, if: group };
}

/** Whom a rule is for is settled when it is made: what it did hangs on it. */
function ForWhom({ of, isNew, onPick }: { of: RuleSubject; isNew: boolean; onPick: (of: RuleSubject) => void }) {
  if (!isNew) return <span>companies</span>;
  return (
    <Choice
      label="For whom it is"
      value={of}
      choices={[
        ['contact', 'contacts'],
        ['company', 'companies'],
      ]}
      onPick={(picked) => onPick(picked as RuleSubject)}
    />
  );
}

interface HowOftenProps {
  readonly value: RuleBody['howOften'];
  readonly of: RuleSubject;
  readonly onChange: (value: RuleBody['howOften']) => void;
}

function HowOften({ value, of, onChange }: HowOftenProps) {
  const put = (key: 'limit' | 'pauseDays', text: string): void => {
    const { [key]: _old, ...rest } = value;
    const n = Math.trunc(Number(text));
    onChange(text === '' || !(n >= 1) ? rest : { ...rest, [key]: n });
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <span>at most</span>
      <input
        className="input input-sm w-20"
        type="number"
        min={1}
        aria-label={`At most so many times per ${of}`}
        placeholder="any number of"
        value={value.limit ?? ''}
        onChange={(event) => put('limit', event.target.value)}
      />
      <span>times per {of}, with a pause of</span>
      <input
        className="input input-sm w-20"
        type="number"
        min={1}
        aria-label="A pause of so many days"
        placeholder="no"
        value={value.pauseDays ?? ''}
        onChange={(event) => put('pauseDays', event.target.value)}
      />
      <span>days</span>
      <span className="quiet">· {oftenWords(value, of)}; each time it does not run again, the trace says so</span>
    </div>
  );
}

export default definitionRoute({
  kind: 'rule',
  thing: 'rule',
  all: ['/rules', 'All rules'],
  address: '/rules',
  useNew: (catalogue) => newRule(catalogue, 'contact'),
  Editor: Rule,
});
