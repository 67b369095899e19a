import { type Catalogue } from '../../settings/catalogue.ts';
import { type Chunk } from './chunks.ts';
import { meaningOf } from './meanings.ts';
import { stem } from './tokens.ts';
import { GENERAL_NOUNS } from './words/language.ts';

const HOW = /^(via|through|by|from( an?)?|at|on|in|for|after|during|because|thanks|as|with)$/i;
/** Behind these stands a means, whatever it is called: `ordered via instagram` */
const ONLY_HOW = /^(via|through|thanks)$/i;
const BETWEEN = /^(of|to|an?|the|any|one|a single|single|same|every|each|all|our|their|his|her|my|this|that)$/i;
/** Behind these something else is said. */
const ANOTHER = /^(and|who|which|that)$/i;
const DEVICES =
  /^(phone|mobile|telephone|smartphone|computer|laptop|desktop|tablet|app|shop|store|website|web|internet|hand|person|company)$/i;
const ORDERS = ['order', 'item', 'thing', 'product', 'line', 'purchase', 'goods', 'stuff', 'anything', 'something'];
const MESSAGES = ['message', 'email', 'mail', 'newsletter', 'campaign', 'post', 'item', 'anything', 'something', 'stuff'];
/** What what happened is about, of the nouns that name nothing in particular, by how the key of its type begins. */
const OWN_NOUNS: Readonly<Record<string, readonly string[]>> = {
  order: ORDERS,
  checkout: ORDERS,
  message: MESSAGES,
  consent: MESSAGES,
  page: ['page', 'site', 'website', 'web', 'product', 'line', 'plan', 'membership', 'anything', 'something'],
  event: ['event', 'course', 'group', 'anything', 'something', 'thing', 'plan', 'membership'],
  form: ['form', 'questionnaire', 'quiz', 'survey', 'anything', 'something'],
  plan: ['plan', 'membership', 'subscription', 'item', 'anything', 'something'],
  course: ['course', 'event', 'group', 'anything', 'something'],
  file: ['file', 'page', 'site', 'website', 'web', 'anything', 'something'],
};

/** `the partner site`: words that stand together are one name. */
function endOfName(chunks: readonly Chunk[], at: number): number {
  const behind = chunks.slice(at).findIndex((chunk) => chunk.kind !== 'free' && !GENERAL_NOUNS.has(stem(chunk.text)));
  return behind < 0 ? chunks.length - 1 : at + Math.max(0, behind - 1);
}

/**
 * `ordered from the newsletter`, `bought glaze by phone`: by what means something was done, which is not known of it.
 *
 * @returns the places from the word before it to the noun
 */
export function meansIn(chunks: readonly Chunk[], catalogue: Catalogue): readonly { readonly from: number; readonly to: number }[] {
  let nouns: readonly string[] | undefined;
  return chunks.flatMap((chunk, at) => {
    const head = meaningOf(chunk, 'signal');
    if (head && typeof head.type === 'number') nouns = OWN_NOUNS[catalogue.get('signalType', head.type)?.key.split('.')[0] ?? ''];
    if (chunk.kind === 'joint' || ANOTHER.test(chunk.text)) nouns = undefined;
    if (!nouns || head || !HOW.test(chunk.text)) return [];
    const to = chunks.findIndex(({ text }, index) => index > at && !BETWEEN.test(text));
    const noun = chunks[to];
    if (!noun || meaningOf(noun, 'signal')) return [];
    if (ONLY_HOW.test(chunk.text) && (noun.kind === 'free' || /^thanks$/i.test(chunk.text)))
      return [{ from: at, to: endOfName(chunks, to) }];
    const word = stem(noun.text);
    const behind = chunks.slice(to + 1).find(({ kind }) => kind !== 'filler');
    // `ordered with email known`: something is asked of it.
    const isTested = behind !== undefined && ['cue', 'limit', 'free', 'thing', 'not'].includes(behind.kind) && behind.limit?.of !== 'times';
    if (/^with$/i.test(chunk.text) && isTested) return [];
    // `attended with their company`
    if (noun.cue === 'company' && /^(with|for|by)$/i.test(chunk.text) && !isTested) return [{ from: at, to }];
    const isDevice = DEVICES.test(word) && meaningOf(noun, 'detail') === undefined;
    // `registered as a group`
    const isOwn = nouns.includes(word) && !/^as$/i.test(chunk.text);
    return (isDevice || GENERAL_NOUNS.has(word)) && !isOwn ? [{ from: at, to }] : [];
  });
}
