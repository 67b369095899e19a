/** Who is asked for, of whom nothing is said by that. */
const SOMEBODY =
  '((all|every|the|our|any|only|of)\\s+)*(people|persons|contacts|those|everyone|everybody|anyone|anybody|customers|clients|members|leads|buyers)\\b';
const ASKING = [
  '(please\\s+)?(can|could|would) (you|we|i)( please)?',
  'please',
  "(i|we)(['’]d| would) like( to (see|have|find|reach))?",
  '(i|we) (want|need)( to (see|find|have|get|reach))?',
  '(show|give|get|find|list|pull|fetch|select|filter|search|make|build|create|count)( me| us| up)?( for)?',
  'how many( of (our|the))?',
  'which( of (our|the))?',
].join('|');
const LIST = '((an?|the|all|every|our)\\s+)*(lists?|segments?|audiences?|groups?|count) (of|with|for)\\s+';
const SENDING = '(e-?mail|mail|text|message|write to|send( it| this| an email| a message)? to|target|invite|reach)';
const SHOWING = '(show|give|get|find) (me|us)\\s+';
const FILTERING = 'filter(ed)? (by|on)\\s+';

const LEAD_IN = new RegExp(`^\\s*(?:(?:(?:${ASKING})\\s+)*(?:${LIST}|${SHOWING}|${FILTERING}|(?:${SENDING}\\s+)?(?=${SOMEBODY})))`, 'i');

/** How a line of a list begins: `- `, `• `, `1. `, `a) ` */
const MARK = /^\s*(?:[-–—*•·▪]|\(?(?:\d{1,2}|[a-z])[.)])\s+(?=\S)/i;
const AROUND = /^(\s*)(?:\([^()]*\)|"[^"]*"|“[^”]*”|‘[^’]*’|'[^']*')\s*$/;

/**
 * What of a text is the phrase itself, without the mark of a list, what stands around it, and how it is begun and ended as one would ask a
 * colleague: `1. (give me a list of customers, please)`
 *
 * @returns from where to where
 */
export function phraseIn(text: string): { readonly from: number; readonly to: number } {
  const marked = MARK.exec(text)?.[0].length ?? 0;
  const around = AROUND.exec(text.slice(marked));
  const [from, to] = around ? [marked + (around[1]?.length ?? 0) + 1, text.trimEnd().length - 1] : [marked, text.length];
  const inside = text.slice(from, to);
  return { from: from + leadIn(inside), to: from + leadOut(inside) };
}

const leadIn = (text: string): number => LEAD_IN.exec(text)?.[0].length ?? 0;

const LEAD_OUT = /(?:\s*(?:[.!?…]|,?\s(?:please|thanks|thank you|right now|at the moment|too|as well)(?=[\s.!?…]*$)))+\s*$/i;

/** `please`, and the sign behind a sentence: where what is said ends. */
const leadOut = (text: string): number => text.length - (LEAD_OUT.exec(text)?.[0].length ?? 0);
