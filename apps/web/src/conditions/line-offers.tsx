import { type Leaf, type SieveLine } from '@eager-sieve/core';
import { count } from '../ui/number';

/** What is often meant instead, offered with the number of people it is about. */
export function LineOffers({
  leaf,
  figures,
  onTake,
  readOnly,
}: {
  leaf: Leaf;
  figures: SieveLine | undefined;
  onTake: (leaf: Leaf) => void;
  readOnly: boolean;
}) {
  if (!figures || readOnly) return null;
  const offers: { words: string; leaf: Leaf }[] = [];
  const op = leaf.kind === 'signal' ? leaf.count?.op : 'op' in leaf ? leaf.op : undefined;
  if (figures.onLimit && (op === '>' || op === '<') && (leaf.kind === 'field' || leaf.kind === 'score')) {
    offers.push({
      words: `let the ${count(figures.onLimit)} with exactly ${String(leaf.value)} in`,
      leaf: { ...leaf, op: op === '>' ? '>=' : '<=' } as Leaf,
    });
  }
  return (
    <>
      {offers.map((offer) => (
        <button key={offer.words} type="button" className="offer" onClick={() => onTake(offer.leaf)}>
          {offer.words}
        </button>
      ))}
      {figures.onLimit !== null && figures.onLimit > 0 && offers.length === 0 && (op === '>=' || op === '<=') && (
        <span className="quiet text-[12px]">{count(figures.onLimit)} exactly on it</span>
      )}
      {figures.empty !== null && figures.empty > 0 && <span className="quiet text-[12px]">{count(figures.empty)} have no value</span>}
      {figures.never !== null && leaf.kind === 'signal' && leaf.count?.op === '=' && leaf.count.value === 0 && (
        <span className="quiet text-[12px]">{count(figures.never)} of them never did</span>
      )}
    </>
  );
}
