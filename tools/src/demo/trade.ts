import { type CompanyWrite, type ContactWrite, type CloudEvent, type DealWrite } from '@eager-sieve/contracts';
import { Chance } from './chance';
import { REGIONS } from './set-up/choices';
import { type DemoContact } from './world';

const DAY_MS = 86_400_000;
const PLACES = [
  'Lantern',
  'Harbour',
  'Fern',
  'Millstone',
  'Copper',
  'Orchard',
  'Tide',
  'Juniper',
  'Old Ferry',
  'Sparrow',
  'Birch',
  'Plum',
] as const;
const SECTORS = { cafe: 'Café', inn: 'Inn', school: 'School', gallery: 'Gallery', florist: 'Flowers' } as const;
const PARTS = ['initiator', 'user', 'influencer', 'decider', 'buyer', 'gatekeeper'] as const;
const STAGES = ['enquiry', 'samples', 'quote', 'agreed', 'lost'] as const;

/** One company for about seventeen contacts: three hundred in the demo. */
export function makeCompanies(contacts: number): CompanyWrite[] {
  const chance = new Chance(300);
  return Array.from({ length: Math.max(3, Math.round(contacts / 17)) }, (_, index) => {
    const sector = chance.pick(Object.keys(SECTORS) as (keyof typeof SECTORS)[]);
    const seats = sector === 'florist' ? null : 10 + chance.below(120);
    return {
      outsideId: `place-${index + 1}`,
      name: `${chance.pick(PLACES)} ${SECTORS[sector]} ${index + 1}`,
      fields: {
        sector,
        ...(seats === null ? {} : { seats }),
        turnover: `${200_000 + chance.below(40) * 50_000}.00`,
        'company-region': chance.pick(REGIONS).key,
        'focus-company': chance.happens(0.2),
      },
    };
  });
}

/** Which contacts are at which company, in which part; every sixth contact or so. */
export function makeLinks(contacts: readonly DemoContact[], companies: readonly CompanyWrite[]): ContactWrite[] {
  const chance = new Chance(17);
  return contacts.flatMap((contact): ContactWrite[] => {
    const company = chance.happens(0.16) ? chance.pick(companies).outsideId : undefined;
    const firstClass = chance.happens(0.12)
      ? new Date(Date.UTC(2026, 10, 26) - (180 + chance.below(900)) * DAY_MS).toISOString().slice(0, 10)
      : undefined;
    if (company === undefined && firstClass === undefined) return [];
    return [
      {
        email: contact.email,
        ...(company === undefined ? {} : { company, part: chance.happens(0.6) ? chance.pick(PARTS) : null }),
        ...(firstClass === undefined ? {} : { fields: { 'first-class': firstClass } }),
      },
    ];
  });
}

export function makeDeals(links: readonly ContactWrite[]): DealWrite[] {
  const chance = new Chance(8);
  const atCompanies = links.filter((link) => typeof link.company === 'string');
  return atCompanies
    .filter(() => chance.happens(0.12))
    .map((link, index) => ({
      outsideId: `T-${1_000 + index}`,
      name: `${20 * (1 + chance.below(20))} pieces`,
      contact: link.email as string,
      company: link.company as string,
      pipeline: 'tableware',
      stage: chance.pick(STAGES),
      amount: `${2_000 + chance.below(60) * 750}.00`,
      currency: 'SEK',
      fields: {
        pieces: 20 * (1 + chance.below(20)),
        // From some days ago to two months ahead.
        'expected-close': new Date(Date.UTC(2026, 10, 26) + (((index * 7) % 75) - 12) * DAY_MS).toISOString().slice(0, 10),
      },
    }));
}

/** By day of the story, the deals that are at another stage from then on; at the end each is where `makeDeals` has it. Day 0 is before the first. */
export function makeDealSteps(deals: readonly DealWrite[], days: number): ReadonlyMap<number, readonly DealWrite[]> {
  const chance = new Chance(64);
  const byDay = new Map<number, DealWrite[]>();
  for (const deal of deals) {
    const before = STAGES.slice(0, deal.stage === 'lost' ? 1 + chance.below(3) : STAGES.indexOf(deal.stage as (typeof STAGES)[number]));
    let day = 1 + chance.below(days);
    const steps = [...before, deal.stage].reverse().map((stage, back) => {
      if (back > 0) day = Math.max(0, day - 3 - chance.below(15));
      return { day, deal: { ...deal, stage } };
    });
    // Of what was before the story it only matters where it stood then.
    const begun = steps.findIndex((step) => step.day === 0);
    for (const step of begun < 0 ? steps : steps.slice(0, begun + 1)) byDay.set(step.day, [...(byDay.get(step.day) ?? []), step.deal]);
  }
  return byDay;
}

/** Memberships, checkouts that were left, and enquiries of the trade, the oldest first. */
export function makeTradeSignals(contacts: readonly DemoContact[], links: readonly ContactWrite[], now: number): CloudEvent[] {
  const chance = new Chance(55);
  const events: CloudEvent[] = [];
  const add = (source: string, type: string, email: string, at: number, data: unknown): void => {
    events.push({
      specversion: '1.0',
      source,
      id: `trade-${type}-${events.length}`,
      type,
      time: new Date(at).toISOString(),
      subject: email,
      data,
    });
  };
  for (const contact of contacts) {
    if (chance.happens(0.05 + contact.interest * 0.1)) {
      const plan = chance.pick(['shelf', 'bench', 'bench', 'kiln']);
      const started = now - chance.below(58) * DAY_MS - 3_600_000;
      add('shop', 'plan.started', contact.email, started, { plan, until: new Date(started + 30 * DAY_MS).toISOString() });
      const renewed = started + 29 * DAY_MS;
      const ended = started + 30 * DAY_MS;
      if (renewed < now && chance.happens(0.6))
        add('shop', 'plan.renewed', contact.email, renewed, { plan, until: new Date(renewed + 31 * DAY_MS).toISOString() });
      else if (ended < now) add('shop', 'plan.lapsed', contact.email, ended, { plan });
    }
    if (chance.happens(0.03))
      add('shop', 'checkout.left', contact.email, now - chance.below(20) * DAY_MS - 7_200_000, {
        items: [{ product: 'Kick wheel', line: 'wheels', quantity: 1, amount: 14_900 }],
        amount: 14_900,
        currency: 'SEK',
      });
  }
  for (const link of links) {
    if (typeof link.company === 'string' && chance.happens(0.15))
      add('forms', 'form.answered', link.email as string, now - chance.below(40) * DAY_MS - 60_000, {
        form: 'tableware-enquiry',
        version: 1,
        answers: { pieces: chance.pick(['under-50', '50-200', 'more']), email: link.email },
      });
  }
  return events.sort((a, b) => String(a.time).localeCompare(String(b.time)));
}
