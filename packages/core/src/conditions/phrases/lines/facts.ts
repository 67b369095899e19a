import { storageOf, type FieldBody } from '../../../contacts/fields.ts';
import { type Unit } from '../../../time/zone.ts';
import { type Condition, type Leaf, type NumberOp, type Value } from '../../schema.ts';
import { type Chunk } from '../chunks.ts';
import { type Limit } from '../limits.ts';
import { type Segment } from '../segment.ts';
import { runOf } from '../tokens.ts';
import { fieldChange } from './changes.ts';
import { datedAhead, datedBy, isAhead } from './dates.ts';
import { isCompanySaid, isForbidden, isPlan, noneIf, partsOf, type Phrase, WRITTEN } from './phrase.ts';

type Made = (op: string, value?: Value) => Leaf;

/** A field that is named, or one of whose choices is. */
export function fieldLine(phrase: Phrase, segment: Segment, head: Chunk | undefined, field: number): Condition | undefined {
  // `came from campaign spring and deal in quote`: no fact says that.
  if (segment.cue('deal')) segment.refuse();
  // `city is Saltwick or company is a café`
  const isOfContact = phrase.of === 'contact' && phrase.catalogue.body('field', field)?.of === 'contact';
  if (isOfContact && (isCompanySaid(segment.chunks) || segment.chunks.some(isACompany))) segment.refuse();
  // `email contains gmail or on the Bench plan`
  if (segment.chunks.some((chunk) => chunk !== head && chunk.kind !== 'thing' && isPlan(chunk))) segment.refuse();
  if (head && isSaidOfAnother(segment, head)) segment.refuse();
  // `don't email`: nobody says that they have none.
  if (head?.cue === 'email' && isForbidden(segment.chunks, head)) segment.refuse();
  const line = testOf(phrase, segment, head, field);
  // Everybody came somehow: `came through` alone does not say that this is known.
  const isBare =
    line && 'kind' in line && line.kind === 'field' && line.op === 'is filled' && !segment.chunks.some(({ cue }) => cue === 'filled');
  // `throws on the wheel`: for how long, nobody asks.
  if (isBare && head && (COMING.test(head.text) || /^(at|on|with|by) /i.test(head.text))) return undefined;
  const added = line && ofComing(phrase, field) ? cameWhen(phrase, segment) : undefined;
  return line && added ? { match: 'all', of: [line, added] } : line;
}

/** `no company in Norway`: where they live themselves is not said. */
const isACompany = ({ cue, text }: Chunk): boolean => cue === 'company' && /\b(company|firm|business|works?)\b/i.test(text);

/** `city is Saltwick, plan is Kiln`: across an "and" an "is" or a "contains" is said of something else. */
function isSaidOfAnother({ chunks }: Segment, head: Chunk): boolean {
  const at = chunks.indexOf(head);
  return chunks.some((chunk, index) => {
    if (!/^(is|are|=|:)$/i.test(chunk.text) && !WRITTEN.has(chunk.cue)) return false;
    const between = index < at ? chunks.slice(index, at) : chunks.slice(at, index);
    return between.some(({ kind, joint }) => kind === 'joint' && joint !== 'or');
  });
}

/** Whether a fact says how somebody first came. */
function ofComing({ catalogue }: Phrase, id: number): boolean {
  const field = catalogue.get('field', id);
  return field !== undefined && (/^first-(source|through|campaign)$/.test(field.key) || COMING.test(field.name));
}

/** `imported last month`: when they came is when they were added. */
function cameWhen(phrase: Phrase, segment: Segment): Leaf | undefined {
  const added = phrase.catalogue.find('field', 'added');
  const test = added && segment.unused().some(({ kind }) => kind === 'window') ? datedBy(phrase, segment, false) : undefined;
  return added && test
    ? { kind: 'field', of: 'contact', field: added.id, op: test.op, ...(test.value === undefined ? {} : { value: test.value }) }
    : undefined;
}

const COMING = /^(came|brought|added|created|made|joined)\b/i;

function testOf(phrase: Phrase, segment: Segment, head: Chunk | undefined, field: number): Condition | undefined {
  const body = phrase.catalogue.body('field', field);
  if (!body || body.of === 'deal' || (body.of === 'contact' && phrase.of === 'company')) return undefined;
  segment.head(head);
  if (head) segment.use(...saidAgain(segment, head, field));
  const { of } = body;
  // `came through a friend`: a choice of how they came is said behind any word of coming.
  if (!head && COMING.test(phrase.catalogue.get('field', field)?.name ?? ''))
    segment.use(
      segment.unused().find(({ kind, text }) => kind === 'thing' && COMING.test(text) && !/campaign/i.test(text)),
      segment.unused().find(({ kind, text }) => kind !== 'thing' && /^(via|through)$/i.test(text)),
    );
  // `first came from a form`
  const isOrigin = /^first-/.test(phrase.catalogue.get('field', field)?.key ?? '');
  if (isOrigin) segment.takeCue('first');
  // `tagged by hand`, `tagged trade`: it is the tag that came so, or is called so.
  if ((isOrigin || !head) && segment.cue('tag')) segment.refuse();
  if (of === 'company') segment.takeCue('company');
  const made: Made = (op, value) => ({ kind: 'field', of, field, op, ...(value === undefined ? {} : { value }) });
  const changed = fieldChange(segment, field, body);
  if (changed) return changed;
  // Everybody was added at some time.
  if (isWhenAdded(phrase, field) && (segment.cue('empty') ?? segment.cue('filled'))) return undefined;
  const empty = emptiness(segment, head);
  if (empty) {
    if (head && body.type === 'yes/no' && isBehindAJoint(segment, head)) segment.refuse();
    // `phone missing, has an email`: the one is not there, the other is.
    if (empty === 'is empty' && partsOf(segment.chunks).some(saysItIsThere)) segment.refuse();
    const others = alsoNamed(phrase, segment, head);
    // `new this week or country known`: everybody was added at some time.
    if (others.some((each) => 'field' in each && isWhenAdded(phrase, each.field))) segment.refuse();
    if (others.length === 0) return made(empty);
    segment.takeCue('oneOf', 'allOf');
    return {
      match: segment.isJoinedBy('or') ? 'any' : 'all',
      of: [made(empty), ...others.map((each): Leaf => ({ ...each, op: empty }) as Leaf)],
    };
  }
  const all = allKnown(phrase, segment, head);
  if (all) return { match: segment.isJoinedBy('or') ? 'any' : 'all', of: [made('is filled'), ...all] };
  switch (storageOf[body.type]) {
    case 'number':
      return numberTest(segment, made, phrase.catalogue.get('field', field)?.name ?? '');
    case 'day':
    case 'instant':
      // Of whom a tag was added nobody says when they were.
      if (phrase.catalogue.get('field', field)?.key === 'added' && segment.cue('tag')) segment.refuse();
      // Everybody was added at some time.
      if (phrase.catalogue.get('field', field)?.key === 'added' && !segment.chunks.some(({ kind }) => kind === 'window' || kind === 'next'))
        return undefined;
      return head && dateTest(phrase, segment, made, phrase.catalogue.get('field', field)?.name ?? '');
    case 'yesNo': {
      const isNot = segment.takeNot() !== segment.takeCue('no');
      segment.takeCue('yes');
      // Who wants a kiln has none yet.
      if (head && WISHING.test(before(segment, head))) segment.refuse();
      return head && made(isNot ? 'is no' : 'is yes');
    }
    case 'choice':
    case 'choices':
      return choiceTest(segment, made, field, body);
    case 'text':
      return textTest(segment, made, field, head, phrase.catalogue.get('field', field)?.key === 'email');
  }
}

/** `city = Hollin or city = Upper Fern`: the fact is named twice, and asked once. */
function saidAgain({ chunks }: Segment, head: Chunk, field: number): readonly Chunk[] {
  if (chunks.some(({ cue }) => WRITTEN.has(cue))) return [];
  return chunks.filter(
    (chunk, at) =>
      chunk !== head && chunks[at - 1]?.joint === 'or' && chunk.meanings.some((each) => each.kind === 'field' && each.field === field),
  );
}

const WISHING = /\b(wants?|needs?|wish(es)? for|would like|looking for)( an?| the| their own| own)?$/i;
const before = (segment: Segment, head: Chunk): string =>
  segment.chunks
    .slice(0, segment.chunks.indexOf(head))
    .map(({ text }) => text)
    .join(' ');

const saysItIsThere = (part: readonly Chunk[], at: number): boolean =>
  at > 0 && /^(has|have|having|with)$/i.test(part[0]?.text ?? '') && !part.some(({ kind, cue }) => kind === 'not' || cue === 'empty');

/** `phone or email missing`: other facts of which the same is asked. */
function alsoNamed(
  phrase: Phrase,
  segment: Segment,
  head: Chunk | undefined,
): readonly { kind: 'field'; of: 'contact' | 'company'; field: number }[] {
  if (!head) return [];
  const others = segment.unused().flatMap((chunk) => {
    const field = chunk.meanings.find((each) => each.kind === 'field')?.field;
    const body = field === undefined ? undefined : phrase.catalogue.body('field', field);
    // `phone unknown and has own kiln`
    if (body?.type === 'yes/no') segment.refuse();
    // `language unknown, joined Gone quiet`: everybody was added at some time.
    if (field !== undefined && phrase.catalogue.get('field', field)?.key === 'added') segment.refuse();
    const of = body?.of;
    return field !== undefined && (of === 'contact' || of === 'company') ? [{ chunk, leaf: { kind: 'field' as const, of, field } }] : [];
  });
  const named = segment.chunks.filter((chunk) => chunk === head || others.some((each) => each.chunk === chunk));
  segment.join(named);
  return others.map(({ leaf }) => leaf);
}

const isWhenAdded = ({ catalogue }: Phrase, field: number): boolean => catalogue.get('field', field)?.key === 'added';

/** `has email and phone`: facts of which nothing more is asked than that they are known. */
function allKnown(phrase: Phrase, segment: Segment, head: Chunk | undefined): readonly Leaf[] | undefined {
  const isNamed = ({ meanings }: Chunk): boolean => meanings.some(({ kind }) => kind === 'field');
  const saysNothing = ({ kind, meanings, cue }: Chunk): boolean =>
    (kind === 'filler' && meanings.length === 0) || kind === 'joint' || cue === 'allOf';
  if (!segment.chunks.every((chunk) => saysNothing(chunk) || isNamed(chunk))) return undefined;
  // Who has a kiln has one: it is not that this is known.
  const isYesNo = (chunk: Chunk): boolean =>
    chunk.meanings.some((each) => each.kind === 'field' && phrase.catalogue.body('field', each.field)?.type === 'yes/no');
  if (segment.chunks.some(isYesNo)) return undefined;
  // `campaign is kiln`: of a fact it is said what it is.
  if (!segment.chunks.some(({ kind }) => kind === 'joint')) return undefined;
  const others = alsoNamed(phrase, segment, head);
  if (others.length > 0) segment.takeCue('allOf');
  return others.length > 0 ? others.map((each): Leaf => ({ ...each, op: 'is filled' }) as Leaf) : undefined;
}

/** `has own kiln and phone unknown`: of another fact it is said that it is unknown. */
function isBehindAJoint({ chunks }: Segment, head: Chunk): boolean {
  const said = chunks.findIndex(({ cue }) => cue === 'empty' || cue === 'filled');
  const at = chunks.indexOf(head);
  return said >= 0 && chunks.slice(Math.min(at, said), Math.max(at, said)).some(({ kind }) => kind === 'joint');
}

/** Whether it is asked if there is a value at all. */
function emptiness(segment: Segment, head: Chunk | undefined): 'is empty' | 'is filled' | undefined {
  const empty = segment.cue('empty');
  const filled = segment.cue('filled');
  // `neglected for 90 days`: that something did not happen says of no fact that it is unknown.
  if (empty && empty !== head && empty.meanings.some(({ kind }) => kind === 'signal')) segment.refuse();
  if ((!empty || empty === head) && !filled) return undefined;
  // `phone known, email unknown`: of each of them something else is said.
  if (empty && filled && empty !== head) segment.refuse();
  // So is it by `phone known but no email`.
  const [said, not] = [segment.chunks.indexOf((empty ?? filled) as Chunk), segment.chunks.findIndex(({ kind }) => kind === 'not')];
  if (not > said && segment.chunks.slice(said, not).some(({ kind }) => kind === 'joint')) segment.refuse();
  if (isDeniedApart(segment, empty)) segment.refuse();
  // `no city, email known`
  const between = filled ? segment.chunks.slice(not < 0 ? said : not, said) : [];
  if (between.some(({ kind, joint }) => kind === 'joint' && joint !== 'or')) segment.refuse();
  segment.use(empty, filled);
  return (empty !== undefined) !== segment.takeNot() ? 'is empty' : 'is filled';
}

/** `phone missing or email missing`, `no phone or email missing`: each is said of something else. `phone is not missing` is said of one. */
function isDeniedApart({ chunks }: Segment, said: Chunk | undefined): boolean {
  if (said === undefined) return false;
  const before = chunks.slice(0, chunks.indexOf(said)).findLast(({ kind }) => kind !== 'filler');
  const isAcross = (chunk: Chunk): boolean => {
    const [from, to] = [chunks.indexOf(chunk), chunks.indexOf(said)].sort((a, b) => a - b);
    return chunks.slice(from, to).some(({ kind }) => kind === 'joint');
  };
  const isAnother = (chunk: Chunk): boolean => chunk.kind === 'not' && (chunk.cue === 'empty' || said.kind === 'not' || isAcross(chunk));
  return chunks.some((chunk) => chunk !== said && chunk !== before && isAnother(chunk));
}

/** What a field is asked by its name alone: rather something of it is meant, if the words can be read so. */
function known(segment: Segment, made: Made, isNot: boolean): Leaf {
  segment.doubt(0.6);
  return made(isNot ? 'is empty' : 'is filled');
}

function numberTest(segment: Segment, made: Made, name: string): Condition {
  const limit = segment.takeLimit() ?? takeFor(segment, name);
  // `for 2 to 5 years`, where the number counts years
  const [unit = ''] = /^(minute|hour|day|week|month|year)(?=s )/i.exec(name) ?? [];
  if (limit && unit !== '') segment.takeWord(new RegExp(`^${unit}s?$`, 'i'));
  const isNot = segment.takeNot();
  return limit ? noneIf(isNot, made(opBehind(segment) ?? limit.op, limit.value)) : known(segment, made, isNot);
}

/** `5 years or more at the wheel`: how a number is compared may stand behind what it counts. */
function opBehind(segment: Segment): NumberOp | undefined {
  const ops: readonly (readonly [NumberOp, RegExp])[] = [
    ['>=', /^(or|and) (more|above|up)$/i],
    ['<=', /^or (less|fewer|below)$/i],
  ];
  for (const [op, words] of ops) if (segment.takeWord(words)) return op;
  return undefined;
}

/** `at the wheel for more than 5 years`: how long, where the number counts years. */
function takeFor(segment: Segment, name: string): Pick<Limit, 'op' | 'value'> | undefined {
  const chunk = segment.unused().find(({ kind, text }) => kind === 'window' && /^for /i.test(text));
  const window = chunk?.window;
  if (!chunk || typeof window !== 'object' || 'from' in window || 'to' in window) return undefined;
  const { unit } = window as { readonly unit: Unit };
  if (!name.toLowerCase().startsWith(`${unit} `)) return undefined;
  segment.use(chunk);
  if ('olderThan' in window) return { op: /at least/i.test(chunk.text) ? '>=' : '>', value: window.olderThan };
  return 'last' in window ? { op: /^for (\d|an? )/i.test(chunk.text) ? '>=' : '<', value: window.last } : undefined;
}

/** Behind an "is" stands what a fact is; without one it may stand before its name, too: `Hollin city` */
function whereItIsSaid({ chunks }: Segment, head: Chunk): readonly Chunk[] {
  const behind = chunks.slice(chunks.indexOf(head) + 1);
  // `guests came through a friend`, `guests with phone or email`: who it is that came, or has it, is not what it is.
  const isTheirs = COMING.test(head.text) || /^(with|without|has|have|having|by)$/i.test(chunks[chunks.indexOf(head) - 1]?.text ?? '');
  if (isTheirs) return behind;
  // `email at guild.example and came from campaign spring`: what is joined to a fact from before is of another one.
  const isJoined = chunks.slice(0, chunks.indexOf(head)).some(({ joint }) => joint === 'and');
  if (isJoined && behind.some(({ kind }) => kind === 'free' || kind === 'thing')) return behind;
  return behind.some(({ text, cue }) => /^(is|are|=|:)$/i.test(text) || WRITTEN.has(cue)) ? behind : chunks;
}

const isSomethingElse = (chunk: Chunk, segment: Segment): boolean =>
  segment.isUsed(chunk) && chunk.meanings.some(({ kind }) => kind === 'option' || kind === 'stage' || kind === 'tag' || kind === 'band');

function textTest(segment: Segment, made: Made, field: number, head: Chunk | undefined, isEmail: boolean): Condition | undefined {
  // `city contains wick, email contains gmail`: two facts.
  if (segment.chunks.filter(({ cue }) => WRITTEN.has(cue)).length > 1) segment.refuse();
  const how = (['starts', 'ends', 'contains'] as const).find((cue) => segment.takeCue(cue));
  const isNot = segment.takeNot();
  segment.takeCue('oneOf');
  const isOfField = (chunk: Chunk): boolean => chunk.meanings.some((each) => each.kind === 'value' && each.field === field);
  // Without its name a field is meant only by what is known to stand in it.
  const texts = head
    ? segment.takeTexts(whereItIsSaid(segment, head), isOfField)
    : segment.takeAll('value', (each) => each.field === field).map(({ value }) => value);
  // `deciders at places with an open deal`: what they are is no town.
  if (head && segment.chunks.slice(0, segment.chunks.indexOf(head)).some((chunk) => isSomethingElse(chunk, segment) && !isOfField(chunk)))
    segment.refuse();
  // Behind "starts with" a number is the beginning of a text.
  const number = how && texts.length === 0 ? segment.unused().find(({ kind, text }) => kind === 'limit' && /^\d+$/.test(text)) : undefined;
  // So is a word of the language: there are names that begin with “an”.
  const behind = segment.chunks.at(-1);
  const word = how && texts.length === 0 && !number && behind?.kind === 'filler' ? behind : undefined;
  segment.use(number, word);
  const [text = number?.text ?? word?.text, ...others] = texts;
  // `deciders without a phone number`: what stands before it is so.
  const [not, at] = [segment.chunks.findIndex(({ kind }) => kind === 'not'), head ? segment.chunks.indexOf(head) : -1];
  if (isNot && not < at && segment.chunks.slice(0, not).some((chunk) => segment.isUsed(chunk) && chunk.kind !== 'filler')) segment.refuse();
  // `text allowed, email not`: that is no word of an address.
  const isBehind = isNot && head !== undefined && segment.chunks.slice(segment.chunks.indexOf(head)).some(({ kind }) => kind === 'not');
  if (text === undefined) return head && !how && !isBehind ? known(segment, made, isNot) : undefined;
  // No address is without its domain: an email of that name is no address.
  if (isEmail && !how && !texts.every((each) => /[@.]/.test(each))) return undefined;
  // No address is a mere domain: those at it are meant.
  if (isEmail && !how && texts.every((each) => !each.includes('@') && each.includes('.')))
    return endings(
      made,
      texts.map((each) => `@${each}`),
      isNot,
    );
  const several = others.length > 0;
  switch (how) {
    case 'starts':
      return several
        ? { match: isNot ? 'none' : 'any', of: texts.map((each) => made('starts with', each)) }
        : noneIf(isNot, made('starts with', text));
    case 'ends':
      return endings(made, texts.length > 0 ? texts : [text], isNot);
    case 'contains':
      return noneIf(isNot, several ? made('contains any of', texts) : made('contains', text));
    case undefined:
      return noneIf(isNot, several ? made('is one of', texts) : made('is', text));
  }
}

const endings = (made: Made, texts: readonly string[], isNot: boolean): Condition => {
  const [text = '', ...others] = texts;
  if (others.length === 0) return noneIf(isNot, made('ends with', text));
  return { match: isNot ? 'none' : 'any', of: texts.map((each) => made('ends with', each)) };
};

/** `region harbour`: beside its field a choice is called as well by a word that is in its name alone. */
function optionsByPart(segment: Segment, { options = [] }: FieldBody): readonly string[] {
  return segment.unused().flatMap((chunk) => {
    if (chunk.kind !== 'free') return [];
    const word = runOf(chunk.text);
    const [option, ...others] = options.filter(({ name, replacedBy }) => replacedBy === undefined && runOf(name).split(' ').includes(word));
    if (!option || others.length > 0) return [];
    segment.use(chunk);
    return [option.key];
  });
}

function choiceTest(segment: Segment, made: Made, field: number, body: FieldBody): Condition {
  const isAll = segment.takeCue('allOf') || (segment.isJoinedBy('and') && !segment.isJoinedBy('or'));
  segment.takeCue('oneOf');
  segment.takeCues('contains');
  const isNot = segment.takeNot();
  // `not by throwing only`
  if (isNot && segment.chunks.some(({ kind, text }) => kind === 'filler' && /^only$/i.test(text))) segment.refuse();
  const named = segment.takeAll('option', (meaning) => meaning.field === field).map(({ key }) => key);
  const keys = [...new Set(named.length > 0 ? named : optionsByPart(segment, body))];
  const [key, ...others] = keys;
  if (key === undefined) return known(segment, made, isNot);
  if (storageOf[body.type] === 'choices' && !isNot && segment.chunks.some(({ kind, text }) => kind === 'filler' && /^only$/i.test(text))) {
    const others = (body.options ?? []).filter((option) => option.replacedBy === undefined && !keys.includes(option.key));
    return {
      match: 'all',
      of: [
        made('includes all of', keys),
        ...(others.length > 0
          ? [
              made(
                'includes none of',
                others.map((each) => each.key),
              ),
            ]
          : []),
      ],
    };
  }
  if (storageOf[body.type] === 'choices')
    return made(isNot ? 'includes none of' : isAll && others.length > 0 ? 'includes all of' : 'includes any of', keys);
  return noneIf(isNot, others.length === 0 ? made('is', key) : made('is one of', keys));
}

function dateTest(phrase: Phrase, segment: Segment, made: Made, name: string): Condition {
  const isAnniversary = segment.takeCue('anniversary');
  const isYearly = isAnniversary || /birth/i.test(name);
  const isNot = segment.takeNot();
  const test = !isYearly && isAhead(name) ? datedAhead(phrase, segment) : datedBy(phrase, segment, isYearly);
  if (test) return noneIf(isNot, made(test.op, test.value));
  return isAnniversary ? noneIf(isNot, made('anniversary today')) : known(segment, made, isNot);
}
