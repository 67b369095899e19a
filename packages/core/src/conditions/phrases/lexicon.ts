import { storageOf } from '../../contacts/fields.ts';
import { type Catalogue } from '../../settings/catalogue.ts';
import { type AnyDefinition, type Definition } from '../../settings/definitions.ts';
import { spokenName } from '../describe/names.ts';
import { verbForms } from '../../text/verbs.ts';
import { contracted, runOf, tokensOf, type Token } from './tokens.ts';
import { FIELD_WORDS, FILLERS, isNegation, MEASURING, OPTION_WORDS, OTHER_WORDS } from './words/language.ts';
import { CUE_WORDS, INTERESTED } from './words/cues.ts';
import { ANYTHING_WORDS, NOTHING_WORDS, PLAN_END_WORDS, SIGNAL_WORDS, SPENT_WORDS } from './words/signals.ts';
import { COMPARISON_WORDS } from './limits.ts';

/** What some words can mean in this workspace. */
export type Meaning =
  | { readonly kind: 'signal'; readonly type: number | 'from them' | 'from us'; readonly spent?: true }
  /** that a plan comes to its end */
  | { readonly kind: 'planEnd' }
  | { readonly kind: 'field'; readonly field: number }
  | { readonly kind: 'option'; readonly field: number; readonly key: string }
  | { readonly kind: 'tag'; readonly tag: number; readonly isPart?: true }
  | { readonly kind: 'family'; readonly family: number }
  | { readonly kind: 'stage'; readonly stage: number }
  | { readonly kind: 'scorecard'; readonly scorecard: number }
  | { readonly kind: 'band'; readonly scorecard: number; readonly key: string }
  | { readonly kind: 'audience'; readonly audience: number; readonly isPart?: true }
  | { readonly kind: 'form'; readonly key: string }
  | { readonly kind: 'answer'; readonly form: string; readonly question: string; readonly key: string }
  | { readonly kind: 'question'; readonly form: string; readonly question: string }
  | { readonly kind: 'message'; readonly key: string }
  | { readonly kind: 'person'; readonly email: string }
  | { readonly kind: 'pipeline'; readonly key: string }
  | { readonly kind: 'fieldOfDeals'; readonly field: number }
  /** a text that stands in a field, or in a detail of signals of a type */
  | { readonly kind: 'value'; readonly field: number; readonly value: string }
  | { readonly kind: 'detail'; readonly type: number; readonly path: string; readonly value: string; readonly isPart?: true };

interface Named {
  readonly name: string;
  readonly key: string;
  readonly synonyms?: readonly string[] | undefined;
}

/** Between the words of a run: a quoted text holds spaces of its own. */
const JOINT = '\n';
/** A longer text is nothing that somebody would type to mean it. */
const MOST_WORDS = 6;

/** Of so many words that are not known it is kept which ones are near. */
const MOST_KEPT = 2_000;

/** The words of a workspace, found by the first of them. */
export class Lexicon {
  /** what each run of words can mean */
  readonly #meanings = new Map<string, Meaning[]>();
  /** how many words the longest run has that begins with a word */
  readonly #longest = new Map<string, number>();
  readonly #known = new Set<string>();
  readonly #byLength = new Map<number, string[]>();
  readonly #near = new Map<string, readonly string[]>();

  constructor(catalogue: Catalogue) {
    for (const type of catalogue.all('signalType')) {
      const meaning: Meaning = { kind: 'signal', type: type.id };
      for (const words of new Set([spokenName(type as AnyDefinition), type.name, ...(SIGNAL_WORDS[type.key] ?? []), ...ownWords(type)]))
        this.#add(words, meaning);
      // `did not finish it`: what is said of it without what it was done to.
      for (const words of baseForms(type)) this.#add(words, meaning);
      if (type.key === 'order.placed') for (const words of SPENT_WORDS) this.#add(words, { ...meaning, spent: true });
    }
    for (const word of ['unopened', 'unread', 'unclicked', 'skipped', 'linked']) this.#known.add(word);
    for (const type of ['from them', 'from us'] as const)
      for (const words of [...ANYTHING_WORDS[type], ...NOTHING_WORDS[type]]) this.#add(words, { kind: 'signal', type });
    for (const words of PLAN_END_WORDS) this.#add(words, { kind: 'planEnd' });
    for (const field of catalogue.all('field')) {
      if (field.body.of === 'deal') {
        this.#add(field.name, { kind: 'fieldOfDeals', field: field.id });
        continue;
      }
      const meaning: Meaning = { kind: 'field', field: field.id };
      this.#add(field.name, meaning);
      // `years at wheel` are years at the wheel.
      if (/ (the|an?|their) /i.test(field.name)) this.#add(field.name.replace(/ (the|an?|their) /gi, ' '), meaning);
      // What came by something came through it.
      if (/ by$/i.test(field.name))
        for (const how of ['through', 'via', 'from', 'over']) this.#add(field.name.replace(/by$/i, how), meaning);
      if (/^came to us by$/i.test(field.name))
        for (const how of ['how they came', 'how they came to us', 'how they found us', 'how they heard of us']) this.#add(how, meaning);
      if (/^came to us by$/i.test(field.name))
        for (const came of [
          'heard about us',
          'heard of us',
          'learned about us',
          'found us',
          'recommended',
          'referred',
          'sent to us',
          'brought to us',
        ])
          for (const how of ['by', 'from', 'through', 'via', 'at', 'on', 'in']) this.#add(`${came} ${how}`, meaning);
      this.#addKey(field.key, meaning);
      const spent = /^(?:minutes|hours|days|weeks|months|years) (\S+ .+)$/i.exec(field.name)?.[1];
      if (spent !== undefined && storageOf[field.body.type] === 'number')
        for (const words of [spent, ...(/^at /i.test(spent) ? ['on', 'with', 'by'].map((how) => spent.replace(/^at/i, how)) : [])])
          this.#add(words, meaning);
      for (const words of [...(FIELD_WORDS[field.key] ?? []), ...(field.body.synonyms ?? [])]) this.#add(words, meaning);
      if (field.body.type === 'yes/no') for (const name of partsOfYesNo(field.name)) this.#add(name, meaning);
      if (field.body.of === 'company')
        for (const whose of ['company', "company's", 'company has', 'their company']) this.#add(`${whose} ${field.name}`, meaning);
      for (const option of field.body.options ?? []) {
        const chosen: Meaning = { kind: 'option', field: field.id, key: option.replacedBy ?? option.key };
        this.#named(option, chosen);
        if (/\bmy\b/i.test(option.name)) this.#add(option.name.replace(/\bmy\b/gi, 'their'), chosen);
        // Who works by throwing throws.
        const base = /^([\w-]{4,})ing$/.exec(option.name)?.[1];
        if (base !== undefined && field.body.type === 'several choices')
          for (const who of [base, `${base}er`, ...(base.includes('-') ? [base.replace('-', ''), option.name.replace('-', '')] : [])])
            this.#add(who, chosen);
        for (const words of OPTION_WORDS[field.key]?.[option.key] ?? []) this.#add(words, chosen);
      }
    }
    this.#addLastWords(catalogue);
    for (const tag of catalogue.all('tag')) {
      const meaning: Meaning = { kind: 'tag', tag: tag.id };
      const [family = '', ...rest] = tag.key.split('.');
      for (const name of new Set([
        tag.key,
        tag.name,
        withoutHas(tag.name),
        memberOf(tag.name),
        tag.key.replace(/[.-]/g, ' '),
        `${family} ${tag.name}`,
        ...(tag.body.synonyms ?? []),
        ...Object.values(tag.body.labels ?? {}),
      ]))
        this.#add(name, meaning);
      // The rest of its key says it too, where nothing else is called so.
      if (rest.length > 0) this.#addKey(rest.join(' ').replace(/-/g, ' '), { ...meaning, isPart: true });
    }
    for (const family of catalogue.all('family')) this.#named(family, { kind: 'family', family: family.id });
    for (const stage of catalogue.ladder()) {
      this.#named(stage, { kind: 'stage', stage: stage.id });
      if (/^customers?$/i.test(stage.name)) this.#add('client', { kind: 'stage', stage: stage.id });
    }
    for (const card of catalogue.all('scorecard')) {
      if (card.body.of === 'deal') continue;
      this.#add(card.name, { kind: 'scorecard', scorecard: card.id });
      // `interest in glaze` is said of the glaze interest.
      const [, about, noun] = /^(.+) (\S+)$/.exec(card.name) ?? [];
      if (about && noun)
        for (const words of [`${noun} in`, `${noun} for`, ...INTERESTED])
          this.#add(`${words} ${about}`, { kind: 'scorecard', scorecard: card.id });
      for (const band of card.body.bands) {
        const meaning: Meaning = { kind: 'band', scorecard: card.id, key: band.key };
        this.#named(band, meaning);
        // Who is keen on glaze has a keen glaze interest.
        if (about) for (const how of ['on', 'about', 'for', 'in']) this.#add(`${band.name} ${how} ${about}`, meaning);
      }
    }
    for (const audience of catalogue.all('audience')) {
      this.#add(audience.name, { kind: 'audience', audience: audience.id });
      this.#addKey(audience.key, { kind: 'audience', audience: audience.id, isPart: true });
    }
    for (const pipeline of catalogue.all('pipeline')) {
      this.#add(pipeline.name, { kind: 'pipeline', key: pipeline.key });
      for (const stage of pipeline.body.stages) for (const token of tokensOf(`${stage.name} ${stage.key}`)) this.#known.add(token.word);
    }
    const clicked = catalogue.find('signalType', 'message.clicked')?.id;
    for (const message of catalogue.all('message')) {
      for (const link of clicked === undefined ? [] : message.body.links)
        this.#add(link.label, { kind: 'detail', type: clicked as number, path: 'link', value: link.key });
      for (const name of new Set([message.name, message.name.replace(/^(your|our|my|the|an?) /i, '')]))
        this.#add(name, { kind: 'message', key: message.key });
    }
    for (const form of catalogue.all('form')) {
      this.#named(form, { kind: 'form', key: form.key });
      for (const question of form.body.questions) {
        this.#add(question.label, {
          kind: 'question',
          form: form.key,
          question: question.key,
        });
        for (const option of question.options ?? []) {
          const answer: Meaning = { kind: 'answer', form: form.key, question: question.key, key: option.key };
          this.#named(option, answer);
          // What they said of themselves is said of them.
          if (/\bmy\b/i.test(option.name)) this.#add(option.name.replace(/\bmy\b/gi, 'their'), answer);
        }
      }
    }
    this.#addParts(catalogue);
    for (const email of catalogue.people ?? [])
      for (const name of [email, email.split('@')[0] ?? '']) this.#add(name, { kind: 'person', email });
    for (const { email, name, isMe } of catalogue.colleagues)
      for (const called of [
        email,
        email.split('@')[0] ?? '',
        name,
        name.split(' ')[0] ?? '',
        ...(isMe ? ['me', 'myself', 'my', 'mine', 'i'] : []),
      ])
        this.#add(called, { kind: 'person', email });
    this.#addKnown(catalogue);
  }

  /** `grade A`, `graded A`: of a fact with choices the last word of its name will do where no other fact ends in it. */
  #addLastWords(catalogue: Catalogue): void {
    const fields = new Map<string, number[]>();
    for (const { id, name, body } of catalogue.all('field')) {
      const word = tokensOf(name).at(-1)?.word ?? '';
      if (body.of === 'deal' || word.length < 4 || LANGUAGE.has(word) || !/ /.test(name)) continue;
      fields.set(word, [...(fields.get(word) ?? []), id]);
    }
    for (const [word, [field, ...others]] of fields) {
      if (field === undefined || others.length > 0 || !catalogue.body('field', field)?.options) continue;
      // `no purchase` says nothing of the part in it.
      if (this.#meanings.get(word)?.some(({ kind }) => kind === 'signal')) continue;
      for (const called of [word, ...(/e$/.test(word) ? [`${word}d`] : [])]) this.#add(called, { kind: 'field', field });
    }
  }

  /** `the clay form`: a form is called as well by a word that is in its name alone. */
  #addParts(catalogue: Catalogue): void {
    const forms = new Map<string, string[]>();
    for (const form of catalogue.all('form'))
      for (const { word, kind } of tokensOf(form.name))
        if (kind === 'word' && word.length > 2 && !LANGUAGE.has(word) && !isNegation(word))
          forms.set(word, [...(forms.get(word) ?? []), form.key]);
    for (const [word, [key, ...others]] of forms)
      if (key !== undefined && others.length === 0)
        for (const what of ['form', 'questionnaire', 'quiz', 'survey']) this.#add(`${word} ${what}`, { kind: 'form', key });
  }

  /** Texts that stand somewhere already. One that is a word of the language is not what is meant by that word. */
  #addKnown({ known }: Catalogue): void {
    for (const { values, ...where } of known.all)
      for (const { value } of values) {
        const words = tokensOf(value).filter(({ kind }) => kind !== 'sign');
        const isPlain = words.every(({ kind, word }) => kind !== 'word' || word.length < 2 || LANGUAGE.has(word) || isNegation(word));
        if (isPlain || words.length > MOST_WORDS) continue;
        const meaning: Meaning =
          'field' in where ? { kind: 'value', field: where.field, value } : { kind: 'detail', type: where.type, path: where.path, value };
        this.#add(value, meaning);
        // An evening is any of the events that are called so.
        const kindOf = words.at(-1);
        if (meaning.kind === 'detail' && meaning.path === 'event' && words.length > 1 && kindOf && kindOf.word.length > 4)
          this.#add(kindOf.word, { ...meaning, isPart: true });
      }
  }

  #named({ name, key, synonyms }: Named, meaning: Meaning): void {
    for (const words of [name, ...(synonyms ?? []), ...lackOf(name)]) this.#add(words, meaning);
    if (name !== key) this.#addKey(key, meaning);
  }

  /** A key is written by programs: one that is a word of the language, such as `no`, is not what is meant by that word. */
  #addKey(key: string, meaning: Meaning): void {
    const words = tokensOf(key).map((token) => token.word);
    if (words.length === 1 && words.every((word) => word.length < 3 || LANGUAGE.has(word) || isNegation(word))) return;
    this.#add(key.replace(/-/g, ' '), meaning);
  }

  #add(text: string, meaning: Meaning): void {
    if (contracted(text) !== text) this.#add(contracted(text), meaning);
    const tokens = tokensOf(text);
    this.#addRun(
      tokens.filter(({ kind }) => kind !== 'sign'),
      meaning,
    );
    // A comma that is typed between words parts them, unless it is one of the name.
    if (tokens.some((token) => token.text === ','))
      this.#addRun(
        tokens.filter(({ kind, text: sign }) => kind !== 'sign' || sign === ','),
        meaning,
      );
  }

  #addRun(tokens: readonly Token[], meaning: Meaning): void {
    const words = tokens.map(({ word }) => word);
    const [first] = words;
    if (first === undefined) return;
    for (const each of words) this.#known.add(each);
    this.#longest.set(first, Math.max(words.length, this.#longest.get(first) ?? 0));
    const run = words.join(JOINT);
    const meanings = this.#meanings.get(run);
    if (!meanings) this.#meanings.set(run, [meaning]);
    else if (!meanings.some((each) => JSON.stringify(each) === JSON.stringify(meaning))) meanings.push(meaning);
  }

  /** The longest run of known words that begins here, with all that it can mean. Apostrophes and hyphens between the words are passed over. */
  find(tokens: readonly Token[], at: number): { readonly meanings: readonly Meaning[]; readonly length: number } | undefined {
    let best: { readonly meanings: readonly Meaning[]; readonly length: number } | undefined;
    const most = this.#longest.get(tokens[at]?.word ?? '') ?? 0;
    for (let [place, run, words] = [at, '', 0]; words < most; words += 1) {
      if (words > 0 && tokens[place]?.kind === 'sign' && /^['’-]$/.test(tokens[place]?.text ?? '')) place += 1;
      const token = tokens[place];
      if (!token) break;
      place += 1;
      run = words === 0 ? token.word : `${run}${JOINT}${token.word}`;
      const meanings = this.#meanings.get(run);
      if (meanings) best = { meanings, length: place - at };
    }
    return best;
  }

  /** Whether a word is part of anything that is known here, or of the language itself. */
  knows(word: string): boolean {
    return this.#known.has(word) || LANGUAGE.has(word) || isNegation(word);
  }

  /** Known words that are spelt nearly like this one. While somebody types they are looked for once, and not with each key. */
  near(word: string, find: (word: string, byLength: ReadonlyMap<number, readonly string[]>) => readonly string[]): readonly string[] {
    const known = this.#near.get(word);
    if (known) return known;
    if (this.#near.size >= MOST_KEPT) this.#near.clear();
    const found = find(word, this.#wordsByLength());
    this.#near.set(word, found);
    return found;
  }

  /** Known words of so many letters, by which a misspelt one is found. */
  #wordsByLength(): ReadonlyMap<number, readonly string[]> {
    if (this.#byLength.size === 0)
      for (const word of new Set([...this.#known, ...LANGUAGE])) {
        const same = this.#byLength.get(word.length);
        if (same) same.push(word);
        else this.#byLength.set(word.length, [word]);
      }
    return this.#byLength;
  }
}

/** What else a field or a type of signals is called, and the names of its choices. */
export const synonymsOf = (definition: Definition<'field'> | Definition<'signalType'>): readonly string[] =>
  definition.kind === 'field'
    ? [
        ...(FIELD_WORDS[definition.key] ?? []),
        ...(definition.body.synonyms ?? []),
        ...(definition.body.options ?? []).flatMap(({ name, synonyms }) => [name, ...(synonyms ?? [])]),
      ]
    : [definition.name, ...(SIGNAL_WORDS[definition.key] ?? []), ...ownWords(definition)];

/** What the people of a workspace call one of its types of signals: as they said, and by what its verb becomes in a sentence. */
function ownWords({ key, body: { verb, participle, one, many, synonyms = [] } }: Definition<'signalType'>): readonly string[] {
  const said = [one, many].flatMap((noun) => (noun === undefined ? [] : [noun]));
  const forms = SIGNAL_WORDS[key] ? [] : verbForms(verb);
  return [...synonyms, ...said, ...forms, ...(participle === undefined ? [] : [verb.replace(/^\S+/, participle)])];
}

/** The verb of a built-in type as it stands behind “did not”: `finish a course`, and `finish` alone where it means nothing else. */
function baseForms({ key, body: { verb } }: Definition<'signalType'>): readonly string[] {
  if (!SIGNAL_WORDS[key]) return [];
  return verbForms(verb).flatMap((form) => [form, ...(WHOLE_VERBS.has(form.split(' ')[0] ?? '') ? [form.split(' ')[0] ?? ''] : [])]);
}
/** Verbs by which one type of signals alone is meant. */
const WHOLE_VERBS: ReadonlySet<string> = new Set(['finish', 'attend', 'renew', 'download', 'unsubscribe']);

const lexicons = new WeakMap<Catalogue, Lexicon>();
/** A catalogue never changes, so its words are gathered once. */
export function lexiconOf(catalogue: Catalogue): Lexicon {
  const known = lexicons.get(catalogue);
  if (known) return known;
  const made = new Lexicon(catalogue);
  lexicons.set(catalogue, made);
  return made;
}

/** `has a membership` is spoken of as a membership; who had one has none. */
const withoutHas = (name: string): string => name.replace(/^(has|have)\s+an?\s+/i, '');

/** Who has a membership is a member. */
const memberOf = (name: string): string => (/ship$/i.test(name) ? withoutHas(name).replace(/ship$/i, '') : name);

/** `no room for a wheel`: what is lacking is said in more ways, and in short. */
function lackOf(name: string): readonly string[] {
  const [, thing, what] = /^no ((\S+) .+)$/i.exec(name) ?? [];
  if (thing === undefined || what === undefined) return [];
  return ['no', 'lack of', 'lacks', 'lacking', 'without', 'has no', 'not enough'].flatMap((how) => [`${how} ${thing}`, `${how} ${what}`]);
}

/** `has own kiln` is spoken of as a kiln. */
const partsOfYesNo = (name: string): readonly string[] => {
  const bare = name.replace(/^(has|have|is|owns?|with)\s+/i, '');
  const thing = bare.replace(/^(an?|own|their own|the)\s+/i, '');
  const isHad = /^(has|have|owns?)\s/i.test(name);
  const owned = isHad
    ? [`${thing} owner`, `owner of a ${thing}`, `owner of an ${thing}`, `owns a ${thing}`, `own a ${thing}`, `owning a ${thing}`]
    : [];
  return [...new Set([bare, thing, ...owned])].filter((each) => each !== name && each !== '');
};

/** Words of the language itself, as tokens are compared: none of them is misspelt. */
const LANGUAGE: ReadonlySet<string> = new Set([
  ...[...FILLERS, ...OTHER_WORDS, ...MEASURING].map(runOf),
  ...CUE_WORDS,
  ...COMPARISON_WORDS,
]);
