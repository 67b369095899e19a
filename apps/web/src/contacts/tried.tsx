import { type TryAnswer } from '@eager-sieve/contracts';
import { signed } from '../ui/number';

/** What the signal would have done, each effect under the one it came of. */
export function Tried({ answer: { effects, scores } }: { answer: Pick<TryAnswer, 'effects' | 'scores'> }) {
  return (
    <div className="mt-2" aria-live="polite">
      {effects.length === 0 && scores.length === 0 && <p>It would change nothing.</p>}
      <ul>
        {effects.map((effect, index) => (
          <li key={index} style={{ paddingLeft: effect.depth * 18 }}>
            {effect.words}
          </li>
        ))}
        {scores.map((score) => (
          <li key={score.key}>
            {score.name}: {score.before} → {score.after}{' '}
            <span className={score.after < score.before ? 'text-error' : 'text-success'}>({signed(score.after - score.before)})</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
