import { type ScorecardBody } from '@eager-sieve/core';

/** A score as a short bar, with the bands marked at their real limits, the number and the word of the band. */
export function Score({
  points,
  band,
  card,
  name,
}: {
  points: number;
  band: string;
  card: Pick<ScorecardBody, 'min' | 'max' | 'bands'> | undefined;
  name?: string;
}) {
  const { min, max, bands } = card ?? { min: 0, max: 100, bands: [] };
  const at = (value: number): number => ((value - min) / (max - min)) * 100;
  return (
    <span className="inline-flex items-center gap-1.75 whitespace-nowrap">
      <span aria-hidden className="bg-sand relative block h-1.75 w-16">
        <span className="bg-primary absolute inset-y-0 left-0" style={{ width: `${Math.max(0, Math.min(100, at(points)))}%` }} />
        {bands.slice(1).map((each) => (
          <span key={each.key} className="bg-base-100 absolute inset-y-0 w-0.5" style={{ left: `${at(each.from)}%` }} />
        ))}
      </span>
      <span>
        <b className="font-semibold">{Math.round(points * 10) / 10}</b> {name && `${name}, `}
        {bands.find((each) => each.key === band)?.name ?? band}
      </span>
    </span>
  );
}
