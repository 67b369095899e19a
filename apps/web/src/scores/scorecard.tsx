import {
  EVERYONE,
  isGroup,
  keyFrom,
  toDocumentItem,
  type AnyDefinition,
  type Catalogue,
  type Condition,
  type Group,
  type ScoreLine,
  type ScorecardBody,
} from '@eager-sieve/core';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { useCatalogue } from '../app/use-catalogue';
import { useSave } from '../app/use-save';
import { Choice } from '../conditions/line-editor';
import { Outline } from '../conditions/outline';
import { WhereEditor } from '../conditions/where-editor';
import { times } from '../ui/number';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
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

const asGroup = (condition: Condition): Group => (isGroup(condition) ? condition : { match: 'all', of: [condition] });

export default function ScorecardPage() {
  const { key = '' } = useParams();
  const catalogue = useCatalogue();
  if (!catalogue) return <Loading />;
  const card = key === 'new' ? undefined : catalogue.find('scorecard', key);
  if (key !== 'new' && !card)
    return (
      <Empty title="There is no such scorecard">
        <Link className="leads" to="/scores">
          All scorecards
        </Link>
      </Empty>
    );
  return (
    <Scorecard
      key={`${key} ${card?.version ?? 0}`}
      cardKey={key}
      savedName={card?.name ?? ''}
      saved={card?.body ?? NEW_CARD}
      catalogue={catalogue}
    />
  );
}

function Scorecard({
  cardKey,
  savedName,
  saved,
  catalogue,
}: {
  cardKey: string;
  savedName: string;
  saved: ScorecardBody;
  catalogue: Catalogue;
}) {
  const isNew = cardKey === 'new';
  const [name, setName] = useState(savedName);
  const [card, setCard] = useState(saved);
  const [open, setOpen] = useState<number | null>(null);
  const [save, saving] = useSave();
  const navigate = useNavigate();
  const changed = isNew || name !== savedName || JSON.stringify(card) !== JSON.stringify(saved);
  const known = catalogue.find('scorecard', cardKey);
  const put = (index: number, line: ScoreLine): void => setCard({ ...card, lines: card.lines.with(index, line) });
  const add = (line: Omit<Extract<ScoreLine, { kind: 'fact' }>, 'key'> | Omit<Extract<ScoreLine, { kind: 'activity' }>, 'key'>): void => {
    const key = keyFrom('line', new Set(card.lines.map((each) => each.key)));
    setCard({ ...card, lines: [...card.lines, { ...line, key } as ScoreLine] });
    setOpen(card.lines.length);
  };
  const keep = async (): Promise<void> => {
    const key = isNew ? keyFrom(name, new Set(catalogue.all('scorecard').map((each) => each.key))) : cardKey;
    const {
      key: _key,
      name: _name,
      ...body
    } = toDocumentItem(
      { id: 0, kind: 'scorecard', key: 'x', name: 'x', version: 0, retired: false, epoch: 0, body: card } as AnyDefinition,
      catalogue,
    );
    const done = await save(
      { scorecards: [{ key, name: name.trim(), ...body }] } as never,
      `${name} is saved. Everyone’s score is brought up to date.`,
    );
    if (done && isNew) await navigate(`/scores/${key}`, { replace: true });
  };
  const orders = catalogue.find('signalType', 'order.placed');
  return (
    <Page
      title={
        <input
          aria-label="Name of the scorecard"
          className="font-display w-full min-w-0 bg-transparent font-semibold"
          value={name}
          placeholder="New scorecard"
          onChange={(event) => setName(event.target.value)}
        />
      }
      sentence={`Adds up ${times(card.lines.length, 'line')} and stays between ${card.min} and ${card.max}: ${card.bands.map((band) => `${band.name} from ${band.from}`).join(', ')}.`}
      actions={
        <button type="button" className="act act-main" disabled={saving || !changed || name.trim() === ''} onClick={() => void keep()}>
          {isNew ? 'Keep scorecard' : 'Keep changes'}
        </button>
      }
    >
      {known && (
        <div className="mb-3 grid grid-cols-4 gap-3 max-sm:grid-cols-2" aria-label="How many stand in each band">
          {known.body.bands.map((band) => (
            <BandShare key={band.key} card={known} band={band} catalogue={catalogue} />
          ))}
        </div>
      )}
      <section className="mb-4">
        <h2 className="mb-1.5 text-[15px]">Lines</h2>
        {card.lines.length === 0 && <p className="quiet mb-2">A line gives points for a fact, or each time something happens.</p>}
        <ul className="panel divide-base-300/60 divide-y empty:hidden">
          {card.lines.map((line, index) => (
            <li key={line.key} className="px-4 py-2">
              <div className="flex flex-wrap items-center gap-2">
                <input
                  className="field w-20 text-right"
                  type="number"
                  step="any"
                  aria-label={`Points of line ${index + 1}`}
                  value={line.points}
                  onChange={(event) => put(index, { ...line, points: Number(event.target.value) })}
                />
                <input
                  className="field w-52"
                  aria-label={`Name of line ${index + 1}`}
                  placeholder={line.key}
                  value={line.name ?? ''}
                  onChange={(event) => put(index, named(line, event.target.value))}
                />
                <button
                  type="button"
                  className="slot min-w-0 text-left"
                  aria-expanded={open === index}
                  onClick={() => setOpen(open === index ? null : index)}
                >
                  {scoreLineWords(line, catalogue)}
                </button>
                <button
                  type="button"
                  className="quiet ml-auto cursor-pointer text-[12.5px] hover:underline"
                  onClick={() => (setOpen(null), setCard({ ...card, lines: card.lines.toSpliced(index, 1) }))}
                >
                  remove
                </button>
              </div>
              {open === index && <LineDetails line={line} catalogue={catalogue} onChange={(next) => put(index, next)} />}
            </li>
          ))}
        </ul>
        <div className="mt-2 flex gap-2">
          <button
            type="button"
            className="act act-small"
            onClick={() => add({ kind: 'fact', condition: EVERYONE, points: 10, stands: 'while' })}
          >
            + for a fact
          </button>
          {orders && (
            <button
              type="button"
              className="act act-small"
              onClick={() => add({ kind: 'activity', type: orders.id, points: 10, counts: 'every time', keeps: { dropAfter: 90 } })}
            >
              + for something that happens
            </button>
          )}
        </div>
      </section>
      <Bands card={card} onChange={setCard} />
    </Page>
  );
}

function named(line: ScoreLine, name: string): ScoreLine {
  const { name: _old, ...rest } = line;
  return name.trim() === '' ? (rest as ScoreLine) : ({ ...rest, name } as ScoreLine);
}

function LineDetails({ line, catalogue, onChange }: { line: ScoreLine; catalogue: Catalogue; onChange: (line: ScoreLine) => void }) {
  if (line.kind === 'fact') {
    return (
      <div className="appears mt-2">
        <Outline value={asGroup(line.condition)} catalogue={catalogue} onChange={(condition) => onChange({ ...line, condition })} />
        <div className="mt-2">
          <Choice
            label="How long it stands"
            value={line.stands}
            choices={[
              ['while', 'for as long as it holds'],
              ['once held', 'for ever once it has held'],
            ]}
            onPick={(stands) => onChange({ ...line, stands: stands as 'while' })}
          />
        </div>
      </div>
    );
  }
  const { where: _where, ...rest } = line;
  const counts = line.counts === 'every time' || line.counts === 'once' ? line.counts : line.counts.per;
  const keeps = line.keeps === 'forever' ? 'forever' : 'dropAfter' in line.keeps ? 'dropAfter' : 'halveEvery';
  const days = line.keeps === 'forever' ? 90 : 'dropAfter' in line.keeps ? line.keeps.dropAfter : line.keeps.halveEvery;
  const kept = (kind: string, n: number) =>
    kind === 'forever' ? ('forever' as const) : kind === 'dropAfter' ? { dropAfter: n } : { halveEvery: n };
  return (
    <div className="appears mt-2 flex flex-col gap-2">
      <Choice
        label="What has to happen"
        value={String(line.type)}
        choices={catalogue.all('signalType').map((type) => [String(type.id), type.body.verb])}
        onPick={(id) => onChange({ ...rest, type: Number(id) } as ScoreLine)}
      />
      <WhereEditor
        types={[line.type]}
        where={line.where ?? []}
        catalogue={catalogue}
        onChange={(where) => onChange((where.length > 0 ? { ...rest, where } : rest) as ScoreLine)}
      />
      <div className="flex flex-wrap items-center gap-2">
        counts
        <Choice
          label="How often it counts"
          value={counts}
          choices={[
            ['every time', 'every time'],
            ['once', 'only the first time'],
            ['day', 'once a day'],
            ['week', 'once a week'],
            ['month', 'once a month'],
          ]}
          onPick={(value) =>
            onChange({ ...line, counts: value === 'every time' || value === 'once' ? value : { upTo: 1, per: value as 'day' } })
          }
        />
        and is
        <Choice
          label="How long its points stay"
          value={keeps}
          choices={[
            ['forever', 'kept for ever'],
            ['dropAfter', 'dropped after'],
            ['halveEvery', 'halved at midnight, every'],
          ]}
          onPick={(kind) => onChange({ ...line, keeps: kept(kind, days) })}
        />
        {keeps !== 'forever' && (
          <>
            <input
              className="field w-20"
              type="number"
              min={1}
              aria-label="Days"
              value={days}
              onChange={(event) => onChange({ ...line, keeps: kept(keeps, Math.max(1, Math.trunc(Number(event.target.value)))) })}
            />
            days
          </>
        )}
      </div>
    </div>
  );
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
              className="field w-40"
              aria-label={`Name of band ${index + 1}`}
              value={band.name}
              onChange={(event) => put(index, { ...band, name: event.target.value })}
            />
            from
            <input
              className="field w-24"
              type="number"
              step="any"
              aria-label={`Band ${index + 1} from`}
              value={band.from}
              disabled={index === 0}
              onChange={(event) => put(index, { ...band, from: Number(event.target.value) })}
            />
            {index > 0 && (
              <button type="button" className="act act-small" onClick={() => onChange({ ...card, bands: card.bands.toSpliced(index, 1) })}>
                Remove
              </button>
            )}
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="act act-small mt-2"
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
