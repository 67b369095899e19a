import { builtInSignalTypes, keyFrom, type Catalogue, type SignalTypeBody } from '@eager-sieve/core';
import { useState } from 'react';
import { useSave } from '../app/use-save';
import { Choice } from '../conditions/lines/inputs';
import { Labelled } from '../ui/labelled';
import { definitionSection, type SectionProps } from './section';

const BUILT_IN: ReadonlySet<string> = new Set(builtInSignalTypes.map((type) => type.key));
const DETAIL_TYPES = ['text', 'number', 'money', 'date-time', 'yes/no'] as const;
interface DraftDetail {
  readonly name: string;
  readonly type: string;
}

/** The kinds of things that happen: those every workspace has, and one's own. */
function SignalTypes({ catalogue, mayWrite }: SectionProps) {
  const [all, setAll] = useState(false);
  const types = catalogue.all('signalType').filter((type) => all || !BUILT_IN.has(type.key));
  return (
    <section>
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="text-[16px]">Signal types</h2>
        <button type="button" className="btn btn-xs" aria-pressed={all} onClick={() => setAll(!all)}>
          {all ? 'Only our own' : `All ${catalogue.all('signalType').length}`}
        </button>
      </div>
      {types.length === 0 && <p className="quiet mb-2">Orders, answers, visits and thirty more are there already; your own stand here.</p>}
      {types.length > 0 && (
        <table className="table panel w-full table-fixed">
          <thead>
            <tr className="quiet text-left text-[12px]">
              <th className="w-[24%] px-4 py-1.5">Key</th>
              <th className="w-[26%]">In words</th>
              <th className="w-[14%]">Direction</th>
              <th className="pr-4">Details</th>
            </tr>
          </thead>
          <tbody>
            {types.map((type) => (
              <tr key={type.key} className="border-base-300/60 border-t">
                <td className="px-4 py-1 font-mono text-[12px]">{type.key}</td>
                <td>{type.body.verb}</td>
                <td>{type.body.direction}</td>
                <td className="quiet truncate pr-4">{type.body.fields.map((field) => field.key).join(', ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {mayWrite && <NewType catalogue={catalogue} />}
    </section>
  );
}

export default definitionSection(SignalTypes);

type Direction = SignalTypeBody['direction'];

function NewType({ catalogue }: { catalogue: Catalogue }) {
  const [key, setKey] = useState('');
  const [verb, setVerb] = useState('');
  const [direction, setDirection] = useState<Direction>('from them');
  const [details, setDetails] = useState<readonly DraftDetail[]>([]);
  const [save, saving] = useSave();
  const add = async (): Promise<void> => {
    const fields = details
      .filter((detail) => detail.name.trim())
      .map((detail) => ({ key: keyFrom(detail.name).replace(/[-.](.)/g, (_, letter: string) => letter.toUpperCase()), type: detail.type }));
    const taken = new Set(catalogue.every('signalType').map((type) => type.key));
    const own = keyFrom(key, taken);
    if (await save({ signalTypes: [{ key: own, name: key.trim(), verb: verb.trim(), direction, fields }] }, `${own} can be sent now.`)) {
      setKey('');
      setVerb('');
      setDetails([]);
    }
  };
  return (
    <form
      className="mt-2 flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <Labelled label="New type, by its key">
          <input
            className="input input-sm w-44 font-mono"
            required
            placeholder="wheel.rented"
            value={key}
            onChange={(event) => setKey(event.target.value)}
          />
        </Labelled>
        <Labelled label="In words: a contact …">
          <input
            className="input input-sm w-52"
            required
            placeholder="rented a wheel"
            value={verb}
            onChange={(event) => setVerb(event.target.value)}
          />
        </Labelled>
        <Choice
          label="Direction"
          value={direction}
          choices={(['from them', 'from us', 'neither'] as const).map((each) => [each, each])}
          onPick={(picked) => setDirection(picked as Direction)}
        />
        <button
          type="button"
          className="btn btn-sm btn-outline btn-primary"
          onClick={() => setDetails([...details, { name: '', type: 'text' }])}
        >
          + detail
        </button>
        <button className="btn btn-sm btn-outline btn-primary" disabled={saving || !key.trim() || !verb.trim()}>
          Add type
        </button>
      </div>
      {details.map((detail, index) => (
        <DetailInput key={index} detail={detail} n={index + 1} onChange={(next) => setDetails(details.with(index, next))} />
      ))}
    </form>
  );
}

function DetailInput({ detail, n, onChange }: { detail: DraftDetail; n: number; onChange: (detail: DraftDetail) => void }) {
  return (
    <div className="flex gap-2">
      <input
        className="input input-sm w-44 font-mono"
        aria-label={`Name of detail ${n}`}
        value={detail.name}
        onChange={(event) => onChange({ ...detail, name: event.target.value })}
      />
      <Choice
        label={`Type of detail ${n}`}
        value={detail.type}
        choices={DETAIL_TYPES.map((each) => [each, each])}
        onPick={(type) => onChange({ ...detail, type })}
      />
    </div>
  );
}
