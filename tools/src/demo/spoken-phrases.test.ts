import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { readPhrase } from '@eager-sieve/core';
import { demoCatalogue } from './catalogue';

const NOW = Date.UTC(2026, 10, 28, 10);
const catalogue = demoCatalogue().withPeople(new Set(['sol', 'wren', 'ines'].map((name) => `${name}@fernhollow.example`)));
const PHRASES = readFileSync(join(__dirname, 'phrases.txt'), 'utf8')
  .split('\n')
  .filter((line) => line !== '' && !line.startsWith('#'))
  .map((line) => line.split(' → ')[0] ?? '');
const read = (text: string): unknown => readPhrase(text, catalogue, { now: NOW }).readings[0]?.condition;

const NUMBERS: Readonly<Record<string, string>> = { 2: 'two', 3: 'three', 6: 'six', 30: 'thirty', 45: 'forty-five', 90: 'ninety' };
const DENIED = '(?=(?:not|never|no)\\b)';

/** Ways of writing the same, each with how many phrases it is to be tried on at least. */
const WAYS: readonly (readonly [name: string, least: number, write: (phrase: string) => string])[] = [
  ['with curly apostrophes', 20, (phrase) => phrase.replaceAll("'", '’')],
  ['without apostrophes', 20, (phrase) => phrase.replaceAll("n't", 'nt')],
  ['with an ampersand', 100, (phrase) => phrase.replaceAll(' and ', ' & ')],
  ['with numbers as words', 100, (phrase) => phrase.replace(/(?<![\d.])(\d+)(?= (days|weeks|months|years))/, (n) => NUMBERS[n] ?? n)],
  ['with wide gaps', 1_000, (phrase) => phrase.replaceAll(' ', '  ')],
  ['as “not once”', 30, (phrase) => (/^never in /.test(phrase) ? phrase : phrase.replace(/\bnever\b/, 'not once'))],
  ['with “yet”', 30, (phrase) => phrase.replace(new RegExp(` but ${DENIED}`), ' yet ')],
  ['with “though”', 30, (phrase) => phrase.replace(new RegExp(` but ${DENIED}`), ' though ')],
  ['with “even though”', 30, (phrase) => phrase.replace(new RegExp(` but ${DENIED}`), ', even though ')],
  [
    'with “not yet”',
    60,
    (phrase) => phrase.replace(/\b((?:did|has|have|had|was|were|is|are|does|do) not|\w+n't) (?!yet\b)(?=\p{L})/iu, '$1 yet '),
  ],
  ['as a line of a list', 1_000, (phrase) => `1. ${phrase}`],
  ['behind a bullet', 1_000, (phrase) => `• ${phrase}`],
  ['in brackets', 1_000, (phrase) => `(${phrase})`],
  ['in quotation marks', 1_000, (phrase) => (phrase.includes('"') ? phrase : `“${phrase}”`)],
];

describe('what is written in another way', () => {
  it.each(WAYS)('%s, is read the same', (_, least, write) => {
    const tried = PHRASES.filter((phrase) => write(phrase) !== phrase);
    expect(tried.length).toBeGreaterThan(least);
    for (const phrase of tried) {
      const written = write(phrase);
      expect({ written, meant: read(written) }).toEqual({ written, meant: read(phrase) });
    }
  });

  it('in short, is read as in full', () => {
    for (const [short, full] of [
      ["they're eager", 'eager'],
      ['they’re in Sweden and they’ve ordered twice', 'in Sweden and ordered twice'],
      ["who've never ordered", 'never ordered'],
      ["people that've not opened an email in 60 days", 'have not opened an email in 60 days'],
      ["people we've called this week", 'people we called this week'],
      ['customers, yet not members', 'customers but not members'],
      ['Although they ordered they are not eager', 'ordered but not eager'],
      ['has not ordered yet, no phone', 'never ordered, no phone'],
      ['ordered clay + opened an email', 'ordered clay and opened an email'],
      ['must have ordered twice', 'ordered twice'],
      ['should be in Sweden', 'in Sweden'],
      ['have ever bought glaze twice in the last 120 days', 'bought glaze twice in the last 120 days'],
      ['ordered with us or called us', 'ordered or called us'],
      ['spent over 500 with us this year', 'spent over 500 this year'],
      ['eager these days or ordered', 'eager or ordered'],
      ['ordered glaze here', 'ordered glaze'],
      ['never opened, clicked and/or replied', 'never opened, clicked or replied'],
      ['bought clay products or glaze products', 'bought clay or glaze'],
      ['has not opened an email recently', 'has not opened an email in the last 30 days'],
      ['ordered glaze lately', 'ordered glaze in the last 30 days'],
      ['recently ordered in May', 'ordered in May'],
    ] as const)
      expect([short, read(short)]).toEqual([short, read(full)]);
  });

  it('with a comma before the last of several, is said of them all', () => {
    for (const [parted, meant] of [
      ['opened, clicked, or replied this week', 'opened, clicked or replied this week'],
      ['never opened, clicked, or replied this week', 'never opened, clicked or replied this week'],
      ['visited, ordered, or called us this month', 'visited, ordered or called us this month'],
      ['started, but never finished a course', 'started but never finished a course'],
    ] as const)
      expect([parted, read(parted)]).toEqual([parted, read(meant)]);
    // Here nothing is a verb alone, so that any of the three is enough.
    expect(read('customers, bought glaze, or attended a class')).toMatchObject({ match: 'any', of: [{}, {}, {}] });
  });

  it('“not yet” and “yet to” deny what stands behind them, whatever a choice is called', () => {
    for (const [written, meant] of [
      ['has not yet ordered', 'has not ordered'],
      ['leads not yet called', 'leads not called'],
      ['not yet a member', 'not a member'],
      ['has yet to order glaze', 'has never ordered glaze'],
      ['members yet to order this year', 'members who have not ordered this year'],
      ['yet to become customers', 'not yet customers'],
    ] as const)
      expect([written, read(written)]).toEqual([written, read(meant)]);
    expect(read('not yet a customer')).toMatchObject({ kind: 'stage', op: 'is before' });
    expect(read('classes yet to come')).toBeUndefined();
  });

  it('denies what is said behind what it was not done to', () => {
    for (const [written, meant] of [
      ['no glaze ordered this year', 'never ordered glaze this year'],
      ['no clay or glaze bought', 'never bought clay or glaze'],
      ['customers with no glaze ordered in 90 days', 'customers who have not ordered glaze in 90 days'],
      ['no phone and ordered glaze', 'phone missing and ordered glaze'],
    ] as const)
      expect([written, read(written)]).toEqual([written, read(meant)]);
  });

  it('goes on with what is allowed', () => {
    expect(read('can be emailed but not texted')).toEqual(read("can be emailed and can't be texted"));
    expect(read("can't be texted but emailed")).toEqual(read("can't be texted but can be emailed"));
    // Nobody is asked whether they may be called.
    for (const phrase of [
      'can be emailed but not called',
      'may not be called but emailed',
      'can be texted, not called',
      'agreed to be called',
    ])
      expect([phrase, read(phrase)]).toEqual([phrase, undefined]);
  });

  it('is about what stands before: of what was cancelled, by whom it was tagged, for what else, how many of which time', () => {
    for (const phrase of [
      'cancelled an order',
      'cancelled their registration',
      'tagged by Sol',
      'tagged glaze buyer by Sol',
      'customers tagged by Wren',
    ])
      expect([phrase, read(phrase)]).toEqual([phrase, undefined]);
    for (const [written, meant] of [
      [
        'registered for the raku evening but not for the kiln opening',
        'registered for the raku evening, never registered for the kiln opening',
      ],
      ['no order for 120 days but opened an email in the last 30', 'no order for 120 days but opened an email in the last 30 days'],
      ['ordered in the last 2 months, not in the past 2', 'ordered in the last 2 months, not in the past 2 months'],
    ] as const)
      expect([written, read(written)]).toEqual([written, read(meant)]);
    expect(read('no order for 120 days but opened an email in the last 30')).toMatchObject({ match: 'all', of: [{}, {}] });
    expect(read('tagged glaze buyer and owned by Sol')).toMatchObject({ match: 'all', of: [{ kind: 'tag' }, { kind: 'owner' }] });
  });

  it('counts no people as times', () => {
    expect(read('at least 3 people opened an email')).toBeUndefined();
    expect(read('companies where two people ordered')).toBeUndefined();
  });

  it('tells of what was once, where somebody has ever been it', () => {
    expect(read('has ever been a member')).toMatchObject({ kind: 'tag', op: 'had' });
  });

  it.each(['ordered cheaply', 'opened emails immediately', 'bought late in May', 'recent buyers'])(
    'names nothing by how or when it was done: %s',
    (phrase) => {
      expect(read(phrase)).toBeUndefined();
      const { unknown, inTheWay } = readPhrase(phrase, catalogue, { now: NOW });
      expect(unknown.length + inTheWay.length).toBeGreaterThan(0);
    },
  );

  it('is one or the other, whatever stands before the “or”', () => {
    expect(read('bought glaze from us or attended a class')).toEqual(read('bought glaze or attended a class'));
    expect(read('no phone or recommended by a friend')).toMatchObject({ match: 'any', of: [{}, {}] });
    expect(read('customers, ordered from us or visited the site')).toMatchObject({
      match: 'all',
      of: [{}, { match: 'any', of: [{}, {}] }],
    });
  });

  it('never leaves out an “or” without saying so', () => {
    const isEither = (condition: unknown): boolean =>
      /"(match":"(any|none)|type":\[\d+,|(value|to|from)":\[[^\]]+,)/.test(JSON.stringify(condition));
    let tried = 0;
    for (const [at, one] of PHRASES.entries()) {
      const phrase = `${one} or ${PHRASES[(at * 7 + 3) % PHRASES.length] ?? ''}`;
      const [first] = readPhrase(phrase, catalogue, { now: NOW }).readings;
      if (!first || /\b(not|no|never|none|nobody|nothing|without|neither|only|missing|unknown|left|all but|\w+n't)\b/i.test(phrase))
        continue;
      tried += 1;
      expect({ phrase, said: isEither(first.condition) || first.unread.length > 0 }).toEqual({ phrase, said: true });
    }
    expect(tried).toBeGreaterThan(500);
  });

  it('says nothing of a sign that is part of a number', () => {
    expect(read('silent for 90+ days')).toEqual(read('silent for 90 days or more'));
    expect(read('spent over 5  000')).toEqual(read('spent over 5000'));
    expect(read('not silent for forty-five days')).toEqual(read('not silent for 45 days'));
  });
});
