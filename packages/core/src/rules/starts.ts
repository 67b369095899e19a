import { type Condition } from '../conditions/schema.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type RuleAction, type RuleBody, type RuleSubject } from './definition.ts';

/** A rule to begin with, to be changed into one of one's own. */
export interface RuleStart {
  readonly key: string;
  /** what it is good for, under which others like it stand */
  readonly purpose: string;
  readonly name: string;
  /** nothing where the workspace lacks what it takes */
  readonly body: (catalogue: Catalogue) => RuleBody | undefined;
}

type Part = Partial<RuleBody> & Pick<RuleBody, 'when' | 'then'>;
const rule = (part: Part): RuleBody => ({
  of: 'contact',
  howOften: {},
  beginsWith: 'from now on',
  maxAgeDays: 7,
  position: 100,
  on: false,
  ...part,
});

const task = (title: string, dueDays = 1): RuleAction => ({ do: 'make task', title, dueDays });
const notify = (text: string): RuleAction => ({ do: 'notify', text });
const ONCE = { limit: 1 };

const typeId = (catalogue: Catalogue, key: string): number | undefined => catalogue.find('signalType', key)?.id;

/** When a signal of a type arrives. */
const onSignal =
  (
    key: string,
    then: readonly RuleAction[],
    more: Partial<RuleBody> = {},
    where?: Extract<RuleBody['when'], { kind: 'signal' }>['where'],
  ) =>
  (catalogue: Catalogue): RuleBody | undefined => {
    const type = typeId(catalogue, key);
    return type === undefined ? undefined : rule({ when: { kind: 'signal', type, ...(where ? { where } : {}) }, then: [...then], ...more });
  };

type Made = ((catalogue: Catalogue) => Condition | undefined) | Condition;
const conditionOf = (made: Made, catalogue: Catalogue): Condition | undefined => (typeof made === 'function' ? made(catalogue) : made);

/** When conditions become true; nothing if one of them cannot be made. */
const becomes =
  (all: readonly Made[], then: readonly RuleAction[], more: Partial<RuleBody> = {}) =>
  (catalogue: Catalogue): RuleBody | undefined => {
    const of = all.flatMap((each) => conditionOf(each, catalogue) ?? []);
    if (of.length < all.length) return undefined;
    const [only] = of;
    return rule({ when: { kind: 'becomes', condition: of.length === 1 && only ? only : { match: 'all', of } }, then: [...then], ...more });
  };

const did =
  (key: string, more: object = {}) =>
  (catalogue: Catalogue): Condition | undefined => {
    const type = typeId(catalogue, key);
    return type === undefined ? undefined : ({ kind: 'signal', type, ...more } as Condition);
  };
const NOT = { count: { op: '=', value: 0 } } as const;
const lately = (last: number) => ({ within: { last, unit: 'days' } as const });
const nothingFrom = (type: 'from them' | 'from us', last: number): Condition => ({ kind: 'signal', type, ...NOT, ...lately(last) });

/** On a date of the contact, every year. */
const everyYear =
  (fits: RegExp, then: readonly RuleAction[]) =>
  (catalogue: Catalogue): RuleBody | undefined => {
    const dates = catalogue.all('field').filter(({ body }) => body.of === 'contact' && body.type === 'date');
    const field = dates.find(({ key, name }) => fits.test(`${key} ${name}`));
    return field && rule({ when: { kind: 'date', field: field.id, days: 0, yearly: true, hour: 9 }, then: [...then] });
  };

const stageStart =
  (place: (stages: number) => number, when: (catalogue: Catalogue) => RuleBody['when'] | undefined) =>
  (catalogue: Catalogue): RuleBody | undefined => {
    const ladder = catalogue.ladder();
    const stage = ladder[place(ladder.length)];
    const occasion = when(catalogue);
    return stage && occasion ? rule({ when: occasion, then: [{ do: 'set stage', stage: stage.id }] }) : undefined;
  };

const topBand =
  (of: RuleSubject, then: readonly RuleAction[]) =>
  (catalogue: Catalogue): RuleBody | undefined => {
    const card = catalogue.all('scorecard').find(({ body }) => body.of === of && body.bands.length > 1);
    const top = card?.body.bands.at(-1);
    if (!card || !top) return undefined;
    return rule({
      of,
      when: { kind: 'becomes', condition: { kind: 'band', scorecard: card.id, op: 'is', value: top.key } },
      then: [...then],
      howOften: ONCE,
    });
  };

const sweep =
  (then: readonly RuleAction[], all: readonly Made[]) =>
  (catalogue: Catalogue): RuleBody | undefined => {
    const of = all.flatMap((each) => conditionOf(each, catalogue) ?? []);
    if (of.length < all.length) return undefined;
    const howOften = { pauseDays: 60 };
    return rule({
      when: { kind: 'sweep', times: { every: 'week', weekday: 1, hour: 9 } },
      if: { match: 'all', of },
      then: [...then],
      howOften,
    });
  };

const emptyField =
  (key: string) =>
  (catalogue: Catalogue): Condition | undefined => {
    const field = catalogue.find('field', key);
    return field && { kind: 'field', of: 'contact', field: field.id, op: 'is empty' };
  };

const dateTag = (catalogue: Catalogue): RuleBody | undefined => {
  const tag = catalogue.all('tag').find(({ body }) => body.value === 'date');
  return tag && rule({ when: { kind: 'date', tag: tag.id, days: -7, yearly: false, hour: 9 }, then: [task('Ask whether they go on', 3)] });
};

const WELCOME = 'Welcome and thanks';
const QUIET = 'Gone quiet';
const SHOP = 'Shop';
const DATES = 'Dates and plans';
const LADDER = 'Ladder and deals';
const DATA = 'Missing data';
const ATTENTION = 'Attention';

/** Rules to begin with, by what they are good for. */
export const RULE_STARTS: readonly RuleStart[] = [
  {
    key: 'welcome',
    purpose: WELCOME,
    name: 'Welcome whoever answers first',
    body: becomes([did('form.answered')], [task('Welcome them')], { howOften: ONCE }),
  },
  {
    key: 'first-order',
    purpose: WELCOME,
    name: 'Thank for the first order',
    body: becomes([did('order.placed')], [task('Thank them for their first order')], { howOften: ONCE }),
  },
  {
    key: 'second-order',
    purpose: WELCOME,
    name: 'Notice the second order',
    body: becomes([did('order.placed', { count: { op: '>=', value: 2 } })], [notify('They ordered again')], { howOften: ONCE }),
  },
  { key: 'attended', purpose: WELCOME, name: 'Ask how the event was', body: onSignal('event.attended', [task('Ask how it was', 2)]) },
  {
    key: 'finished-course',
    purpose: WELCOME,
    name: 'Congratulate on a finished course',
    body: onSignal('course.finished', [task('Congratulate them and offer the next course', 2)]),
  },
  {
    key: 'quiet-buyer',
    purpose: QUIET,
    name: 'Buyers who stopped buying',
    body: becomes([did('order.placed'), did('order.placed', { ...NOT, ...lately(90) })], [task('Ask whether anything is missing', 5)], {
      howOften: { pauseDays: 180 },
    }),
  },
  {
    key: 'silent',
    purpose: QUIET,
    name: 'Those who do nothing any more',
    body: becomes([did('form.answered'), nothingFrom('from them', 45)], [notify('They have gone quiet')], { howOften: { pauseDays: 90 } }),
  },
  {
    key: 'we-were-silent',
    purpose: QUIET,
    name: 'Customers who hear nothing from us',
    body: becomes([did('order.placed'), nothingFrom('from us', 60)], [task('Get in touch', 3)], { howOften: { pauseDays: 60 } }),
  },
  {
    key: 'left-the-till',
    purpose: SHOP,
    name: 'Left the till and did not buy',
    body: (catalogue) => {
      const order = typeId(catalogue, 'order.placed');
      if (order === undefined) return undefined;
      const left = did('checkout.left', { then: { type: order, happens: false, within: { n: 2, unit: 'hours' } }, ...lately(7) });
      return becomes([left], [task('Ask what held them up', 0)], { howOften: { pauseDays: 7 } })(catalogue);
    },
  },
  { key: 'refund', purpose: SHOP, name: 'Ask why something came back', body: onSignal('order.refunded', [task('Ask what was wrong')]) },
  {
    key: 'large-order',
    purpose: SHOP,
    name: 'Notice a large order',
    body: onSignal('order.placed', [notify('A large order came in')], {}, [{ path: 'amount', op: '>=', value: 5000 }]),
  },
  { key: 'birthday', purpose: DATES, name: 'Their birthday', body: everyYear(/birth/i, [notify('Their birthday is today')]) },
  { key: 'anniversary', purpose: DATES, name: 'A year since something began', body: everyYear(/./, [notify('It is a year today')]) },
  { key: 'renewal', purpose: DATES, name: 'A week before a plan ends', body: dateTag },
  { key: 'lapsed', purpose: DATES, name: 'A plan that lapsed', body: onSignal('plan.lapsed', [task('Ask why they stopped', 2)]) },
  { key: 'renewed', purpose: DATES, name: 'Thank for a renewal', body: onSignal('plan.renewed', [task('Thank them for staying', 2)]) },
  {
    key: 'deal-won',
    purpose: LADDER,
    name: 'A deal that is won moves the stage',
    body: stageStart(
      (n) => n - 1,
      (catalogue) => {
        const type = typeId(catalogue, 'deal.won');
        return type === undefined ? undefined : { kind: 'signal', type };
      },
    ),
  },
  { key: 'deal-lost', purpose: LADDER, name: 'Ask why a deal was lost', body: onSignal('deal.lost', [task('Ask what was missing', 7)]) },
  {
    key: 'first-stage',
    purpose: LADDER,
    name: 'Whoever answers comes onto the ladder',
    body: stageStart(
      () => 0,
      (catalogue) => {
        const condition = did('form.answered')(catalogue);
        return condition && { kind: 'becomes', condition };
      },
    ),
  },
  {
    key: 'ask-for-phone',
    purpose: DATA,
    name: 'Ask buyers for their telephone',
    body: sweep([task('Ask for their telephone number', 7)], [did('order.placed'), emptyField('phone')]),
  },
  {
    key: 'ask-for-name',
    purpose: DATA,
    name: 'Ask those who answered for their name',
    body: sweep([task('Ask for their name', 7)], [did('form.answered'), emptyField('family-name')]),
  },
  {
    key: 'nobody-minds',
    purpose: DATA,
    name: 'Buyers whom nobody minds',
    body: sweep([task('Say who minds them', 2)], [did('order.placed'), { kind: 'owner', op: 'is empty' }]),
  },
  { key: 'top-band', purpose: ATTENTION, name: 'Call the keenest first', body: topBand('contact', [task('Call them', 0)]) },
  { key: 'replied', purpose: ATTENTION, name: 'Answer whoever replies', body: onSignal('message.replied', [task('Answer them', 0)]) },
  {
    key: 'bounced',
    purpose: ATTENTION,
    name: 'Find another address',
    body: onSignal('message.bounced', [task('Find another address', 7)], { howOften: { pauseDays: 30 } }, [{ path: 'hard', op: 'is yes' }]),
  },
  { key: 'missed-event', purpose: ATTENTION, name: 'Offer another date', body: onSignal('event.missed', [task('Offer another date', 2)]) },
  {
    key: 'company-fits',
    purpose: ATTENTION,
    name: 'A company that fits well',
    body: (catalogue) => {
      const field = catalogue.find('field', 'fit-grade');
      const graded: RuleAction[] = field ? [{ do: 'set company field', field: field.id, value: 'a' }] : [];
      return topBand('company', [...graded, task('Look at this company', 5)])(catalogue);
    },
  },
];
