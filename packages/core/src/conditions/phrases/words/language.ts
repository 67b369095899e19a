/** Words that say nothing by themselves. */
export const FILLERS: ReadonlySet<string> = new Set(
  `who whom people person contact everyone everybody anyone anybody those all that which have has having is are was were be being been a an the to of
   utm for with their they them he she his her it its do does did in at on by from any some somebody someone our us we me my this these as set than there so nowadays
   also currently now already yet still just please show find list give get me only ones want whose when while get got into onto out up off about
   around both either themselves themself you your i would should can could may might will shall going went goes go come came comes with folks own back
   worth number address value took take taken made make let live lives living speak speaks speaking speaker based located stopped stop sort kind type been used gave give whoever lead prospect folk stuck still remain remaining
   using names named where did done happened happen total altogether overall cost costing costs really actually else w/ count well too`.split(
    /\s+/,
  ),
);

/** Words by which things are compared, measured or put in time: none of them is the name of a thing that was bought or visited. */
export const MEASURING: ReadonlySet<string> = new Set(
  `litre liter kilo kilogram gram kg bag pack packet box bottle pair metre meter daily weekly monthly yearly regularly rarely because due despite instead together second third fourth fifth biggest largest highest smallest lowest more less most least fewer average mean median total often seldom much many other another again different same recent existing current promising best loyal top good great frequent valuable potential likely unlikely probably almost nearly maybe perhaps possibly definitely certainly mostly mainly half usually sometimes always occasionally frequently every each after before since until within big bigger large larger small
   late early soon afterwards meanwhile rate size longer shorter minute hour returning kept asked joining graded picked review reviewed star starred rated rating
   stopped stop quit ceased online offline sale card cash credit easter christmas midsummer spring summer autumn winter
   month week quarter year day calendar ago time weekend weekday morning afternoon evening night monday tuesday wednesday thursday friday saturday sunday january february april june july august september october november december`.split(
    /\s+/,
  ),
);

/** Nouns that go with what happened and name nothing in particular: `did not open any message` */
export const GENERAL_NOUNS: ReadonlySet<string> = new Set(
  `message email mail newsletter form questionnaire quiz survey page site website event file order item thing plan membership course group link product line
   anything something campaign deal purchase goods stuff post call meeting note subject role single member`.split(/\s+/),
);

const NEGATIONS: ReadonlySet<string> = new Set(
  `not no never without nothing none lacks lack lacking neither nor except excluding exclude minus nobody missing cannot outside non w/o`.split(
    ' ',
  ),
);
/** Whether a word says that it is not so: `not`, `hasn't` */
export const isNegation = (word: string): boolean => NEGATIONS.has(word) || word.endsWith("n't");

/** What fields that many workspaces have are called besides their names, by their keys. */
export const FIELD_WORDS: Readonly<Record<string, readonly string[]>> = {
  added:
    `joined, joined us, with us, became a contact, came to us, known since, date added, created, date created, first came, new contact, new person,
    new people, new, newly added, newcomer, new here, new to us, new name, new since, been with us, has been with us`
      .split(',')
      .map((each) => each.trim()),
  'first-source': [
    'added by',
    'created by',
    'made by',
    'came from',
    'came by',
    'came through',
    'came in by',
    'came in through',
    'came in from',
    'added from',
    'added through',
    'brought in by',
    'first came by',
    'first came through',
  ],
  'first-campaign-source': ['campaign source', 'source of the campaign', 'utm source'],
  'first-campaign-medium': ['campaign medium', 'medium of the campaign', 'utm medium'],
  'first-through': ['came in from', 'came from', 'came by', 'came through', 'came via', 'came in through', 'came in via', 'came in by'],
  'first-campaign': [
    'campaign',
    'utm campaign',
    ...['came', 'came in'].flatMap((came) => ['from', 'by', 'through', 'via'].map((how) => `${came} ${how} campaign`)),
  ],
  'given-name': ['first name', 'forename', 'given name', 'name'],
  'family-name': ['last name', 'surname', 'family name', 'name'],
  part: ['part', 'role in the purchase', 'part in buying'],
  birthday: ['born', 'date of birth', 'birth date', 'birthdate', 'bday'],
  city: ['town', 'place'],
  phone: ['telephone', 'mobile', 'phone number', 'telephone number', 'mobile number', 'cell phone'],
  country: ['nation'],
  language: ['tongue', 'mother tongue'],
  email: ['email address', 'mail address', 'email domain', 'mail domain', 'domain', 'at the domain'],
};

/** What choices of built-in fields are called besides their names, by the keys of the field and the choice. */
export const OPTION_WORDS: Readonly<Record<string, Readonly<Record<string, readonly string[]>>>> = {
  'first-source': { import: ['imported'] },
  part: {
    decider: ['decision maker', 'decision-maker', 'decides', 'makes the decision', 'deciding', 'has the last word'],
    buyer: ['who buys for them'],
    gatekeeper: ['gate keeper'],
    influencer: ['has influence'],
  },
};

const NUMBERED = 'zero one two three four five six seven eight nine ten eleven twelve'.split(' ');
export const NUMBER_WORDS: ReadonlyMap<string, number> = new Map([
  ...NUMBERED.map((word, value): [string, number] => [word, value]),
  ['dozen', 12],
  ...'thirteen fourteen fifteen sixteen seventeen eighteen nineteen'.split(' ').map((word, at): [string, number] => [word, 13 + at]),
  ['twenty', 20],
  ['thirty', 30],
  ['forty', 40],
  ['fifty', 50],
  ['sixty', 60],
  ['seventy', 70],
  ['eighty', 80],
  ['ninety', 90],
  ['hundred', 100],
  ['thousand', 1_000],
]);
/** How an amount begins, as part of a pattern: `6 months`, `six months`, `a year`, `half a year` */
export const SO_MUCH = String.raw`(\d|an? |half |(${[...NUMBER_WORDS.keys()].join('|')}) )`;
/** What numbers are multiplied by: `5k` */
export const MULTIPLIERS: ReadonlyMap<string, number> = new Map([
  ['hundred', 100],
  ['k', 1_000],
  ['thousand', 1_000],
  ['m', 1_000_000],
  ['million', 1_000_000],
]);
export const MONTHS = 'january february march april may june july august september october november december'.split(' ');

export const WEEKDAYS = 'monday tuesday wednesday thursday friday saturday sunday'.split(' ');

/** Words of the language itself that are no fillers, in the singular: none of them is misspelt. */
export const OTHER_WORDS: readonly string[] = [
  ...NUMBER_WORDS.keys(),
  ...MULTIPLIERS.keys(),
  ...MONTHS,
  ...WEEKDAYS,
  ...`decade close closing turn last past previous week day month year hour minute fortnight quarter today tomorrow yesterday next within since until till before after between and
      or but then once twice thrice time ago often upcoming half couple recently lately late open points owned whose right moment present database`.split(
    /\s+/,
  ),
];

/** Words that stand for people: what is said behind them is said of them. */
export const SOMEBODY = /^(people|persons?|contacts?|those|everyone|anyone|somebody)$/i;

/** What parts lines and things that are listed. */
export const JOINTS: ReadonlyMap<string, 'and' | 'or'> = new Map([
  ...[',', ';', '&', 'and', 'but', 'plus'].map((word): [string, 'and'] => [word, 'and']),
  ...['/', 'or'].map((word): [string, 'or'] => [word, 'or']),
]);
