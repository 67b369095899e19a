import { count } from '../ui/number';

export interface MeshFigures {
  readonly alone: number;
  /** left out inside a group, where an order means nothing */
  readonly remain?: number;
}

/** A line's mesh: a pale bar for how many pass it alone, a full one for how many still remain, and both numbers. */
export function Mesh({ figures, total, stale, words }: { figures: MeshFigures | undefined; total: number; stale: boolean; words: string }) {
  const width = (n: number): string => `${total > 0 ? (n / total) * 100 : 0}%`;
  return (
    <div aria-busy={stale} className={`grid grid-cols-[1fr_52px_58px] items-center gap-2 text-[12.5px] ${stale ? 'opacity-60' : ''}`}>
      <div className="bg-sand relative h-3.25" aria-hidden>
        {figures && <span className="bg-pale absolute inset-y-0 left-0" style={{ width: width(figures.alone) }} />}
        {figures?.remain !== undefined && (
          <span
            className="bg-primary absolute inset-y-0 left-0"
            style={{
              width: width(figures.remain),
              backgroundImage: 'radial-gradient(circle, color-mix(in srgb, var(--color-base-100) 35%, transparent) 1px, transparent 1.3px)',
              backgroundSize: '5px 6.5px',
            }}
          />
        )}
      </div>
      <div className="quiet text-right" title={`${words}: how many pass it alone`}>
        {figures ? count(figures.alone) : '·'}
      </div>
      <div className="text-right font-semibold" title="how many remain in order">
        {figures?.remain === undefined ? '' : count(figures.remain)}
      </div>
    </div>
  );
}
