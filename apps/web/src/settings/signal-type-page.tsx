import { keyFrom, participleOf, presentOf, type DetailField, type SignalTypeBody } from '@eager-sieve/core';
import { type ReactNode } from 'react';
import { type Draft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';
import { AlsoCalled, withSynonyms } from '../ui/also-called';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { FaultsAt } from '../ui/faults-at';
import { forgetsMore, KeepAndForget, Retention } from './retention';

const DIRECTIONS: readonly (readonly [SignalTypeBody['direction'], string])[] = [
  ['from them', 'the contact does it'],
  ['from us', 'we do it'],
  ['neither', 'neither: it happens'],
];
const TYPES = ['text', 'number', 'money', 'date', 'date-time', 'yes/no'] as const;

/** `kiln rented`, of `rented a kiln` */
function nameFor(verb: string): string {
  const [first = '', ...rest] = verb.trim().split(/\s+/);
  const object = rest.filter((word, index) => index > 0 || !/^(an?|the)$/.test(word));
  return [...object, participleOf(first)].join(' ');
}

/** The key of a detail that goes by this label: `tripLength`, of `trip length` */
const detailKey = (label: string): string => keyFrom(label).replace(/[-.]+(.)/g, (_, letter: string) => letter.toUpperCase());

const without = <Part extends keyof SignalTypeBody>(body: SignalTypeBody, part: Part, value: string): SignalTypeBody => {
  const { [part]: _before, ...rest } = body;
  return (value.trim() === '' ? rest : { ...rest, [part]: value }) as SignalTypeBody;
};

/** One type of signal: what is said when it happens, what else people call it, and what is known of each. */
function SignalTypePage({ draft }: { draft: Draft<'signalType'> }) {
  const { itemKey, body, isNew, setBody } = draft;
  const [first = '', ...rest] = body.verb.trim().split(/\s+/);
  const behindHas = body.participle ?? participleOf(first);
  return (
    <DefinitionPage
      draft={draft}
      thing="signal type"
      {...(isNew ? {} : { sentence: `Programs send it as ${itemKey}.` })}
      {...(forgetsMore(draft) ? { keeping: <KeepAndForget draft={draft} /> } : {})}
    >
      <Editing>
        <div className="panel mb-3 grid max-w-[760px] grid-cols-[170px_minmax(0,1fr)] items-center gap-y-2.5 px-4 py-3 max-sm:grid-cols-1">
          <Row label="A contact …" faults={['verb']}>
            <input
              className="input input-sm w-72 max-w-full"
              aria-label="A contact …"
              placeholder="rented a kiln"
              value={body.verb}
              onChange={(event) => setBody({ ...body, verb: event.target.value })}
              onBlur={() => draft.name.trim() === '' && body.verb.trim() !== '' && draft.setName(nameFor(body.verb))}
            />
          </Row>
          <Row label="A contact has (not) …" faults={['participle']}>
            <span className="flex items-center gap-1.5">
              <Word label="A contact has (not) …" part="participle" guess={participleOf(first)} body={body} onChange={setBody} />
              <span className="quiet">{rest.join(' ')}</span>
            </span>
          </Row>
          <Row label="When somebody …" faults={['present']}>
            <span className="flex items-center gap-1.5">
              <Word label="When somebody …" part="present" guess={presentOf(first)} body={body} onChange={setBody} />
              <span className="quiet">{rest.join(' ')}</span>
            </span>
          </Row>
          <Row label="One and many of them" faults={['one']}>
            <span className="flex items-center gap-1.5">
              <Word label="One of them" part="one" guess="rental" body={body} onChange={setBody} />
              <Word label="Many of them" part="many" guess={body.one ? `${body.one}s` : 'rentals'} body={body} onChange={setBody} />
            </span>
          </Row>
          <Row label="Also called" faults={['synonyms']}>
            <AlsoCalled value={body.synonyms} onChange={(synonyms) => setBody(withSynonyms(body, synonyms))} />
          </Row>
          <Row label="Whose doing it is" faults={['direction']}>
            <Choice
              label="Whose doing it is"
              value={body.direction}
              choices={DIRECTIONS}
              onPick={(direction) => setBody({ ...body, direction: direction as SignalTypeBody['direction'] })}
            />
          </Row>
        </div>
        {body.verb.trim() !== '' && (
          <p className="quiet mb-4" aria-label="How it reads">
            It reads: <em className="text-base-content">who {body.verb.trim()} in the last 30 days</em>,{' '}
            <em className="text-base-content">who has not {[behindHas, ...rest].join(' ')} in the last 30 days</em>.
          </p>
        )}
        <Details fields={body.fields} onChange={(fields) => setBody({ ...body, fields: [...fields] })} />
        <Retention draft={draft} />
      </Editing>
    </DefinitionPage>
  );
}

interface WordProps {
  readonly label: string;
  readonly part: 'participle' | 'present' | 'one' | 'many';
  /** what is said where nothing is typed */
  readonly guess: string;
  readonly body: SignalTypeBody;
  readonly onChange: (body: SignalTypeBody) => void;
}

/** One of the words of a type, which may be left to the guess. */
function Word({ label, part, guess, body, onChange }: WordProps) {
  return (
    <input
      className="input input-sm w-40"
      aria-label={label}
      placeholder={guess}
      value={body[part] ?? ''}
      onChange={(event) => onChange(without(body, part, event.target.value))}
    />
  );
}

function Row({ label, faults, children }: { label: string; faults: readonly string[]; children: ReactNode }) {
  return (
    <>
      <span className="quiet">{label}</span>
      <div>
        {children}
        <FaultsAt path={faults} />
      </div>
    </>
  );
}

/** What is known of each such signal. A detail keeps its key however it is called. */
function Details({ fields, onChange }: { fields: readonly DetailField[]; onChange: (fields: readonly DetailField[]) => void }) {
  const relabel = (index: number, label: string): void => {
    const { label: _before, ...field } = fields[index] as DetailField;
    onChange(fields.with(index, label === '' ? field : { ...field, label }));
  };
  /** A key that is only a stand-in is made from the words, once. */
  const settle = (index: number): void => {
    const field = fields[index];
    if (!field?.label || !/^detail\d*$/.test(field.key)) return;
    const wanted = detailKey(field.label).replace(/^[^a-z]+/, '') || 'detail';
    const taken = new Set(fields.map(({ key }) => key));
    let key = wanted;
    for (let n = 2; taken.has(key); n += 1) key = `${wanted}${n}`;
    onChange(fields.with(index, { ...field, key }));
  };
  const add = (): void => {
    const taken = new Set(fields.map(({ key }) => key));
    let n = fields.length + 1;
    while (taken.has(`detail${n}`)) n += 1;
    onChange([...fields, { key: `detail${n}`, type: 'text', label: '' }]);
  };
  return (
    <section>
      <h2 className="mb-1.5 text-[15px]">Details</h2>
      {fields.length === 0 && <p className="quiet mb-2">Nothing is known of it but that it happened, and when.</p>}
      <ul className="flex flex-col gap-1.5">
        {fields.map((field, index) => (
          <li key={index} className="flex flex-wrap items-center gap-2">
            <input
              className="input input-sm w-56"
              aria-label={`Name of detail ${index + 1}`}
              placeholder={field.key}
              value={field.label ?? ''}
              onChange={(event) => relabel(index, event.target.value)}
              onBlur={() => settle(index)}
            />
            {field.type === 'list' || field.type === 'answers' ? (
              <span className="quiet">{field.type === 'list' ? 'a list' : 'the answers to a form'}</span>
            ) : (
              <Choice
                label={`Type of detail ${index + 1}`}
                value={field.type}
                choices={TYPES.map((each) => [each, each])}
                onPick={(type) => onChange(fields.with(index, { ...field, type: type as DetailField['type'] }))}
              />
            )}
            <span className="quiet font-mono text-[12px]">{field.key}</span>
            <button
              type="button"
              className="row-tool"
              aria-label={`Remove detail ${field.label ?? field.key}`}
              onClick={() => onChange(fields.toSpliced(index, 1))}
            >
              remove
            </button>
            <FaultsAt path={['fields', index]} />
          </li>
        ))}
      </ul>
      <button type="button" className="btn btn-xs mt-1.5" onClick={add}>
        + detail
      </button>
    </section>
  );
}

export default definitionRoute({
  kind: 'signalType',
  thing: 'signal type',
  all: ['/settings/signal-types', 'Signal types'],
  address: '/settings/signal-types',
  useNew: () => ({ direction: 'from them', verb: '', fields: [] }),
  Editor: SignalTypePage,
});
