import { skipToken } from '@reduxjs/toolkit/query';
import { Link, useNavigate } from 'react-router';
import { toKeys, type Catalogue, type Definition } from '@eager-sieve/core';
import { api } from '../app/api';
import { useMay } from '../app/use-may';
import { useCatalogue } from '../app/use-catalogue';
import { count, times } from '../ui/number';
import { RetiredList } from '../ui/retired';
import { Page } from '../ui/page';
import { Empty, Loading } from '../ui/states';
import { Offer } from '../ui/offer';
import { Shelves } from '../ui/shelf';

export default function Scores() {
  const catalogue = useCatalogue();
  const navigate = useNavigate();
  if (!catalogue) return <Loading />;
  const cards = catalogue.all('scorecard');
  return (
    <Page
      title={`Scores: ${count(cards.length)}`}
      sentence="A scorecard adds up what somebody is and does. Nobody edits a score; each line says how often it counts."
      actions={
        <Offer needs="definitions:write">
          <button type="button" data-new className="btn btn-sm btn-primary" onClick={() => void navigate('/scores/new')}>
            New scorecard <kbd className="font-mono text-[11px] opacity-80">n</kbd>
          </button>
        </Offer>
      }
    >
      {cards.length === 0 ? (
        <Empty title="No scorecard yet">
          <Link className="leads" to="/scores/new">
            Make the first one
          </Link>
          : points for what people are and do, and names for the ranges of the total.
        </Empty>
      ) : (
        <Shelves items={cards} of={({ body }) => body} keyOf={({ key }) => key}>
          {(card) => (
            <div className="px-4 py-3">
              <Link to={`/scores/${card.key}`} className="font-semibold hover:underline">
                {card.name}
              </Link>{' '}
              <span className="quiet">
                {times(card.body.lines.length, 'line')}, from {card.body.min} to {card.body.max}
              </span>
              <div className="mt-2 grid grid-cols-4 gap-3 max-sm:grid-cols-2">
                {card.body.bands.map((band) => (
                  <BandShare key={band.key} card={card} band={band} catalogue={catalogue} />
                ))}
              </div>
            </div>
          )}
        </Shelves>
      )}
      <RetiredList kinds={['scorecard']} />
    </Page>
  );
}

/** How many stand in a band, with a bar of their share. */
export function BandShare({
  card,
  band,
  catalogue,
}: {
  card: Definition<'scorecard'>;
  band: { key: string; name: string; from: number };
  catalogue: Catalogue;
}) {
  const { of } = card.body;
  const may = useMay('audiences:read');
  const counted = api.useCountQuery(
    of === 'deal' || !may
      ? skipToken
      : { body: { condition: toKeys({ kind: 'band', scorecard: card.id, op: 'is', value: band.key }, catalogue), of } },
  );
  // Conditions ask of contacts and companies; deals are counted as they stand.
  const deals = api.useDealBandsQuery(of === 'deal' && may ? { scorecard: card.key } : skipToken).data;
  const data = deals ? { count: deals.bands[band.key] ?? 0, of: deals.of } : counted.data;
  return (
    <div>
      <div className="text-[12.5px]">
        {band.name} <span className="quiet">from {band.from}</span>
      </div>
      {may && (
        <>
          <div className="bg-sand mt-1 h-2" aria-hidden>
            <div className="bg-primary h-full" style={{ width: `${data && data.of > 0 ? (data.count / data.of) * 100 : 0}%` }} />
          </div>
          <div className="mt-0.5 font-semibold">{data ? count(data.count) : '…'}</div>
        </>
      )}
    </div>
  );
}
