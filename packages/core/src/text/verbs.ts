/** The forms of a verb that ends in something else than `-ed`: past, base, participle. */
const IRREGULAR: ReadonlyMap<string, { readonly base: string; readonly participle: string }> = new Map(
  `was be been, were be been, became become become, began begin begun, bent bend bent, bought buy bought, broke break broken, brought bring brought,
   built build built, came come come, caught catch caught, chose choose chosen, cut cut cut, did do done, drank drink drunk, drew draw drawn,
   drove drive driven, ate eat eaten, fell fall fallen, felt feel felt, flew fly flown, forgot forget forgotten, found find found, gave give given,
   got get got, grew grow grown, had have had, heard hear heard, held hold held, hid hide hidden, hit hit hit, kept keep kept, knew know known,
   learnt learn learnt, led lead led, left leave left, lent lend lent, let let let, lost lose lost, made make made, meant mean meant, met meet met,
   paid pay paid, put put put, ran run run, rang ring rung, read read read, rode ride ridden, rose rise risen, said say said, sang sing sung,
   sat sit sat, saw see seen, sent send sent, set set set, shot shoot shot, showed show shown, shut shut shut, slept sleep slept, sold sell sold,
   spent spend spent, spoke speak spoken, stood stand stood, stole steal stolen, swam swim swum, taught teach taught, thought think thought,
   threw throw thrown, told tell told, took take taken, understood understand understood, upset upset upset, went go gone, wet wet wet, withdrew withdraw withdrawn,
   woke wake woken, won win won, wore wear worn, wrote write written`
    .split(',')
    .map((forms) => {
      const [past = '', base = '', participle = ''] = forms.trim().split(' ');
      return [past, { base, participle }];
    }),
);

const VOWELS = 'aeiou';
const first = (verb: string, change: (word: string) => string): string => verb.replace(/^\S+/, change);

/** What stands behind "has" or "has not", where nobody said otherwise: `driven a van`, of `drove a van`. */
export const participleOf = (verb: string): string => first(verb, (word) => IRREGULAR.get(word)?.participle ?? word);

/** Stems from which an `e` fell off before `-ed`, where their ending does not tell. */
const MUTE = new Set(
  `invit unit excit recit ignit complet delet compet tast wast past quot vot not promot denot devot creat stor restor explor scor ignor ador
   phon clon zon typ subscrib`.split(/\s+/),
);
/** How a stem ends from which an `e` fell off: `renew` did not lose one, `chang` did. */
const MUTE_ENDS = [
  /[cvzu]$/,
  /(?:[dnr]|[^aeiou]a)g$/,
  /[^aeiou](?:[bcdfgkptz]l)$/,
  /(?:[aeiou]|[nrl])s$/,
  /[^aeo]at$/,
  /[^aeiou][iu]r$/,
  /[^aeo]ar$/,
  /[^aeiou][aiou][bkmp]$/,
  /[^aeo][aiu]d$/,
  /[^aeiou][iu]n$/,
  /[bpclm]ut$/,
  /[^aeiou][aiu]l$/,
];
const NOT_MUTE = /(?:op|sip|allop|velop|som|thom|visit|edit|load)$/;

/** The verb as it is said of what happens now: `order`, of `ordered`. */
function baseOf(past: string): string {
  const [known, ...others] = bases(past);
  if (known === undefined) return past;
  if (others.length === 0) return known;
  const [before, last] = [known.at(-2), known.at(-1) ?? ''];
  // A doubled letter came of the ending, but not in `call` and `pass`.
  if (before === last && !VOWELS.includes(last)) return /[lsf]/.test(last) ? known : known.slice(0, -1);
  const isMute = MUTE.has(known) || known.endsWith('e') || (!NOT_MUTE.test(known) && MUTE_ENDS.some((end) => end.test(known)));
  return isMute ? `${known}e` : known;
}

const TO_BE_AND_HAVE: Readonly<Record<string, string>> = { was: 'is', were: 'is', had: 'has' };
/** The verb as it is said of somebody now, where nobody said otherwise: `orders`, of `ordered`; `is called`, of `was called`. */
export const presentOf = (verb: string): string =>
  first(verb, (word) => {
    const known = TO_BE_AND_HAVE[word];
    if (known) return known;
    const base = baseOf(word);
    if (/(?:s|x|z|ch|sh|[^aeiou]o)$/.test(base)) return `${base}es`;
    return /[^aeiou]y$/.test(base) ? `${base.slice(0, -1)}ies` : `${base}s`;
  });

/** What a word in the past can come from: `rented` from `rent`; of `used` nobody can tell whether it is of `us` or of `use`. */
function bases(past: string): readonly string[] {
  const known = IRREGULAR.get(past);
  if (known) return [known.base];
  if (past.endsWith('ied')) return [`${past.slice(0, -3)}y`];
  if (!past.endsWith('ed') || past.length < 4) return [];
  const stem = past.slice(0, -2);
  const [before, last] = [stem.at(-2), stem.at(-1) ?? ''];
  const isDoubled = before === last && !VOWELS.includes(last);
  return [stem, past.slice(0, -1), ...(isDoubled ? [stem.slice(0, -1)] : [])];
}

const ingOf = (base: string): string => `${base.length > 2 && base.endsWith('e') && !base.endsWith('ee') ? base.slice(0, -1) : base}ing`;

/** A verb with its object in the forms in which people say it: `rented a van`, `rent a van`, `renting vans`, `rented the van`. */
export function verbForms(verb: string): readonly string[] {
  const [past = '', ...object] = verb.trim().split(/\s+/);
  const whole = object.join(' ');
  const noun = /^an? (\S+)$/.exec(whole)?.[1];
  const objects = noun === undefined ? [whole] : [whole, `the ${noun}`, `any ${noun}`, noun];
  const found = bases(past);
  const verbs = [past, participleOf(past), ...found, ...found.map(ingOf)];
  return [...new Set(verbs.flatMap((each) => objects.map((one) => `${each} ${one}`.trim())))];
}
