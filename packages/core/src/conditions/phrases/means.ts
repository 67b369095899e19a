import { type Catalogue } from '../../settings/catalogue.ts';
import { type Chunk } from './chunks.ts';
import { meaningOf } from './segment.ts';
import { stem } from './tokens.ts';
import { GENERAL_NOUNS } from './words/language.ts';

const HOW = /^(via|through|by|from( an?)?|at|on|in|for|after|during|because|thanks to)$/i;
const BETWEEN = /^(of|an?|the|any|one|a single|single|same|every|each|all|our|their|his|her|my|this|that)$/i;
/** Behind these something else is said. */
const ANOTHER = /^(with|and|who|which|that)$/i;
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
    const word = stem(noun.text);
    const isDevice = DEVICES.test(word) && meaningOf(noun, 'detail') === undefined;
    return (isDevice || GENERAL_NOUNS.has(word)) && !nouns.includes(word) ? [{ from: at, to }] : [];
  });
}
