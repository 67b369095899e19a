import { Catalogue, isGroup, lineText, readPhrase, type Condition } from '@eager-sieve/core';
import { demoCatalogue } from './catalogue';

const NOW = Date.UTC(2026, 10, 28, 10);
const demo: Catalogue = demoCatalogue();
const catalogue = demo.withColleagues([{ email: 'wren@fernhollow.example', name: 'Wren Halloran', isMe: false }]);
/** A condition as text, in which groups within groups of the same match are one. */
function written(condition: Condition): string {
  if (!isGroup(condition)) return lineText(condition, catalogue);
  const parts = condition.of.flatMap((each): Condition[] => (isGroup(each) && each.match === condition.match ? [...each.of] : [each]));
  return `${condition.match}(${parts.map(written).sort().join(' ; ')})`;
}
const read = (text: string): Condition | undefined =>
  readPhrase(text, catalogue, { now: NOW }).readings.find(({ unread }) => unread.length === 0)?.condition;
const meant = (text: string): string => {
  const condition = read(text);
  return condition ? written(condition) : 'not read';
};
const all = (...phrases: readonly string[]): string => together('all', phrases);
const together = (match: 'all' | 'any', phrases: readonly string[]): string =>
  written({
    match,
    of: phrases.map((phrase) => {
      const condition = read(phrase);
      if (!condition) throw new Error(`“${phrase}” is not read.`);
      return condition;
    }),
  });

const WHO = ['customers', 'eager people', 'deciders', 'people in Norway', 'members'];
const HAS = ['order', 'purchase', 'visit', 'meeting'];
const MORE = ['no phone', 'no open deal', 'a budget over 5000'];

describe('lines that are joined', () => {
  it('are of whom we did something with, and not begun by `to them`', () => {
    for (const [done, other] of [
      ['wrote to them', 'called them'],
      ['wrote to them', 'met with them'],
      ['spoke to them', 'wrote to them'],
      ['called them', 'wrote to them'],
      ['called', 'wrote'],
    ] as const)
      for (const how of ['we never', 'we have never', 'nobody', 'nobody ever']) {
        const phrase = `${how} ${done} or ${other}`;
        const inOneGo = [done, other].map((each) => meant(`we ${each}`).replace(' at least once ever', '')).join(' or ');
        expect({ phrase, is: [all(`we never ${done}`, `we never ${other}`), `${inOneGo} never ever`].includes(meant(phrase)) }).toEqual({
          phrase,
          is: true,
        });
      }
    expect(meant('we never wrote to them or they visited this week')).toBe(
      together('any', ['we never wrote to them', 'visited this week']),
    );
  });

  it('stand for each other before one “or”, at the time that is said at the end', () => {
    for (const [first, second, third] of [
      ['opened', 'clicked', 'replied'],
      ['visited', 'ordered', 'called us'],
      ['ordered', 'visited', 'attended an event'],
    ] as const)
      for (const when of ['', ' this week', ' in the last 30 days', ' in May']) {
        const later = `${second} or ${third}${when}`;
        expect([later, meant(`${first}, ${later}`)]).toEqual([later, together('any', [`${first}${when}`, later])]);
        expect([later, meant(`never ${first}, ${later}`)]).toEqual([later, all(`never ${first}${when}`, `never ${later}`)]);
        expect([later, meant(`customers, ${later}`)]).toEqual([later, all('customers', later)]);
      }
  });

  it('may say of one fact that it is missing, and of another that it is there', () => {
    const facts = ['phone', 'email', 'city', 'language', 'budget', 'birthday'];
    for (const one of facts)
      for (const other of facts.filter((each) => each !== one))
        for (const [missing, there] of [
          [`${one} missing`, `has ${other}`],
          [`${one} unknown`, `has a ${other}`],
          [`no ${one}`, `has ${other}`],
          [`without ${one}`, `with ${other}`],
          [`no ${one}`, `${other} known`],
        ] as const)
          for (const joint of [', ', ' and ', ' but ']) {
            const phrase = `${missing}${joint}${there}`;
            expect({ phrase, is: meant(phrase) }).toEqual({ phrase, is: all(`${one} missing`, `${other} known`) });
          }
    for (const [one, two, three] of [
      ['city', 'email', 'phone'],
      ['phone', 'city', 'email'],
      ['budget', 'phone', 'city'],
    ] as const)
      expect([one, meant(`no ${one}, ${two} or ${three}`)]).toEqual([one, all(`no ${one}`, `no ${two}`, `no ${three}`)]);
  });

  it('may say what somebody has behind whatever they did or did not', () => {
    for (const did of ['inactive for 45 days', 'has not ordered', 'left the till', 'language unknown'])
      for (const more of ['has a plan', 'has an email', 'joined Gone quiet this week'])
        expect([did, meant(`${did}, ${more}`)]).toEqual([did, all(did, more)]);
  });

  it('stand for each other before one “or” behind whoever it is asked of', () => {
    for (const who of ['eager people', 'Swedish speakers', 'unassigned leads', 'customers', 'people in Norway'])
      for (const [one, two] of [
        ['spent over 10000', 'ordered twice'],
        ['phone missing', 'city missing'],
        ['ordered clay', 'visited this week'],
      ] as const)
        expect({ who, one, is: meant(`${who}, ${one} or ${two}`) }).toEqual({
          who,
          one,
          is: written({ match: 'all', of: [read(who), { match: 'any', of: [read(one), read(two)] }] as Condition[] }),
        });
  });

  it('are no value of a change, and no number of times, before a comma', () => {
    for (const where of ['city is Saltwick', 'in Norway', 'region is Far Fields'])
      for (const change of ['fell from eager', 'became suited this month', 'rose to keen'])
        expect([where, meant(`${where}, ${change}`)]).toEqual([where, all(where, change)]);
    for (const phrase of ['under 25, ordered this month', 'under 25, became suited this month', 'over 60, visited wheels'])
      expect([phrase, meant(phrase)]).toEqual([phrase, 'not read']);
  });

  it('say how a call ended of the call alone', () => {
    for (const call of ['answered the phone', 'missed our calls', 'took our call'])
      for (const other of ['downloaded a file', 'visited a page', 'met with us'])
        for (const [one, two] of [
          [call, other],
          [other, call],
        ] as const)
          expect({ one, two, is: meant(`${one} or ${two}`) }).toEqual({ one, two, is: together('any', [one, two]) });
  });

  it('do not deny behind `without` what somebody did', () => {
    for (const done of ['left the till', 'visited a page', 'opened a message'])
      expect({ done, is: meant(`without ordering or ${done}`) }).toEqual({ done, is: together('any', ['without ordering', done]) });
  });

  it('may each be what somebody has or has not', () => {
    for (const who of WHO)
      for (const has of HAS)
        for (const more of MORE)
          for (const when of ['', ' in 90 days', ' this year']) {
            const phrase = `${who} with no ${has}${when} and ${more}`;
            expect({ phrase, is: meant(phrase) }).toEqual({ phrase, is: all(who, `no ${has}${when}`, more) });
          }
    expect(meant('customers with two orders and a phone')).toBe(all('customers', 'two orders', 'phone known'));
  });

  it('all hold where somebody is “also” the other', () => {
    for (const who of WHO)
      for (const other of ['customers', 'deciders', 'members'].filter((each) => each !== who))
        for (const also of ['who are also', 'that are also']) {
          const phrase = `${who} ${also} ${other}`;
          expect({ phrase, is: meant(phrase) }).toEqual({ phrase, is: all(who, other) });
        }
  });

  it('stand for each other before a comma with “but” or “and”, and what follows is asked beside them', () => {
    const either = ['attended a class or visited wheels', 'customers or in Norway', 'visited wheels or eager', 'in Norway or with a phone'];
    for (const one of either)
      for (const joint of [', but', ', and']) {
        const phrase = `${one}${joint} never bought a wheel`;
        expect({ phrase, is: meant(phrase) }).toEqual({ phrase, is: all(one, 'never bought a wheel') });
      }
  });

  it('say each how often, and when at the end, for both', () => {
    for (const when of ['', ' this year', ' in the last 30 days']) {
      expect(meant(`bought clay twice and glaze three times${when}`)).toBe(
        all(`bought clay twice${when}`, `bought glaze three times${when}`),
      );
      expect(meant(`visited wheels 3 times and kilns twice${when}`)).toBe(
        all(`visited wheels 3 times${when}`, `visited kilns twice${when}`),
      );
      expect(meant(`neither ordered nor visited${when}`)).toBe(all(`never ordered${when}`, `never visited${when}`));
    }
  });

  it('are each about a fact that is missing', () => {
    const facts = ['phone', 'email', 'city', 'budget', 'birthday'];
    for (const one of facts)
      for (const other of facts.filter((each) => each !== one))
        for (const [joint, match] of [
          ['or', 'any'],
          ['and', 'all'],
        ] as const)
          for (const [first, second] of [
            [`${one} missing`, `${other} missing`],
            [`${one} is missing`, `${other} is unknown`],
            [`${one} missing`, `no ${other}`],
          ] as const) {
            const phrase = `${first} ${joint} ${second}`;
            const is = all(first, second).replace(/^all/, match);
            expect({ phrase, is: meant(phrase) }).toEqual({ phrase, is });
          }
  });

  it('are each denied for itself, and two denials do not cancel out', () => {
    const denied = [
      'no deals',
      'no phone',
      'no consent to text',
      'do not email',
      'without a company',
      'never ordered',
      'not a customer',
      'no owner',
    ];
    for (const one of denied)
      for (const other of denied.filter((each) => each !== one))
        for (const joint of [', ', ' and ', ' but ']) {
          const phrase = `${one}${joint}${other}`;
          expect({ phrase, is: meant(phrase) }).toEqual({ phrase, is: all(one, other) });
        }
    for (const one of denied)
      for (const joint of [', ', ' and '])
        expect([one, meant(`${one}${joint}${one}`)]).toEqual([one, expect.not.stringContaining('at least 1')]);
    expect(meant("can't be texted, don't email")).toBe(all("can't be texted", "don't email"));
    expect(meant('email undeliverable but may not be texted')).toBe(all('email undeliverable', 'may not be texted'));
    expect(meant('no deals at all but in Glaze keepers')).toBe(all('no deals', 'in Glaze keepers'));
  });

  it('stand for each other where the second says itself how it is', () => {
    for (const [one, other] of [
      ['no owner', 'owner wren'],
      ['no kiln', 'owns a kiln'],
      ['without a company', 'works at Harbour Inn'],
      ['no birthday', 'country unknown'],
      ['never ordered', 'silent for 60 days'],
      ['never ordered', 'became inactive'],
      ['never ordered', 'ordered at least 3 times'],
    ] as const) {
      const phrase = `${one} or ${other}`;
      expect({ phrase, is: meant(phrase) }).toEqual({ phrase, is: all(one, other).replace(/^all/, 'any') });
    }
  });

  it('have each the time that is said of it', () => {
    expect(meant('called us in the last week or visited wheels this week')).toBe(
      all('called us in the last week', 'visited wheels this week').replace(/^all/, 'any'),
    );
    expect(meant('ordered last month, visited wheels this month')).toContain('from 2026-10-01 until 2026-11-01');
    expect(meant('downloaded a file or ordered twice')).toBe(all('downloaded a file', 'ordered twice').replace(/^all/, 'any'));
    expect(meant('unsubscribed but no orders in a year')).toBe(all('unsubscribed', 'no orders in a year'));
    expect(meant('registered for the raku evening and not called in 3 months')).toBe(
      all('registered for the raku evening', 'not called in 3 months'),
    );
  });

  it('are one for each month or year that is named', () => {
    const [may, june, july] = ['ordered in May', 'ordered in June', 'ordered in July'];
    expect(meant('ordered in May and June')).toBe(all(may, june));
    expect(meant('ordered in May or June')).toBe(all(may, june).replace(/^all/, 'any'));
    expect(meant('ordered in May, June or July')).toBe(all(may, june, july).replace(/^all/, 'any'));
  });

  it('are about the same thing where only one of them names it', () => {
    expect(meant('started but never finished a course')).toBe(all('started a course', 'never finished a course'));
    expect(meant('started and renewed a plan')).toBe(all('started a plan', 'renewed a plan'));
  });
});

describe('what nobody can tell', () => {
  it.each([
    // which colleague called them
    'people Wren called last week',
    'called by Wren',
    // what somebody would like, or is about to do
    'wants a call back',
    'needs a meeting',
    'members about to renew',
    'about to order',
    // how long ago is recent
    'recent buyers',
    // where a company is, of which only its region is known here
    'people whose company is in Norway',
    'works at a company in Norway',
    'without a company in Norway',
    // what several deals are worth together
    'won deals worth 50000 in total',
    'owner of the company is Sol',
    // whether somebody may be called
    "can't be called",
    'may be called',
    // which ones followed each other
    'missed two classes in a row',
    // what else they ordered
    'ordered something other than clay',
    // since when, and until when
    'ordered not before June',
    'ordered up to last week',
    // which one it was
    'order number 5',
    // how many of a hundred
    'opened at least 50% of emails',
  ])('is not read as something else: %s', (phrase) => {
    expect(meant(phrase)).toBe('not read');
  });

  it('keeps to what it is said of, whatever stands beside it', () => {
    for (const [one, other] of [
      ['visited a page with kiln in it', 'never ordered'],
      ["hasn't ordered for 90 days", 'renews within a week'],
      ['new this week', 'country is known'],
      ['cancelled their bench this year', 'fewer than 2 hours left this month'],
      ['never ordered glaze', 'eager'],
    ] as const)
      expect(meant(`${one}, ${other}`)).toBe(all(one, other));
    for (const [one, other] of [
      ['new this week', 'country is known'],
      ['ordered glaze', 'more than 2 hours left this month'],
      ['no glaze ordered this year', 'eager'],
    ] as const)
      expect(meant(`${one} or ${other}`)).toBe(together('any', [one, other]));
  });

  it('is no reason not to read what is like it', () => {
    expect(meant('missed two classes')).toContain('missed an event');
    expect(meant('customers other than those who bought a wheel')).toBe(all('customers', 'never bought a wheel'));
    expect(meant('decider but not buyer')).toBe(all('part in the purchase is decider', 'part in the purchase is not buyer'));
    expect(meant('utm source is partner')).toBe('source of the first campaign is partner');
    expect(meant('owned by Wren, called last week')).toBe(all('owned by Wren', 'called last week'));
    expect(meant('works at a cafe in Norway')).toBe(all('works at a cafe', 'in Norway'));
    expect(meant('former members')).toBe(meant('lost the tag bench.member'));
    expect(meant('ex-members')).toBe(meant('former members'));
  });
});
