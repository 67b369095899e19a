import { type CloudEvent } from '@eager-sieve/contracts';
import { Chance } from './chance';
import { CAME_BY, REGIONS, FIRES, SNAGS, WAYS } from './set-up/choices';

const DAY_MS = 86_400_000;
const GIVEN = [
  'Ottoline',
  'Björn',
  'Imani',
  'Teodor',
  'Pernille',
  'Wilhelmina',
  'Åsa',
  'Sigrid',
  'Mateusz',
  'Noor',
  'Ilse',
  'Tove',
  'Cosima',
  'Emil',
  'Rasmus',
  'Yuki',
  'Lovisa',
  'Halvard',
  'Minna',
  'Odile',
  'Runa',
  'Ebbe',
  'Greta',
  'Anselm',
  'Freja',
  'Marit',
  'Jonas',
  'Sunniva',
  'Edda',
  'Otso',
] as const;
const FAMILY = [
  'Farrow',
  'Åkerlid',
  'Okoro-Vale',
  'Halasz',
  'Dahlgaard',
  'Thornbury',
  'Lindqvist',
  'Weisz',
  'Moss',
  'Sandbu',
  'Tanaka',
  'Järvi',
  'Brandt',
  'Quill',
  'Ostrow',
  'Hedlund',
  'Vesterby',
  'Marsh',
  'Nyland',
  'Falk',
  'Ferrow',
  'Ravn',
  'Skov',
  'Aalto',
  'Winther',
] as const;
/** Names in other scripts, as they come in real lists. */
const OTHER_SCRIPTS = [
  ['山田', '花子'],
  ['Ольга', 'Зимина'],
  ['Ελένη', 'Παππά'],
  ['نور', 'حداد'],
  ['Đặng', 'Thị Hương'],
] as const;
const CITIES = {
  'harbour-side': ['Fernhollow', 'Saltwick'],
  'upper-fern': ['Upper Fern', 'Hollin'],
  'mill-end': ['Mill End'],
  'far-fields': ['Farby', 'Ashcombe', 'Little Moor'],
  abroad: ['Bergen', 'Turku', 'Kyoto'],
} as const;
const PRODUCTS = [
  { product: 'Celadon glaze 1 l', line: 'glaze', price: 480 },
  { product: 'Celadon glaze 0.5 l', line: 'glaze', price: 260 },
  { product: 'Ash glaze 1 l', line: 'glaze', price: 520 },
  { product: 'Iron oxide', line: 'glaze', price: 140 },
  { product: 'Stoneware clay 10 kg', line: 'clay', price: 190 },
  { product: 'Porcelain 5 kg', line: 'clay', price: 240 },
  { product: 'Trimming tools', line: 'tools', price: 320 },
  { product: 'Sapphire slip kit', line: 'tools', price: 220 },
  { product: 'Kick wheel', line: 'wheels', price: 14_900 },
  { product: 'Evening class seat', line: 'class', price: 650 },
] as const;
export const PAGES = [
  '/',
  '/glazes/celadon',
  '/glazes/ash',
  '/wheels',
  '/wheels/kick-wheel',
  '/classes',
  '/clay/stoneware',
  '/open-studio',
] as const;
export const EVENTS = ['Raku evening', 'First bowl', 'Open studio', 'Glaze tasting', 'Buying a wheel'] as const;

export interface DemoContact {
  readonly email: string;
  readonly row: Readonly<Record<string, string>>;
  readonly interest: number;
}

export const CSV_COLUMNS = [
  'Email',
  'First name',
  'Last name',
  'Region',
  'Country',
  'City',
  'Language',
  'Birthday',
  'Came by',
  'Years at wheel',
  'Works by',
  'Own kiln',
  'Budget',
  'Phone',
  'May email',
  'May text',
] as const;

export const CSV_MAPPING: Readonly<Record<string, string>> = {
  email: 'Email',
  'field:given-name': 'First name',
  'field:family-name': 'Last name',
  'field:region': 'Region',
  'field:country': 'Country',
  'field:city': 'City',
  'field:language': 'Language',
  'field:birthday': 'Birthday',
  'field:came-by': 'Came by',
  'field:wheel-years': 'Years at wheel',
  'field:works-by': 'Works by',
  'field:own-kiln': 'Own kiln',
  'field:budget': 'Budget',
  'field:phone': 'Phone',
  'consent:email': 'May email',
  'consent:text': 'May text',
};

/** The people of the demo world, the same for the same size. Some rows are what real lists are: half empty, doubled in other capitals. */
export function makeContacts(size: number): DemoContact[] {
  const chance = new Chance(20_261_125);
  const contacts: DemoContact[] = [];
  for (let index = 0; index < size; index += 1) {
    const odd = index % 97 === 13;
    const [given, family] = odd ? chance.pick(OTHER_SCRIPTS) : [chance.pick(GIVEN), chance.pick(FAMILY)];
    const plain = (name: string): string =>
      name
        .normalize('NFKD')
        .replace(/[^a-zA-Z]/g, '')
        .toLowerCase();
    const local = odd ? `visitor${index}` : `${plain(given)}.${plain(family)}${index}`;
    const region = chance.pick(REGIONS).key as keyof typeof CITIES;
    const country = region === 'abroad' ? chance.pick(['no', 'dk', 'fi', 'de', 'jp']) : 'se';
    const interest = chance.next() ** 2;
    const maybe = (value: string, empty = 0.25): string => (chance.happens(empty) ? '' : value);
    const birthday =
      index === 7
        ? '1988-02-29'
        : `${1950 + chance.below(55)}-${String(1 + chance.below(12)).padStart(2, '0')}-${String(1 + chance.below(28)).padStart(2, '0')}`;
    contacts.push({
      email: `${local}@${chance.pick(['farrow', 'moss', 'harbour', 'upperfern', 'lantern'])}.example`,
      interest,
      row: {
        'First name': given,
        'Last name': family,
        Region: maybe(region, 0.1),
        Country: country,
        City: maybe(chance.pick(CITIES[region])),
        Language: maybe(country === 'se' ? 'sv' : country === 'jp' ? 'ja' : country === 'dk' ? 'da' : country),
        Birthday: maybe(birthday, 0.4),
        'Came by': maybe(chance.pick(CAME_BY).key),
        'Years at wheel': maybe(String(Math.floor(chance.next() ** 2 * 12 * 2) / 2)),
        'Works by': maybe(
          chance
            .some(WAYS, 3)
            .map((way) => way.key)
            .join(';'),
        ),
        'Own kiln': maybe(chance.happens(0.2) ? 'yes' : 'no'),
        Budget: maybe(String(500 * (1 + chance.below(20))), 0.5),
        // No country has this code.
        Phone: index % 5 < 2 ? `+999 40 ${String(10_000 + index).slice(0, 3)} ${String(10_000 + index).slice(3)}` : '',
        'May text': index % 15 === 1 ? 'yes' : '',
        'May email': chance.happens(0.72) ? 'yes' : chance.happens(0.3) ? 'no' : '',
      },
    });
  }
  return contacts;
}

/** Rows of the CSV file: everyone, and a few of them twice with other capitals. */
export function csvRows(contacts: readonly DemoContact[]): Record<string, string>[] {
  const rows = contacts.map((contact) => ({ Email: contact.email, ...contact.row }));
  return [...rows, ...rows.filter((_, index) => index % 211 === 5).map((row) => ({ ...row, Email: row.Email.toUpperCase() }))];
}

/** What happened in the demo world before `now`, the oldest first. About two signals a contact. */
export function makeSignals(contacts: readonly DemoContact[], now: number): CloudEvent[] {
  const chance = new Chance(41);
  const events: CloudEvent[] = [];
  const add = (source: string, type: string, contact: DemoContact, at: number, data: unknown): void => {
    events.push({
      specversion: '1.0',
      source,
      id: `${type}-${events.length}`,
      type,
      time: new Date(at).toISOString(),
      subject: contact.email,
      data,
    });
  };
  const when = (mostDays: number): number => now - Math.floor(chance.next() ** 1.4 * mostDays * DAY_MS) - 60_000;
  const order = (contact: DemoContact, at: number): void => {
    const items = chance.some(PRODUCTS, 3).map(({ product, line, price }) => {
      const quantity = line === 'wheels' ? 1 : 1 + chance.below(3);
      return { product, line, quantity, amount: price * quantity };
    });
    const data = {
      order: `F-${10_000 + events.length}`,
      items,
      amount: items.reduce((sum, item) => sum + item.amount, 0),
      currency: 'SEK',
    };
    add('shop', 'order.placed', contact, at, data);
    if (chance.happens(0.06)) add('shop', 'order.refunded', contact, Math.min(now - 30_000, at + 3 * DAY_MS), data);
  };
  for (const contact of contacts) {
    const eager = contact.interest;
    if (chance.happens(0.1 + eager * 0.6))
      for (let n = 1 + chance.below(1 + Math.round(eager * 3)); n > 0; n -= 1) order(contact, when(300));
    if (chance.happens(0.25 + eager * 0.4)) {
      for (let n = 1 + chance.below(1 + Math.round(eager * 4)); n > 0; n -= 1)
        add('post-room', 'message.opened', contact, when(120), { channel: 'email', campaign: 'your-glaze-shelf' });
    }
    if (chance.happens(0.2 + eager * 0.4)) add('site', 'page.visited', contact, when(60), pageOf(chance));
    if (chance.happens(0.04 + eager * 0.15)) add('studio', 'event.attended', contact, when(200), { event: chance.pick(EVENTS) });
    if (chance.happens(0.05 + eager * 0.12)) {
      const answers = {
        make: chance.some(['bowls', 'mugs', 'vases', 'figures'], 2),
        'works-by': chance.some(WAYS, 2).map((way) => way.key),
        stops: chance.pick(SNAGS).key,
        email: contact.email,
      };
      add('forms', 'form.answered', contact, when(90), {
        form: 'find-your-clay',
        version: 1,
        answers: { ...answers, ...alsoAnswered(answers.stops, events.length) },
      });
    }
  }
  const regular = contacts[3];
  if (regular && contacts.length >= 1_000)
    for (let n = 0; n < 2_000; n += 1) add('site', 'page.visited', regular, now - Math.floor(n * 0.15 * DAY_MS) - 90_000, pageOf(chance));
  const unknown: DemoContact = { email: 'walk-in@lantern.example', row: {}, interest: 1 };
  add('shop', 'order.refunded', unknown, now - 5 * DAY_MS, { order: 'F-never', items: [], amount: 0, currency: 'SEK' });
  return events.sort((a, b) => String(a.time).localeCompare(String(b.time)));
}

/** What most people write when they are asked what would help them. */
const HELPS: Readonly<Record<string, readonly string[]>> = {
  price: ['A discount for the first bag', 'Paying in instalments', 'Om det vore billigare', 'Cheaper glazes', 'A gift card from my aunt'],
  room: ['Somewhere to rent a wheel', 'Could I share a bench?', 'Låna en drejskiva', 'A smaller wheel', 'Moving house'],
  firing: ['Share a kiln with somebody nearby', 'A place that fires for me', 'Dela ugn', 'An electrician'],
};

/** The rest of an answer to Find your clay. It takes no chance, so that everything else in the world stays as it is. */
function alsoAnswered(stops: string, n: number): Record<string, string> {
  const helps = HELPS[stops];
  return {
    ...(n % 4 === 0 ? {} : { fires: FIRES[n % FIRES.length]?.key ?? '' }),
    ...(helps && n % 3 !== 0 ? { helps: helps[n % helps.length] ?? '' } : {}),
    ...(stops === 'nerves' ? { taster: n % 3 === 0 ? 'no' : 'yes' } : {}),
    ...(n % 5 === 0 ? { 'came-from': n % 2 === 0 ? 'spring-fair' : 'window-poster' } : {}),
  };
}

const pageOf = (chance: Chance): PageVisit => visitOf(chance.pick(PAGES));

export interface PageVisit {
  readonly url: string;
  readonly path: string;
  readonly title: string;
}

/** What the site tells of a visit to one of its pages. */
export const visitOf = (path: string): PageVisit => ({
  url: `https://fernhollow.example${path}`,
  path,
  title: path === '/' ? 'Fernhollow Clayworks' : path.slice(1).replaceAll('/', ' · ').replaceAll('-', ' '),
});
