import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { type Catalogue } from '@eager-sieve/core';
import { cellsOf, EACH, type HookBody, type HookView, type ImportRehearsal } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage, faultWords } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { KEPT, useUnsaved } from '../app/unsaved';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { Choice } from '../conditions/lines/inputs';
import { AskFirst } from '../ui/ask-first';
import { Labelled } from '../ui/labelled';
import { times } from '../ui/number';
import { Page } from '../ui/page';
import { Loading, Wrong } from '../ui/states';
import { Toggle } from '../ui/toggle';
import { When } from '../ui/when';
import { guess, type Mapping, type Preview } from './import-columns';
import { Columns } from './import-options';
import { changeOf } from './import-rehearsal';
import { Address, sessionSecrets } from './webhook-address';
import { Deliveries } from './webhook-deliveries';

const NEW: HookBody = { name: '', isOn: true, of: 'signal', signalType: 'order.placed', matchBy: 'email', mapping: {} };

/** A webhook: where another program sends what happens there, and how that is read. */
export default function Webhook() {
  const { id = 'new' } = useParams();
  const catalogue = useCatalogue();
  const { data, error } = api.useHookQuery({ id: Number(id) }, { skip: id === 'new' });
  if (error) return <Wrong error={error} />;
  if (!catalogue || (id !== 'new' && data?.id !== Number(id))) return <Loading />;
  return <WebhookEditor key={id} kept={id === 'new' ? undefined : data} catalogue={catalogue} />;
}

interface EditorProps {
  readonly kept: HookView | undefined;
  readonly catalogue: Catalogue;
}

function WebhookEditor({ kept, catalogue }: EditorProps) {
  const [draft, setDraft] = useState<HookBody>(() => (kept ? bodyOf(kept) : NEW));
  const [sample, setSample] = useState(() => (kept ? sampleOf(kept) : ''));
  const [secret, setSecret] = useState('');
  const differs = JSON.stringify(draft) !== JSON.stringify(kept ? bodyOf(kept) : NEW);
  useUnsaved(differs);
  const [rehearse, rehearsal] = api.useRehearseHookMutation();
  const mayWrite = useMay('settings:write');
  const { keep, isKeeping, error } = useKeeping(kept, setSecret);
  const object = objectIn(sample);
  const change = (next: Partial<HookBody>): void => {
    rehearsal.reset();
    setDraft({ ...draft, ...next });
  };
  const canKeep = mayWrite && draft.name.trim() !== '' && Object.keys(draft.mapping).length > 0 && !isKeeping && (differs || !kept);
  return (
    <Page
      title={kept ? kept.name : 'New webhook'}
      sentence="Another program sends here what happens there, signed. Say what is what in it; from then on it comes in by itself."
      meta={kept && <State hook={kept} />}
      actions={
        <>
          <button
            type="button"
            className="btn btn-sm btn-outline btn-primary"
            disabled={!object || rehearsal.isLoading}
            onClick={() => object && void rehearse({ body: { hook: draft, sample: object } })}
          >
            Rehearse the sample
          </button>
          {mayWrite && (
            <button type="button" className="btn btn-sm btn-primary" disabled={!canKeep} onClick={() => void keep(draft)}>
              {isKeeping ? 'Keeping …' : 'Keep'}
            </button>
          )}
        </>
      }
    >
      {(error ?? rehearsal.error) && (
        <p role="alert" className="text-error mb-3 font-medium">
          {errorMessage(error ?? rehearsal.error)}
        </p>
      )}
      {kept && <Address hook={kept} secret={secret} onSecret={setSecret} mayWrite={mayWrite} />}
      <What draft={draft} catalogue={catalogue} onChange={change} />
      <Sample text={sample} onChange={setSample} isObject={object !== undefined} />
      {rehearsal.data && <Tried answer={rehearsal.data} of={draft.of} />}
      <Reads draft={draft} object={object} catalogue={catalogue} onChange={change} />
      {kept && <Deliveries deliveries={kept.deliveries} onTake={(body) => setSample(JSON.stringify(body, null, 2))} />}
      {kept && mayWrite && <More kept={kept} draft={draft} onChange={change} />}
    </Page>
  );
}

function useKeeping(kept: HookView | undefined, onSecret: (secret: string) => void) {
  const [make, making] = api.useMakeHookMutation();
  const [change, changing] = api.useChangeHookMutation();
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const keep = async (body: HookBody): Promise<void> => {
    if (kept) {
      const result = await change({ id: kept.id, body });
      if (!result.error) dispatch(told({ kind: 'done', text: `${body.name} is kept.` }));
      return;
    }
    const result = await make({ body });
    if (!result.data) return;
    onSecret(result.data.secret);
    sessionSecrets.set(result.data.id, result.data.secret);
    void navigate(`/intake/webhooks/${result.data.id}`, { replace: true, state: KEPT });
  };
  return { keep, isKeeping: making.isLoading || changing.isLoading, error: making.error ?? changing.error };
}

const bodyOf = ({ name, isOn, of, signalType, matchBy, mapping }: HookView): HookBody => ({
  ...{ name, isOn, of, matchBy, mapping },
  ...(signalType === undefined ? {} : { signalType }),
});

/** What was sent last, if anything was. */
function sampleOf({ deliveries }: HookView): string {
  const body = deliveries.find((each) => each.body !== null)?.body;
  return body === undefined ? '' : JSON.stringify(body, null, 2);
}

function objectIn(text: string): Record<string, unknown> | undefined {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Record<string, unknown>) : undefined;
  } catch {
    return undefined;
  }
}

/** Whether it is on, and how much came. */
function State({ hook }: { hook: HookView }) {
  return (
    <>
      {hook.isOn ? 'on' : <strong className="text-error">off: what is sent here is refused</strong>} · {times(hook.taken, 'time')} taken in,{' '}
      {times(hook.refused, 'time')} refused
      {hook.lastAt && (
        <>
          {' '}
          · last <When at={hook.lastAt} />
        </>
      )}
    </>
  );
}

interface PartProps {
  readonly draft: HookBody;
  readonly catalogue: Catalogue;
  readonly onChange: (next: Partial<HookBody>) => void;
}

function What({ draft, catalogue, onChange }: PartProps) {
  const types = catalogue.all('signalType').map(({ key, name }): [string, string] => [key, name]);
  return (
    <div className="mb-4 flex flex-wrap items-end gap-x-3 gap-y-2">
      <Labelled label="Name">
        <input
          className="input input-sm w-64"
          value={draft.name}
          maxLength={80}
          placeholder="The till in the shop"
          onChange={(event) => onChange({ name: event.target.value })}
        />
      </Labelled>
      <Labelled label="It tells">
        <Choice
          label="It tells"
          value={draft.of}
          choices={[
            ['signal', 'that something happened'],
            ['contact', 'what is known of somebody'],
          ]}
          onPick={(of) => onChange({ of: of as HookBody['of'], mapping: {} })}
        />
      </Labelled>
      {draft.of === 'signal' && (
        <Labelled label="It becomes a signal of the type">
          <Choice
            label="It becomes a signal of the type"
            value={draft.signalType ?? ''}
            choices={types}
            onPick={(signalType) => onChange({ signalType, mapping: {} })}
          />
        </Labelled>
      )}
      <Labelled label="It finds whom it is about by">
        <Choice
          label="It finds whom it is about by"
          value={draft.matchBy}
          choices={[
            ['email', 'email address'],
            ['outsideId', 'outside id'],
          ]}
          onPick={(matchBy) => onChange({ matchBy: matchBy as HookBody['matchBy'] })}
        />
      </Labelled>
    </div>
  );
}

/** What the sample would do. */
function Tried({ answer: { samples, faults, error }, of }: { answer: ImportRehearsal; of: HookBody['of'] }) {
  const [sample] = samples;
  const refused = faults.flatMap((row) => row.faults);
  return (
    <section className="panel mt-4 px-4 py-2.5" role="status" aria-label="Rehearsal">
      {error || refused.length > 0 ? (
        <p className="text-error font-medium">It would be refused: {error ?? refused.map(faultWords).join('; ')}</p>
      ) : sample ? (
        <p className="[overflow-wrap:anywhere]">
          It would be taken in, for <strong>{sample.name}</strong>: {changeOf(sample, of)}
        </p>
      ) : (
        <p>It would change nothing.</p>
      )}
      <p className="quiet">Nothing has been kept.</p>
    </section>
  );
}

/** With lists as they are read aloud, not as they are written. */
const readable = (cells: Readonly<Record<string, string>>): Readonly<Record<string, string>> =>
  Object.fromEntries(
    Object.entries(cells).map(([path, cell]) => [path, path.includes(EACH) ? (JSON.parse(cell) as unknown[]).join(' · ') : cell]),
  );

function Sample({ text, onChange, isObject }: { text: string; onChange: (text: string) => void; isObject: boolean }) {
  return (
    <section>
      <h2 className="mb-1.5 text-[15px]">A sample of what it sends</h2>
      <textarea
        className="textarea textarea-sm h-36 w-full py-1.5 font-mono text-[12px]"
        aria-label="A sample of what it sends, as JSON"
        placeholder={'{ "order": "W-1", "buyer": { "email": "anna@place.example" }, "items": [{ "sku": "celadon" }] }'}
        value={text}
        onChange={(event) => onChange(event.target.value)}
      />
      {text.trim() !== '' && !isObject && <p className="text-error">This is no JSON object yet.</p>}
    </section>
  );
}

/** Which value of the sample is what. What the sample does not have is still read where it was said before. */
function Reads({ draft, object, catalogue, onChange }: PartProps & { object: Record<string, unknown> | undefined }) {
  const cells = object ? cellsOf(object, ';') : {};
  const mapping: Mapping = Object.fromEntries(Object.entries(draft.mapping).map(([target, path]) => [path, target]));
  const columns = [...new Set([...Object.keys(cells), ...Object.keys(mapping)])];
  const shown: Preview = { file: new File([], 'sample'), columns, rows: object ? [readable(cells)] : [] };
  const put = (next: Mapping): void =>
    onChange({ mapping: Object.fromEntries(Object.entries(next).map(([path, target]) => [target, path])) });
  if (columns.length === 0)
    return <p className="quiet mt-4">Paste a sample: then each of its values is listed here, and you say what it is.</p>;
  return (
    <section className="mt-4">
      <h2 className="mb-1.5 flex items-baseline gap-3 text-[15px]">
        Which value is what
        <button type="button" className="btn btn-xs" onClick={() => put({ ...guess(columns, catalogue, draft), ...mapping })}>
          Guess the rest
        </button>
      </h2>
      <Columns chosen={shown} mapping={mapping} catalogue={catalogue} reading={draft} of="Value" onChange={put} />
    </section>
  );
}

function More({ kept, draft, onChange }: { kept: HookView; draft: HookBody; onChange: (next: Partial<HookBody>) => void }) {
  const [remove, { isLoading }] = api.useRemoveHookMutation();
  const navigate = useNavigate();
  return (
    <section className="mt-5 flex flex-wrap items-center gap-3">
      <Toggle label="It takes in what is sent" isOn={draft.isOn} onChange={(isOn) => onChange({ isOn })} />
      <AskFirst
        words="Remove"
        comes="What came through it stays; what is sent to its address is refused from then on."
        act="Remove it"
        busy={isLoading}
        onAct={() => void remove({ id: kept.id }).then((result) => !result.error && navigate('/intake', { state: KEPT }))}
      />
      <Link className="leads" to={`/intake/stream?source=${encodeURIComponent(kept.name)}`}>
        What came through it
      </Link>
    </section>
  );
}
