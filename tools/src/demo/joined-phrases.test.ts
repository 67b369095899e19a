import { isGroup, lineText, readPhrase, type Condition } from '@eager-sieve/core';
import { demoCatalogue } from './catalogue';

const NOW = Date.UTC(2026, 10, 28, 10);
const catalogue = demoCatalogue().withPeople(new Set(['sol', 'wren', 'ines'].map((name) => `${name}@fernhollow.example`)));
const written = (condition: Condition): string =>
  isGroup(condition) ? `${condition.match}[${condition.of.map(written).join(' ; ')}]` : lineText(condition, catalogue);

/** Lines of all kinds, which say the same wherever they stand. */
const LINES = [
  'eager',
  'keenness over 40',
  'keenness rose above curious',
  'wheel interest strong',
  'customer',
  'became suited',
  'in talks for more than 30 days',
  'in Sweden',
  'city is Saltwick',
  'email contains gmail',
  'phone unknown',
  'budget over 8000',
  'years at the wheel over 3',
  'birthday this week',
  'turned 60',
  'has own kiln',
  'works by throwing',
  'tagged glaze.buyer',
  'tag snag.price',
  'in Glaze keepers',
  'left Glaze keepers',
  'owner wren',
  'consent to email',
  'opted out of email',
  'bought glaze',
  'ordered at least 3 times',
  'only bought once',
  'ordered 3x',
  'spent over 5000',
  'an order over 1000',
  'last order over 500',
  'left something in the till',
  'visited /wheels twice',
  'looked at the kiln page yesterday',
  'opened Your glaze shelf',
  'clicked which clay are you',
  'received nothing for 60 days',
  'silent for 60 days',
  'registered for the raku evening',
  'came to the kiln opening',
  'plan is Kiln',
  'deal in quote',
  'open deal over 5000',
  'company is a café',
  'more than 40 seats',
  'answered Find your clay',
  'downloaded a file',
  'wrote to us by chat',
  'we called them this month',
  'came from campaign spring-fair',
  'people over 60',
];

describe('what people type in one go', () => {
  it('takes lines that are joined for what each of them is', () => {
    /** the lines of the first reading; none where a word of it is left over */
    const linesOf = (phrase: string): readonly string[] | undefined => {
      const [first] = readPhrase(phrase, catalogue, { now: NOW }).readings;
      if (!first || first.unread.length > 0) return undefined;
      return isGroup(first.condition) && first.condition.match === 'all' ? first.condition.of.map(written) : [written(first.condition)];
    };
    const alone = LINES.map((phrase) => linesOf(phrase) ?? []);
    expect(alone.filter((lines) => lines.length === 0)).toEqual([]);
    const read = { asBoth: 0, not: 0 };
    for (const [one, first] of LINES.entries())
      for (const [other, second] of LINES.entries())
        for (const joint of [' and ', ', ', ' but ']) {
          // A part of them all, since each costs some milliseconds.
          if (one === other || (one * 7 + other * 3 + joint.length) % 13 !== 0) continue;
          const phrase = `${first}${joint}${second}`;
          const lines = linesOf(phrase);
          if (lines) expect([phrase, lines]).toEqual([phrase, [...(alone[one] ?? []), ...(alone[other] ?? [])]]);
          read[lines ? 'asBoth' : 'not'] += 1;
        }
    expect(read.asBoth).toBeGreaterThan(10 * read.not);
  });

  it('takes lines of different kinds between which an “or” stands for either', () => {
    const readingOf = (phrase: string): Condition | undefined =>
      readPhrase(phrase, catalogue, { now: NOW }).readings.find(({ unread }, place) => place === 0 && unread.length === 0)?.condition;
    const kindOf = (condition: Condition): string => {
      if (isGroup(condition)) return 'group';
      const { kind } = condition;
      if (kind === 'field') return `field ${condition.field}`;
      return kind === 'band' || kind === 'score' ? `score ${condition.scorecard}` : kind;
    };
    const alone = LINES.map((phrase) => readingOf(phrase) as Condition);
    const read = { asEither: 0, not: 0 };
    for (const [one, first] of alone.entries())
      for (const [other, second] of alone.entries()) {
        const kinds = [kindOf(first), kindOf(second)];
        // `became suited or customer` is one change, and a group may be one thing that was done.
        if ((one + other) % 13 !== 0 || kinds[0] === kinds[1] || kinds.includes('group') || kinds.includes('change')) continue;
        const phrase = `${LINES[one]} or ${LINES[other]}`;
        const reading = readingOf(phrase);
        if (reading) expect([phrase, written(reading)]).toEqual([phrase, `any[${written(first)} ; ${written(second)}]`]);
        read[reading ? 'asEither' : 'not'] += 1;
      }
    expect(read.asEither).toBeGreaterThan(10 * read.not);
  });
});
