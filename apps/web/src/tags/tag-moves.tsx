import { max, scaleBand, scaleLinear } from 'd3';

const WIDTH = 104;
const HEIGHT = 24;
const MIDDLE = 14;

export const sum = (numbers: readonly number[]): number => numbers.reduce((all, n) => all + n, 0);

/** To how many a tag was given in each of the last weeks, upwards, and how many lost it, downwards. */
export function TagMoves({ given, lost, name }: { given: readonly number[]; lost: readonly number[]; name: string }) {
  const weeks = given.map((_, index) => index);
  const x = scaleBand(weeks, [0, WIDTH]).padding(0.2);
  const most = Math.max(1, max([...given, ...lost]) ?? 0);
  const up = scaleLinear([0, most], [0, MIDDLE]);
  const down = scaleLinear([0, most], [0, HEIGHT - MIDDLE]);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={`${name}: given to ${sum(given)} and lost by ${sum(lost)} in ${given.length} weeks`}
    >
      {weeks.map((week) => (
        <g key={week}>
          <rect
            x={x(week)}
            width={x.bandwidth()}
            y={MIDDLE - up(given[week] ?? 0)}
            height={up(given[week] ?? 0)}
            className="fill-primary"
          />
          <rect x={x(week)} width={x.bandwidth()} y={MIDDLE} height={down(lost[week] ?? 0)} className="fill-accent" />
        </g>
      ))}
      <line x1="0" x2={WIDTH} y1={MIDDLE} y2={MIDDLE} className="stroke-base-300" />
      <title>{`given to ${sum(given)}, lost by ${sum(lost)} in ${given.length} weeks`}</title>
    </svg>
  );
}
