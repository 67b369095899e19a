import { type Catalogue, type Column } from '@eager-sieve/core';
import { type Cell } from '@eager-sieve/contracts';
import { CompanyLink } from '../../ui/company-link';
import { Score } from '../../ui/score';
import { Tag } from '../../ui/tag';
import { When } from '../../ui/when';

const SHOWN_TAGS = 3;

/** What a column says of one contact or company. */
export function CellView({ cell, column, catalogue }: { cell: Cell; column: Column; catalogue: Catalogue }) {
  if (cell === null) return <span className="quiet">{column.kind === 'last' ? 'nothing yet' : '–'}</span>;
  switch (cell.is) {
    case 'text':
      return cell.to ? <CompanyLink id={cell.to} name={cell.shown} title={cell.shown} /> : <span title={cell.shown}>{cell.shown}</span>;
    case 'number':
      return <span className="tabular-nums">{cell.shown}</span>;
    case 'time':
      return (
        <>
          {cell.what && <>{cell.what} · </>}
          <span className={cell.what ? 'quiet' : ''}>
            <When at={cell.time} />
          </span>
        </>
      );
    case 'score': {
      const card = column.kind === 'score' ? catalogue.find('scorecard', column.scorecard) : undefined;
      return <Score points={cell.points} band={cell.band} card={card?.body} />;
    }
    case 'tags':
      return (
        <>
          {cell.tags.slice(0, SHOWN_TAGS).map((tag) => (
            <span key={tag} className="mr-2.5">
              <Tag name={tag} />
            </span>
          ))}
          {cell.tags.length > SHOWN_TAGS && (
            <span className="quiet text-[12px]" title={cell.tags.join(', ')}>
              and {cell.tags.length - SHOWN_TAGS} more
            </span>
          )}
        </>
      );
  }
}
