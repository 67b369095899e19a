import { contracted, runOf } from '../tokens.ts';

/** What is said of whoever has more than the lowest interest in something. */
export const INTERESTED = ['interested in', 'is interested in', 'into', 'keen on', 'fond of', 'likes', 'loves'] as const;

/** Words that say of what a phrase speaks, or how. */
const WORDS = {
  stage: `stage, the ladder, ladder, at stage, in stage, on the ladder`,
  owner: `owner, owned by, belong to, belongs to, looked after by, owned, whose owner is, in the hand of, with owner, assigned to, handled by, owns them,
    minds, minded by, looks after, responsible for`,
  unowned: `unowned, unassigned, ownerless, nobody's, nobody owns, no one owns, noone owns`,
  tag: `tag, tagged, tagged with, tagged as, label, labelled, with tag, marked as`,
  cares: `${INTERESTED.join(', ')}, fan of, fan, cares about`,
  score: `score, point, scored, band`,
  audience: `in audience, audience, list, on the list, in the list, member of, part of, on list, segment, in segment, belonging to, joined, entered,
    came into, on the audience`,
  consent: `consent, consent to, may be, may we, consented, consented to, permission, opted in, opted in to, subscribed, subscribed to, agreed to, reachable, reachable by,
    can be reached by, may be written to, allowed, marketing consent, opt in, we may, we can, can be emailed, may be emailed, can be texted, may be texted, can be mailed, may be mailed, contactable,
    contactable by, mailable, emailable, gave consent to, given consent, consent given, given consent to, has given consent, has given consent to, have given consent, have given consent to, can be contacted by, gave consent for, who we may, we may write to, we can write to,
    we can email, we may email, be reached, be emailed, be mailed, be contacted, allowed to write to, allowed to email, can receive, may receive, allowed to receive, write to them, email them, be written to`,
  withdrawn: `no longer subscribed, not subscribed any more, not subscribed any longer, withdrawn, opted out, opted out of, withdrew, withdrew consent to, withdrew their consent to, revoked, opt out, took back, unsubscribed from, consent withdrawn`,
  undeliverable: `undeliverable, bouncing, bounce, invalid, dead`,
  email: `email, e-mail, mail, by email, by mail, newsletter, email address`,
  textChannel: `text message, sms, by text, by sms, via text, via sms, texting, text, be texted, texted`,
  chat: `chat, by chat, via chat, chat message`,
  deal: `deal, open deal, deal open, deal is open, deal that is open, deal still open, a deal, opportunity`,
  changed: `changed, change, moved, went, switched, turned, crossed, rose, climbed, fell, dropped, rise, fall, became,
    went up, went down, crossed into, moved into, went into, rose into, climbed into, fell into, dropped into, gone up, gone down, go up, go down, has risen, has fallen, risen, fallen, sank, slipped, slid, increased, decreased, become, turned into, grew, moved up, jumped,
    moved down, became a, changed to, moved to, just became, reached, new, falling, is falling, rising, is rising, climbing, growing, sinking,
    dropping, going up, going down, on the rise, improving, improved, worsened`,
  unanswered: `unanswered, went unanswered, nobody picked up, no one picked up, did not pick up, didn't pick up, not pick up, never picked up, nobody answered, no one answered, but no answer,
    and no answer, without an answer, no answer to our call, and they did not answer, and they didn't answer, but they did not answer, but they didn't answer,
    but did not answer, but didn't answer, but got no answer, and got no answer, and nobody answered, and nobody picked up, but nobody picked up,
    and no one picked up, but no one picked up, and no one answered, but nobody answered, but no one answered`,
  from: `from`,
  to: `to, into`,
  atLeast: `at least, or later, or beyond, or further, or higher, or above, or better, and up, and above, or more, and beyond, and higher, and later,
    or further on, at or beyond, and better, from`,
  below: `before, earlier than, not yet, below, under, less than, lower than, short of, or lower, or below, or less, or fewer, yet to be, yet to become`,
  above: `above, past, over, further than, later than, higher than, beyond, more than, better than`,
  empty: `unknown, empty, blank, not known, not set, unset, not filled, not filled in, nothing, missing, not given, no value, undefined, not there,
    is not known`,
  filled: `known, on file, on record, filled, filled in, set, given, present, has a value, is there, not empty, not blank, not unknown, not missing`,
  ever: `had, once had, used to have, used to be, has ever had, ever had, has had, ever been, ever, previously, at some point, in the past, formerly, before now, former, ex`,
  lost: `lost, no longer, not any more, no more, any more, lost tag, lost the tag, no longer has, stopped having, stopped being, ceased to be, ceased being, removed, was removed, taken off, was taken off, not any longer`,
  left: `left, has left, dropped out of, fell out of, no longer in, not in any more, went out of, gone from`,
  first: `first, the first, very first, only the first, first ever, for the first time, first one, the first one, the first time`,
  latest: `latest, the latest, newest, most recent, the most recent, only the latest, last, for the last time, last time, the last time, last one, the last one, latest one, most recently`,
  anniversary: `anniversary, has its anniversary, year ago, a year ago, year since, a year since, anniversaries`,
  tomorrow: `tomorrow`,
  contains: `contains, contain, containing, includes, include, like, matches, mention, mentions`,
  starts: `starts with, start with, begins with, begin with, beginning with, starting with`,
  ends: `ends with, end with, ending with, ends in, ending in, end in`,
  company: `company, company's, their company, firm, business, works at, work at, linked to, linked with, attached to, at place, at a place, work for, works for, from a`,
  product: `product, the product`,
  line: `line, from line, product line, of line, from the line, whose line is, from product line, item whose line is`,
  yes: `yes, true`,
  no: `no, false`,
  then: `then, followed by, and then, afterwards, after that, later, but then, since then, followed, since, ever since, came back to, came back and, came back later to, returned to`,
  oneOf: `one of, any of, either, any one of`,
  allOf: `all of, both`,
  age: `year old, year of age, aged, age, age of`,
  days: `day, different day, separate day`,
};
export type Cue = keyof typeof WORDS;

/** The runs of words of each cue, as tokens are compared. */
export const CUES: readonly (readonly [Cue, readonly string[]])[] = (Object.entries(WORDS) as [Cue, string][]).map(([cue, text]) => [
  cue,
  text.split(',').flatMap((words) => [...new Set([words, contracted(words)].map(runOf))]),
]);

/** All words of which cues are made. */
export const CUE_WORDS: ReadonlySet<string> = new Set(CUES.flatMap(([, runs]) => runs.flatMap((run) => run.split(' '))));
