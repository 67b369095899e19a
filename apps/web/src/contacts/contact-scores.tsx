import { useState } from 'react';
import { signed } from '../ui/number';
import { Score } from '../ui/score';
import { UntilWhen } from '../ui/when';
import { Why } from '../ui/why';
import { type FactsProps } from './contact-tags';
import { ScoreHistory } from './score-history';

const STRONGEST = 4;
const tenths = (points: number): number => Math.round(points * 10) / 10;

/** Every scorecard, its strongest lines first; each line says until when its points stay as they are. */
export function Scores({ contact, catalogue }: FactsProps) {
  const [open, setOpen] = useState<string | null>(null);
  const [drawn, setDrawn] = useState<string | null>(null);
  return (
    <section className="mb-4">
      <h2 className="mb-1.5 text-[14px]">Scores</h2>
      {contact.scores.map((score) => (
        <div key={score.key} className="mb-2.5" data-fact>
          <Score points={score.points} band={score.band} card={catalogue.find('scorecard', score.key)?.body} name={score.name} />
          <Why subject={{ whose: { contact: contact.id }, of: 'band', key: score.key }} label={`this band of ${score.name}`} />
          <button
            type="button"
            className="leads ml-2 min-h-[24px] cursor-pointer text-[12.5px]"
            aria-expanded={drawn === score.key}
            aria-label={`How ${score.name} moved`}
            onClick={() => setDrawn(drawn === score.key ? null : score.key)}
          >
            how it moved
          </button>
          {drawn === score.key && <History contactId={contact.id} scorecard={score.key} name={score.name} catalogue={catalogue} />}
          <ul className="mt-1 text-[12.5px]">
            {(open === score.key ? score.lines : score.lines.slice(0, STRONGEST)).map((line) => (
              <li key={line.key} className="grid grid-cols-[1fr_56px] py-0.5">
                <span>
                  {line.name}
                  {line.signals !== null && line.signals > 1 && <span className="quiet"> · {line.signals} times</span>}
                  {line.changesAt && (
                    <span className="quiet">
                      {' '}
                      · <UntilWhen at={line.changesAt} />
                    </span>
                  )}
                </span>
                <span className={`text-right ${line.points < 0 ? 'text-error' : 'text-success'}`}>{signed(tenths(line.points))}</span>
              </li>
            ))}
            {score.lines.length > STRONGEST && open !== score.key && (
              <li className="quiet grid grid-cols-[1fr_56px] py-0.5">
                <button type="button" className="cursor-pointer text-left hover:underline" onClick={() => setOpen(score.key)}>
                  {score.lines.length - STRONGEST} more lines
                </button>
                <span className="text-right">
                  {signed(tenths(score.lines.slice(STRONGEST).reduce((sum, line) => sum + line.points, 0)))}
                </span>
              </li>
            )}
          </ul>
        </div>
      ))}
      {contact.scores.length === 0 && <p className="quiet">There is no scorecard yet.</p>}
    </section>
  );
}

interface HistoryProps extends Pick<FactsProps, 'catalogue'> {
  readonly contactId: string;
  readonly scorecard: string;
  readonly name: string;
}

function History({ catalogue, ...of }: HistoryProps) {
  const card = catalogue.find('scorecard', of.scorecard);
  return card ? <ScoreHistory {...of} card={card.body} /> : null;
}
