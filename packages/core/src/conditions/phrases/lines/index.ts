import { type Condition } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Meaning } from '../lexicon.ts';
import { meaningOf } from '../meanings.ts';
import { Segment } from '../segment.ts';
import { ageLine, isAge, isAgeOfPeople, isTurning, turningLine } from './ages.ts';
import { stem } from '../tokens.ts';
import { GENERAL_NOUNS } from '../words/language.ts';
import { answeredLine } from './answers.ts';
import { audienceLine } from './audiences.ts';
import { bandChange, ownerChange, stageChange } from './changes.ts';
import { companyLine } from './companies.ts';
import { consentLine, isToBeTexted } from './consent.ts';
import { dealLine } from './deals.ts';
import { fieldLine } from './facts.ts';
import { isForbidden, isPlan, WRITTEN, type LineReading, type Phrase } from './phrase.ts';
import { messageLine } from './messages.ts';
import { contactsReadings } from './of-contacts.ts';
import { isItsEnd, planEndLine, planLine } from './plans.ts';
import { signalLine } from './signals.ts';
import { bandLine, familyLine, noStageLine, ownerLine, scoreLine, stageLine, tagLine, unownedLine } from './standing.ts';

/**
 * One way to read a segment, and how much less likely it is than others that make use of as many words: what a workspace calls by name comes before
 * what is guessed from a choice or a key.
 */
interface Way {
  readonly read: (segment: Segment) => Condition | undefined;
  readonly unlikely: number;
}
const way = (read: Way['read'], unlikely = 0): Way => ({ read, unlikely });

const COMING = /\b(came|come|comes|from|by|through|via|source|added|is|not)\b/i;

/** Reads pieces of a phrase as one line, in every way that they can be meant. */
export function lineReadings(phrase: Phrase, chunks: readonly Chunk[]): readonly LineReading[] {
  const ways = chunks.flatMap((chunk, index) => [
    ...(chunk.kind === 'thing' || chunk.kind === 'cue' || (chunk.kind === 'filler' && WRITTEN.has(chunks[index + 1]?.cue))
      ? chunk.meanings.flatMap((meaning) => waysByMeaning(phrase, chunks, chunk, meaning))
      : []),
    ...waysByCue(phrase, chunks, chunk),
  ]);
  const readings = ways.flatMap(({ read, unlikely }) => {
    const segment = new Segment(chunks);
    const condition = read(segment);
    return condition && !segment.isRefused ? [{ condition, score: segment.score - unlikely, unread: segment.unread }] : [];
  });
  if (phrase.of !== 'company') return readings;
  return [...readings, ...contactsReadings(phrase, chunks, (inner) => lineReadings({ ...phrase, of: 'contact' }, inner))];
}

function waysByMeaning(phrase: Phrase, chunks: readonly Chunk[], chunk: Chunk, meaning: Meaning): readonly Way[] {
  const ofCompany = phrase.of === 'company';
  const isOwn = (field: number): boolean => (phrase.catalogue.body('field', field)?.of === 'company') === ofCompany;
  switch (meaning.kind) {
    case 'signal':
      // Who opted out is rather asked how it stands than when it was.
      return [way((segment) => signalLine(phrase, segment, chunk, meaning), chunk.cue === 'withdrawn' ? 0.2 : 0)];
    case 'planEnd':
      return ofCompany ? [] : [way((segment) => planEndLine(phrase, segment, chunk))];
    case 'field':
      return [way((segment) => fieldLine(phrase, segment, chunk, meaning.field), isOwn(meaning.field) ? 0 : 0.2)];
    case 'option':
      // “A form” is a choice of how somebody came: without a word of coming it is just any form.
      if (GENERAL_NOUNS.has(stem(chunk.text)) && !chunks.some(({ text }) => COMING.test(text))) return [];
      return [way((segment) => fieldLine(phrase, segment, undefined, meaning.field), isOwn(meaning.field) ? 0.1 : 0.5)];
    case 'value':
      return [way((segment) => fieldLine(phrase, segment, undefined, meaning.field), isOwn(meaning.field) ? 0.3 : 0.5)];
    case 'tag':
      return ofCompany ? [] : [way((segment) => tagLine(phrase, segment, chunk, meaning.tag), meaning.isPart ? 0.5 : 0)];
    case 'stage':
      return ofCompany ? [] : [way((segment) => stageLine(phrase, segment)), way((segment) => stageChange(phrase, segment), 0.05)];
    case 'band':
      return [
        way((segment) => bandLine(phrase, segment, meaning.scorecard), 0.15),
        way((segment) => bandChange(phrase, segment, meaning.scorecard), 0.2),
      ];
    case 'scorecard':
      return [
        way((segment) => scoreLine(segment, chunk, meaning.scorecard)),
        way((segment) => bandLine(phrase, segment, meaning.scorecard, chunk)),
        way((segment) => bandChange(phrase, segment, meaning.scorecard, chunk)),
      ];
    case 'audience':
      return [
        way(
          (segment) => audienceLine(phrase, segment, chunk, meaning.audience),
          meaning.isPart && !/^in$/i.test(chunks[chunks.indexOf(chunk) - 1]?.text ?? '') ? 0.3 : -0.2,
        ),
      ];
    case 'form':
    case 'answer':
    case 'question':
      return [way((segment) => answeredLine(phrase, segment), 0.8)];
    case 'person':
      return ofCompany ? [] : [way((segment) => ownerLine(phrase, segment), 0.1)];
    case 'family':
      return ofCompany ? [] : [way((segment) => familyLine(phrase, segment, chunk, meaning.family), 0.6)];
    case 'message':
      return ofCompany || chunks.some((each) => meaningOf(each, 'signal')) ? [] : [way((segment) => messageLine(phrase, segment), 0.8)];
    case 'fieldOfDeals':
      return chunks.some(({ cue }) => cue === 'deal') ? [] : [way((segment) => dealLine(phrase, segment), 0.2)];
    case 'pipeline':
    case 'detail':
      return [];
  }
}

function waysByCue(phrase: Phrase, chunks: readonly Chunk[], chunk: Chunk): readonly Way[] {
  const { cue } = chunk;
  if (cue === 'deal') return [way((segment) => dealLine(phrase, segment))];
  if (phrase.of === 'company') return [];
  if (chunk.kind === 'free' && isItsEnd(chunk)) return [way((segment) => planEndLine(phrase, segment, chunk), 0.6)];
  if (isPlan(chunk)) return [way((segment) => planLine(phrase, segment, chunk), 0.6)];
  if (isTurning(chunk)) return [way((segment) => turningLine(phrase, segment, chunk))];
  if (isAge(chunk)) return [way((segment) => ageLine(phrase, segment))];
  if (isAgeOfPeople(chunks, chunk)) return [way((segment) => ageLine(phrase, segment), 0.3)];
  // Of which scorecard, nobody said.
  if (cue === 'score')
    return phrase.catalogue
      .all('scorecard')
      .filter(({ body }) => (body.of ?? 'contact') === 'contact')
      .flatMap((card, index) => [
        way((segment) => scoreLine(segment, chunk, card.id), 0.4 + 0.1 * index),
        way((segment) => bandChange(phrase, segment, card.id, chunk), 0.4 + 0.1 * index),
      ]);
  if (cue === 'company') return [way((segment) => companyLine(phrase, segment, chunk), 0.6)];
  if (cue === 'unowned') return [way(unownedLine)];
  if (cue === 'owner') return [way((segment) => ownerLine(phrase, segment)), way(ownerChange, -0.1)];
  if (cue === 'stage') return [way((segment) => stageChange(phrase, segment), 0.3), way((segment) => noStageLine(phrase, segment), 0.3)];
  if (cue === 'consent' || cue === 'withdrawn' || cue === 'undeliverable') return [way((segment) => consentLine(phrase, segment))];
  const isAsked = cue === 'email' || isToBeTexted(chunk) || ((cue === 'textChannel' || cue === 'chat') && isForbidden(chunks, chunk));
  return isAsked ? [way((segment) => consentLine(phrase, segment), 0.3)] : [];
}
