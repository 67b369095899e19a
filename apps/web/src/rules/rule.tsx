import { oftenWords, ruleSentence, type Catalogue, type Group, type RuleBody, type RuleSubject } from '@eager-sieve/core';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { type RuleRehearsal } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { useCatalogue } from '../app/use-catalogue';
import { useDraft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';
import { Outline } from '../conditions/outline';
import { asGroup } from '../conditions/tree';
import { BrokenNote } from '../ui/broken-note';
import { DefinitionMenu } from '../ui/definition-menu';
import { RetiredNote } from '../ui/retired';
import { NameInput } from '../ui/name-input';
import { Page } from '../ui/page';
import { FaultsAt, FaultsHere } from '../ui/faults-at';
import { Refused } from '../ui/refused';
import { Empty, Loading } from '../ui/states';
import { TakeBack } from '../ui/take-back';
import { Actions } from './actions';
import { newRule } from './new-rule';
import { Rehearsal } from './rehearsal';
import { detailsOfRule, SignalDetails } from './signal-details';
import { When } from './when';
import { Offer, Retired, Writable } from '../ui/offer';
import { useMay } from '../app/use-may';
import { CircleNote } from './circle-note';

export default function RulePage() {
  const { key = '' } = useParams();
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const rule = key === 'new' ? undefined : catalogue.find('rule', key);
  if (key !== 'new' && !rule)
    return (
      <Empty title="There is no such rule">
        <Link className="leads" to="/rules">
          All rules
        </Link>
      </Empty>
    );
  const body = rule?.body ?? newRule(catalogue, 'contact') ?? newRule(catalogue, 'company');
  if (!body)
    return (
      <Empty title="A rule needs a tag to give">
        Make one in the{' '}
        <Link className="leads" to="/tags">
          tag plan
        </Link>{' '}
        first.
      </Empty>
    );
  return (
    <Rule
      key={`${key} ${rule?.version ?? 0}`}
      ruleKey={key}
      version={rule?.version ?? 0}
      savedName={rule?.name ?? ''}
      saved={body}
      catalogue={catalogue}
    />
  );
}

interface RuleProps {
  readonly ruleKey: string;
  readonly version: number;
  readonly savedName: string;
  readonly saved: RuleBody;
  readonly catalogue: Catalogue;
}

function Rule({ ruleKey, version, savedName, saved, catalogue }: RuleProps) {
  const draft = useDraft({ kind: 'rule', itemKey: ruleKey, saved: { name: savedName, body: saved }, catalogue, address: '/rules' });
  const { name, body: rule, isNew, changed, saving, setBody: setRule } = draft;
  const [rehearse, rehearsal] = api.useRehearseMutation();
  const [rehearsed, setRehearsed] = useState<{ of: RuleBody; result: RuleRehearsal } | null>(null);
  const runRehearsal = async (): Promise<void> => {
    const result = await rehearse({ body: { rule: draft.written({ ...rule, on: false }), ...(isNew ? {} : { key: ruleKey }) } });
    if (result.data) setRehearsed({ of: rule, result: result.data });
  };
  const keep = (on: boolean): Promise<boolean> => draft.keep(on ? `${name} is on.` : `${name} is saved and off.`, { ...rule, on });
  const fresh = rehearsed !== null && rehearsed.of === rule;
  const nameless = name.trim() === '';
  const may = useMay('definitions:write');
  const retired = catalogue.find('rule', ruleKey)?.retired ?? false;
  const mayWrite = may && !retired;
  const whole = { kind: 'rule' as const, itemKey: ruleKey, catalogue, written: draft.writtenSaved };
  return (
    <Retired value={retired}>
      <Page
        title={<NameInput thing="rule" value={name} readOnly={!mayWrite} onChange={draft.setName} />}
        sentence={ruleSentence(rule, catalogue)}
        meta={
          <>
            <span
              className={`mr-2 inline-block rounded border px-2 text-[12px] font-semibold ${saved.on && !isNew && !retired ? 'border-success text-success' : 'border-quiet quiet'}`}
            >
              {retired ? 'retired' : saved.on && !isNew ? 'on' : 'off'}
            </span>
            {isNew ? 'not saved yet' : `version ${version}`}
            {changed && !isNew && <b className="text-base-content"> · unsaved changes</b>}
          </>
        }
        actions={
          <>
            <button
              type="button"
              data-rehearse
              className="btn btn-sm btn-outline btn-primary"
              disabled={rehearsal.isLoading}
              onClick={() => void runRehearsal()}
            >
              {rehearsal.isLoading ? 'Rehearsing …' : 'Rehearse'} <kbd className="font-mono text-[11px]">r</kbd>
            </button>
            {!isNew && <DefinitionMenu {...whole} restore={draft.restore} />}
            {!isNew && may && <TakeBack what={{ rule: ruleKey }} words="Take back what it did" small={false} />}
            <Offer needs="definitions:write">
              {saved.on && !isNew ? (
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
                      Save, off
                    </button>
                  )}
                  <button
                    type="button"
                    className="btn btn-sm btn-primary"
                    disabled={saving || nameless || !fresh}
                    title={
                      nameless ? 'It needs a name first' : fresh ? undefined : 'Rehearse it first: then you see what turning it on does'
                    }
                    onClick={() => void keep(true)}
                  >
                    Turn on
                  </button>
                </>
              )}
            </Offer>{' '}
          </>
        }
      >
        <BrokenNote kind="rule" itemKey={ruleKey} />
        <RetiredNote {...whole} />
        <Refused faults={draft.refused} kind="rule" name={name} />
        <FaultsHere value={draft.refused}>
          <CircleNote ruleKey={ruleKey} mayWrite={mayWrite} />
          <Writable needs="definitions:write">
            <div className="panel mb-3 grid grid-cols-[104px_minmax(0,1fr)] gap-y-3 px-4 py-3 max-sm:grid-cols-1">
              {(isNew || rule.of === 'company') && (
                <Part name="For" spoken>
                  <ForWhom of={rule.of} isNew={isNew} onPick={(of) => setRule(newRule(catalogue, of) ?? rule)} />
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
              <Part name="Begins with" spoken>
                <Choice
                  label="Begins with"
                  value={rule.beginsWith}
                  choices={[
                    ['from now on', 'from now on'],
                    ['everyone', rule.of === 'company' ? 'every company, past included' : 'everyone, past included'],
                  ]}
                  onPick={(beginsWith) => setRule({ ...rule, beginsWith: beginsWith as 'everyone' })}
                />
                <span className="quiet ml-2">
                  {rule.beginsWith === 'everyone'
                    ? 'what happened before is worked when it is turned on'
                    : 'what happened before stays as it is'}
                </span>
              </Part>
            </div>
          </Writable>
          {rehearsal.error && (
            <p role="alert" className="text-error font-medium">
              {errorMessage(rehearsal.error)}
            </p>
          )}
          {rehearsed && <Rehearsal result={rehearsed.result} of={rehearsed.of.of} stale={!fresh} />}
        </FaultsHere>
      </Page>
    </Retired>
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
