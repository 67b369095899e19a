import { EVERYONE, keyFrom, scoreLineWords, type Catalogue, type ScoreLine, type ScorecardBody, type SubjectKind } from '@eager-sieve/core';
import { useState } from 'react';
import { type Draft } from '../app/use-draft';
import { Choice } from '../conditions/lines/inputs';
import { times } from '../ui/number';
import { AlsoCalled, withSynonyms } from '../ui/also-called';
import { DefinitionPage, Editing } from '../ui/definition-page';
import { definitionRoute } from '../ui/definition-route';
import { FaultsAt } from '../ui/faults-at';
import { Opener } from '../ui/opener';
import { LineDetails } from './line-details';
import { BandShare } from './scores';

const NEW_CARD: ScorecardBody = {
  of: 'contact',
  min: 0,
  max: 100,
  bands: [
    { key: 'quiet', name: 'quiet', from: 0 },
    { key: 'curious', name: 'curious', from: 25 },
    { key: 'eager', name: 'eager', from: 60 },
  ],
  lines: [],
};

function Scorecard({ draft }: { draft: Draft<'scorecard'> }) {
  const { body: card, itemKey, catalogue, isNew, setBody: setCard } = draft;
  const known = catalogue.find('scorecard', itemKey);
  return (
    <DefinitionPage
      draft={draft}
      thing="scorecard"
      kept={`${draft.name} is kept. Every score is brought up to date.`}
      sentence={`Adds up ${times(card.lines.length, 'line')} and stays between ${card.min} and ${card.max}: ${card.bands.map((band) => `${band.name} from ${band.from}`).join(', ')}.`}
    >
      <Editing>
        <Range card={card} isNew={isNew} onChange={setCard} />
        <FaultsAt path={['min']} />
        <FaultsAt path={['max']} />
        {known && known.body.of !== 'deal' && (
          <div className="mb-3 grid grid-cols-4 gap-3 max-sm:grid-cols-2" aria-label="How many stand in each band">
            {known.body.bands.map((band) => (
              <BandShare key={band.key} card={known} band={band} catalogue={catalogue} />
            ))}
          </div>
        )}
        <Lines card={card} catalogue={catalogue} onChange={setCard} />
        <Bands card={card} onChange={setCard} />
        <FaultsAt path={['bands']} />
      </Editing>
    </DefinitionPage>
  );
}

interface LinesProps {
  readonly card: ScorecardBody;
  readonly catalogue: Catalogue;
  readonly onChange: (card: ScorecardBody) => void;
}

/** What gives points, each with its details behind a sentence. */
function Lines({ card, catalogue, onChange }: LinesProps) {
  const [open, setOpen] = useState<number | null>(null);
  const orders = catalogue.find('signalType', 'order.placed');
  const add = (line: Omit<Extract<ScoreLine, { kind: 'fact' }>, 'key'> | Omit<Extract<ScoreLine, { kind: 'activity' }>, 'key'>): void => {
    const key = keyFrom('line', new Set(card.lines.map((each) => each.key)));
    onChange({ ...card, lines: [...card.lines, { ...line, key } as ScoreLine] });
    setOpen(card.lines.length);
  };
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[15px]">Lines</h2>
      {card.lines.length === 0 && <p className="quiet mb-2">A line gives points for a fact, or each time something happens.</p>}
      <ul className="panel divide-base-300/60 divide-y empty:hidden">
        {card.lines.map((line, index) => (
          <li key={line.key} className="px-4 py-2">
            <FaultsAt path={['lines', index]} />
            <Line
              line={line}
              index={index}
              of={card.of}
              catalogue={catalogue}
              open={open === index}
              onToggle={() => setOpen(open === index ? null : index)}
              onChange={(next) => onChange({ ...card, lines: card.lines.with(index, next) })}
              onRemove={() => (setOpen(null), onChange({ ...card, lines: card.lines.toSpliced(index, 1) }))}
            />
          </li>
        ))}
      </ul>
      <div className="mt-2 flex gap-2">
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => add({ kind: 'fact', condition: EVERYONE, points: 10, stands: 'while' })}
        >
          + for a fact
        </button>
        {orders && (
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => add({ kind: 'activity', type: orders.id, points: 10, counts: 'every time', keeps: { dropAfter: 90 } })}
          >
            + for something that happens
          </button>
        )}
      </div>
    </section>
  );
}

interface LineProps {
  readonly line: ScoreLine;
  readonly index: number;
  readonly of: SubjectKind;
  readonly catalogue: Catalogue;
  readonly open: boolean;
  readonly onToggle: () => void;
  readonly onChange: (line: ScoreLine) => void;
  readonly onRemove: () => void;
}

function Line({ line, index, of, catalogue, open, onToggle, onChange, onRemove }: LineProps) {
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        {line.kind === 'activity' && typeof line.counts === 'object' && 'steps' in line.counts ? (
          <span className="quiet w-20 text-right">by steps</span>
        ) : (
          <input
            className="input input-sm w-20 text-right"
            type="number"
            step="any"
            aria-label={`Points of line ${index + 1}`}
            value={line.points}
            onChange={(event) => onChange({ ...line, points: Number(event.target.value) })}
          />
        )}
        <input
          className="input input-sm w-52"
          aria-label={`Name of line ${index + 1}`}
          placeholder={line.key}
          value={line.name ?? ''}
          onChange={(event) => onChange(named(line, event.target.value))}
        />
        <Opener className="min-w-0" open={open} onToggle={onToggle}>
          {scoreLineWords(line, catalogue)}
        </Opener>
        <button type="button" className="quiet ml-auto cursor-pointer text-[12.5px] hover:underline" onClick={onRemove}>
          remove
        </button>
      </div>
      {open && <LineDetails line={line} of={of} catalogue={catalogue} onChange={onChange} />}
    </>
  );
}

const ABOUT = { contact: 'contacts', company: 'companies', deal: 'deals' } as const;

/** Whom the card is about, which stays as it was made, and between what its total stays. */
function Range({ card, isNew, onChange }: { card: ScorecardBody; isNew: boolean; onChange: (card: ScorecardBody) => void }) {
  const bound = (which: 'min' | 'max', value: number): void => {
    const bands = which === 'min' ? card.bands.map((band, index) => (index === 0 ? { ...band, from: value } : band)) : card.bands;
    onChange({ ...card, bands, [which]: value });
  };
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2">
      <span className="quiet">of</span>
      {isNew ? (
        <Choice
          label="Whom it is about"
          value={card.of}
          choices={Object.entries(ABOUT)}
          onPick={(of) => onChange({ ...card, of: of as SubjectKind, lines: [] })}
        />
      ) : (
        <span>{ABOUT[card.of]}</span>
      )}
      <span className="quiet">never below</span>
      <input
        className="input input-sm w-24"
        type="number"
        step="any"
        aria-label="Lowest total"
        value={card.min}
        onChange={(event) => event.target.value !== '' && bound('min', Number(event.target.value))}
      />
      <span className="quiet">nor above</span>
      <input
        className="input input-sm w-24"
        type="number"
        step="any"
        aria-label="Highest total"
        value={card.max}
        onChange={(event) => event.target.value !== '' && bound('max', Number(event.target.value))}
      />
    </div>
  );
}

function named(line: ScoreLine, name: string): ScoreLine {
  const { name: _old, ...rest } = line;
  return name.trim() === '' ? (rest as ScoreLine) : ({ ...rest, name } as ScoreLine);
}

function Bands({ card, onChange }: { card: ScorecardBody; onChange: (card: ScorecardBody) => void }) {
  const put = (index: number, band: ScorecardBody['bands'][number]): void => onChange({ ...card, bands: card.bands.with(index, band) });
  return (
    <section>
      <h2 className="mb-1.5 text-[15px]">Bands</h2>
      <ul className="flex flex-col gap-1.5">
        {card.bands.map((band, index) => (
          <li key={band.key} className="flex items-center gap-2">
            <input
              className="input input-sm w-40"
              aria-label={`Name of band ${index + 1}`}
              value={band.name}
              onChange={(event) => put(index, { ...band, name: event.target.value })}
            />
            from
            <input
              className="input input-sm w-24"
              type="number"
              step="any"
              aria-label={`Band ${index + 1} from`}
              value={band.from}
              disabled={index === 0}
              onChange={(event) => put(index, { ...band, from: Number(event.target.value) })}
            />
            <AlsoCalled
              className="input input-sm w-64 max-w-full"
              label={`Band ${index + 1} is also called`}
              value={band.synonyms}
              onChange={(synonyms) => put(index, withSynonyms(band, synonyms))}
            />
            {index > 0 && (
              <button type="button" className="btn btn-xs" onClick={() => onChange({ ...card, bands: card.bands.toSpliced(index, 1) })}>
                Remove
              </button>
            )}
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="btn btn-xs mt-2"
        onClick={() => {
          const last = card.bands.at(-1);
          onChange({
            ...card,
            bands: [
              ...card.bands,
              { key: keyFrom('band', new Set(card.bands.map((band) => band.key))), name: 'another', from: (last?.from ?? 0) + 10 },
            ],
          });
        }}
      >
        + band
      </button>
    </section>
  );
}

export default definitionRoute({
  kind: 'scorecard',
  thing: 'scorecard',
  all: ['/scores', 'All scorecards'],
  address: '/scores',
  useNew: () => NEW_CARD,
  Editor: Scorecard,
});
