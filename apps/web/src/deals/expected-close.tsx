import { dateWords, EXPECTED_CLOSE, type FieldBody } from '@eager-sieve/core';
import { type DealRow } from '@eager-sieve/contracts';
import { FactInput } from '../ui/fact-input';
import { usePutDeal } from './use-put-deal';
import { nameOf } from './use-deal-moves';

const DATE: FieldBody = { of: 'deal', type: 'date' };

/** Whether a deal that is open should have been won or lost by now. */
export const isOverdue = ({ closes }: Pick<DealRow, 'closes'>, isOpen: boolean): boolean =>
  isOpen && closes !== null && closes < new Date().toISOString().slice(0, 10);

/** By when a deal that is open is expected to close, in words. */
export function ClosesWords({ deal, isOpen }: { deal: DealRow; isOpen: boolean }) {
  if (deal.closes === null || !isOpen) return null;
  return (
    <p className={`text-[12px] ${isOverdue(deal, isOpen) ? 'text-error font-medium' : 'quiet'}`}>
      expected to close {dateWords(deal.closes)}
    </p>
  );
}

/** The same, edited where one clicks it. */
export function ClosesInput({ deal, isOpen }: { deal: DealRow; isOpen: boolean }) {
  const put = usePutDeal();
  return (
    <span className={isOverdue(deal, isOpen) ? '[&_button]:text-error' : ''}>
      <FactInput
        body={DATE}
        name={`Expected close of ${nameOf(deal)}`}
        value={deal.closes ?? undefined}
        shown={deal.closes ?? undefined}
        onSet={(value) => put({ outsideId: deal.outsideId, fields: { [EXPECTED_CLOSE]: value } })}
      />
    </span>
  );
}
