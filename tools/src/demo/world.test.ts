import { builtInSignalTypes, isEmail, readDetails } from '@eager-sieve/core';
import { CardCutter, cardCells, cloudEventSchema } from '@eager-sieve/contracts';
import { Chance } from './chance';
import { guildBook } from './guild';
import { SET_UP } from './set-up';
import { RULES } from './set-up/rules';
import { signalsOfDemo } from './signals';
import { makeCompanies, makeDeals, makeDealSteps, makeLinks } from './trade';
import { CSV_COLUMNS, CSV_MAPPING, csvRows, makeContacts } from './world';

const NOW = Date.UTC(2026, 10, 25, 12);
const contacts = makeContacts(1_500);
const companies = makeCompanies(contacts.length);
const links = makeLinks(contacts, companies);
const signals = signalsOfDemo(contacts, links, NOW);

describe('chance', () => {
  it('comes out the same for the same seed, and evenly', () => {
    const rolls = (seed: number): number[] => {
      const chance = new Chance(seed);
      return Array.from({ length: 2_000 }, () => chance.below(10));
    };
    expect(rolls(7)).toEqual(rolls(7));
    expect(rolls(7)).not.toEqual(rolls(8));
    const counts = rolls(7).reduce<Record<number, number>>((sum, roll) => ({ ...sum, [roll]: (sum[roll] ?? 0) + 1 }), {});
    for (const n of Object.values(counts)) expect(n).toBeGreaterThan(140);
  });
});

describe('the address book of the guild', () => {
  it('is read as cards, some of them of people who are here already', () => {
    const contacts = makeContacts(100);
    const here = new Set(contacts.map(({ email }) => email.toLowerCase()));
    const cards = [...new CardCutter().take(guildBook(contacts))].map(({ text }) => cardCells(text ?? '', ';'));
    expect(cards).toHaveLength(20);
    const emails = cards.map((card) => card?.['email']?.toLowerCase() ?? '');
    expect(emails.every(isEmail)).toBe(true);
    expect(emails.filter((email) => here.has(email))).toHaveLength(12);
    expect(cards.every((card) => (card?.['name'] ?? '') !== '')).toBe(true);
  });
});

describe('the demo world', () => {
  it('is the same each time, and all of it is made up', () => {
    expect(makeContacts(1_500)).toEqual(contacts);
    expect(contacts.every((contact) => isEmail(contact.email) && contact.email.endsWith('.example'))).toBe(true);
    expect(new Set(contacts.map((contact) => contact.email)).size).toBe(contacts.length);
  });

  it('has what real lists have: empty cells, other scripts, doubles in other capitals, a leap day', () => {
    const rows = csvRows(contacts);
    expect(rows.length).toBeGreaterThan(contacts.length);
    expect(rows.some((row) => row['Email'] !== row['Email']?.toLowerCase())).toBe(true);
    expect(rows.filter((row) => row['Budget'] === '').length).toBeGreaterThan(300);
    expect(contacts.some((contact) => /\p{Script=Han}/u.test(contact.row['Last name'] ?? ''))).toBe(true);
    expect(contacts.some((contact) => contact.row['Birthday']?.endsWith('-02-29'))).toBe(true);
    for (const column of Object.values(CSV_MAPPING)) expect(CSV_COLUMNS).toContain(column);
  });

  it('has something in every window, nothing ahead, and one contact with 2,000 signals', () => {
    const ages = signals.map((signal) => (NOW - Date.parse(signal.time ?? '')) / 86_400_000);
    expect(Math.min(...ages)).toBeGreaterThan(0);
    for (const days of [1, 7, 30, 45, 90]) expect(ages.filter((age) => age < days).length).toBeGreaterThan(50);
    const bySubject = new Map<string, number>();
    for (const { subject } of signals) bySubject.set(subject, (bySubject.get(subject) ?? 0) + 1);
    expect(Math.max(...bySubject.values())).toBeGreaterThanOrEqual(2_000);
  });

  it('is busy in each week of its last half year, more so of late, and leaves some people silent', () => {
    const weeks = new Array<number>(26).fill(0);
    for (const { time } of signals) {
      const week = Math.floor((NOW - Date.parse(time ?? '')) / (7 * 86_400_000));
      if (week < weeks.length) weeks[week] = (weeks[week] as number) + 1;
    }
    expect(Math.min(...weeks)).toBeGreaterThan(contacts.length / 50);
    expect(weeks[0]).toBeGreaterThan((weeks[20] as number) * 1.5);
    expect(signals.length).toBeGreaterThan(contacts.length * 10);
    const lately = new Set(signals.filter(({ time }) => NOW - Date.parse(time ?? '') < 45 * 86_400_000).map(({ subject }) => subject));
    expect(lately.size).toBeGreaterThan(contacts.length / 4);
    expect(lately.size).toBeLessThan((contacts.length * 3) / 4);
  });

  it('has signals of each type, but for those that come of sends and deals', () => {
    const has = new Set(signals.map(({ type }) => type));
    const lacks = builtInSignalTypes.map(({ key }) => key).filter((type) => !has.has(type));
    expect(lacks.filter((type) => !/^(message|deal)\./.test(type))).toEqual([]);
  });

  it('has deals that come to where they end stage by stage, in order of time', () => {
    const deals = makeDeals(makeLinks(contacts, makeCompanies(contacts.length)));
    const ladder = ['enquiry', 'samples', 'quote', 'agreed', 'lost'];
    const byDay = makeDealSteps(deals, 120);
    const days = [...byDay.keys()].sort((a, b) => a - b);
    expect(Math.min(...days)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...days)).toBeLessThanOrEqual(120);
    const stages = new Map<string, string[]>();
    for (const day of days) {
      const moved = (byDay.get(day) ?? []).map(({ outsideId }) => outsideId);
      expect(new Set(moved).size).toBe(moved.length);
      for (const { outsideId, stage } of byDay.get(day) ?? []) stages.set(outsideId, [...(stages.get(outsideId) ?? []), String(stage)]);
    }
    expect(stages.size).toBe(deals.length);
    for (const { outsideId, stage } of deals) {
      const went = (stages.get(outsideId) ?? []).map((each) => ladder.indexOf(each));
      expect(went).toEqual([...went].sort((a, b) => a - b));
      expect(ladder[went.at(-1) ?? -1]).toBe(stage);
    }
    expect([...stages.values()].filter(({ length }) => length > 1).length).toBeGreaterThan(deals.length / 3);
  });

  it('sends only signals that its types take', () => {
    const money = { currency: 'SEK', ratesMillionths: new Map<string, number>() };
    for (const signal of signals) {
      expect(cloudEventSchema.safeParse(signal).success).toBe(true);
      const type = builtInSignalTypes.find((each) => each.key === signal.type);
      expect(readDetails(type?.body.fields ?? [], signal.data, 'Europe/Stockholm', money).faults).toEqual([]);
    }
    expect(new Set(signals.map((signal) => `${signal.source} ${signal.id}`)).size).toBe(signals.length);
  });

  it('has places with people in their parts, and deals at every stage', () => {
    expect(companies.length).toBe(88);
    const at = links.filter((link) => typeof link.company === 'string');
    expect(at.length).toBeGreaterThan(150);
    expect(at.some((link) => link.part === 'decider')).toBe(true);
    expect(new Set(makeDeals(links).map((deal) => deal.stage)).size).toBe(5);
    expect(signals.some((signal) => signal.type === 'plan.started')).toBe(true);
  });

  it('says of every tag which family it belongs to, and has a rule for what it lives on', () => {
    const families = new Set(SET_UP.families?.map((family) => family.key));
    for (const tag of SET_UP.tags ?? []) expect(families.has(String(tag['family']))).toBe(true);
    expect(RULES.rules?.every((rule) => rule['on'] === true)).toBe(true);
  });
});
