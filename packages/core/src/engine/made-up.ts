import { isGroup, type Condition, type Leaf } from '../conditions/schema.ts';
import { readFact, showFact, type WrittenFact } from '../contacts/facts.ts';
import { choicesOf, storageOf, type FieldBody } from '../contacts/fields.ts';
import { rowsOf } from '../forms/answer-map.ts';
import { type Signal } from '../intake/signal.ts';
import { type Change } from '../ledger/change.ts';
import { type RuleAction, type RuleSubject } from '../rules/definition.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Definition } from '../settings/definitions.ts';
import { type Instant } from '../time/zone.ts';
import { type SubjectState } from './state.ts';

/** One thing that can be so about a made-up contact: a tag that they have, a value of a field. */
export interface Setting {
  readonly words: string;
  readonly put: (state: SubjectState, at: Instant) => void;
  /** how somebody comes to be so by hand; left out where nobody can make it so */
  readonly change?: Change;
}
/** What can be so in one respect, one of them at a time. The first is how everybody begins. */
export type Respect = readonly Setting[];

const REASON = { kind: 'hand', ref: 'made up' } as const;

/** In which respects made-up contacts and companies have to differ, so that rules can be tried on every kind; and whether those are all. */
export interface Respects {
  readonly contact: readonly Respect[];
  readonly company: readonly Respect[];
  /** nothing else decides what these rules do: no time, history, amounts, deals or how many contacts a company has */
  readonly isAll: boolean;
}

/** Finds what rules can tell apart about a contact and its company. */
export function respectsOf(rules: readonly Definition<'rule'>[], catalogue: Catalogue): Respects {
  const finding = new Finding(catalogue);
  for (const { body } of rules) {
    if (body.when.kind === 'becomes') finding.condition(body.when.condition);
    if (body.if) finding.condition(body.if);
    for (const action of body.then) finding.action(action);
  }
  return finding.found();
}

/** What conditions alone can tell apart. */
export function respectsIn(conditions: readonly Condition[], catalogue: Catalogue): Respects {
  const finding = new Finding(catalogue);
  for (const condition of conditions) finding.condition(condition);
  return finding.found();
}

/** One respect of one of those who are made up. */
export interface Place {
  /** the contact by its number, or the company */
  readonly whose: number | 'company';
  readonly respect: Respect;
}
/** One setting for each place. */
export type Kind = readonly Setting[];

export const placesOf = ({ contact, company }: Respects, contacts: number): readonly Place[] => [
  ...company.map((respect): Place => ({ whose: 'company', respect })),
  ...Array.from({ length: contacts }, (_, whose) => contact.map((respect): Place => ({ whose, respect }))).flat(),
];

export function* everyKind(places: readonly Place[]): Generator<Kind> {
  const [first, ...others] = places;
  if (!first) return yield [];
  for (const setting of first.respect) for (const rest of everyKind(others)) yield [setting, ...rest];
}

class Finding {
  isAll = true;
  readonly #catalogue: Catalogue;
  readonly #tags = new Set<number>();
  readonly #fields = new Map<number, Set<unknown>>();
  readonly #lists = new Set<number>();
  readonly #pins = new Set<number>();
  readonly #signals = new Set<number>();
  readonly #known = new Set<number>();
  #stages = false;

  constructor(catalogue: Catalogue) {
    this.#catalogue = catalogue;
  }

  condition(condition: Condition): void {
    if (isGroup(condition)) {
      for (const each of condition.of) this.condition(each);
      return;
    }
    this.#leaf(condition);
  }

  #leaf(leaf: Leaf): void {
    switch (leaf.kind) {
      case 'tag':
        this.#tags.add(leaf.tag);
        this.isAll &&= (leaf.op === 'has' || leaf.op === 'lacks') && leaf.since === undefined && leaf.value === undefined;
        return;
      case 'field': {
        const { op, ...said } = leaf;
        this.#field(leaf.field, leaf.value);
        const storage = storageOf[this.#catalogue.body('field', leaf.field)?.type ?? 'text'];
        const plain = /^(=|!=|>|>=|<|<=|is|is not|is one of|is empty|is filled|is yes|is no)$/.test(op);
        this.isAll &&=
          plain &&
          storage !== 'choices' &&
          storage !== 'day' &&
          storage !== 'instant' &&
          !(typeof said.value === 'object' && !Array.isArray(said.value));
        return;
      }
      case 'stage':
        this.#stages = true;
        this.isAll &&= leaf.since === undefined;
        return;
      case 'audience':
        this.isAll &&= leaf.op !== 'left' && leaf.since === undefined;
        return this.#audience(leaf.audience);
      case 'band':
      case 'score':
        if (leaf.kind === 'band') this.isAll &&= leaf.since === undefined;
        return this.#card(leaf.scorecard);
      case 'signal':
        for (const type of [leaf.type].flat()) if (typeof type === 'number') this.#signals.add(type);
        return this.#rest();
      case 'contacts':
        this.condition(leaf.condition);
        return this.#rest();
      case 'change':
      case 'compare':
      case 'owner':
      case 'consent':
      case 'deal':
        return this.#rest();
    }
  }

  #rest(): void {
    this.isAll = false;
  }

  #audience(id: number): void {
    const body = this.#catalogue.body('audience', id);
    if (body?.kind === 'fixed') this.#lists.add(id);
    else if (body?.condition && !this.#pins.has(id)) {
      this.#pins.add(id);
      this.condition(body.condition);
    }
  }

  #card(id: number): void {
    if (this.#known.has(id)) return;
    this.#known.add(id);
    if (isGivenPoints(id, this.#catalogue)) this.#rest();
    for (const line of this.#catalogue.body('scorecard', id)?.lines ?? []) {
      if (line.kind === 'fact') {
        this.condition(line.condition);
        this.isAll &&= line.stands === 'while';
      } else {
        this.#signals.add(line.type);
        this.#rest();
      }
    }
  }

  #field(id: number, ...values: readonly unknown[]): void {
    const known = this.#fields.get(id) ?? new Set();
    for (const value of values.flat()) known.add(value);
    this.#fields.set(id, known);
  }

  action(action: RuleAction): void {
    switch (action.do) {
      case 'add tag':
      case 'remove tag':
        this.#tags.add(action.tag);
        return;
      case 'set field':
      case 'set company field':
        return typeof action.value === 'object' && 'detail' in action.value ? this.#rest() : this.#field(action.field, action.value);
      case 'clear field':
        return this.#field(action.field);
      case 'set stage':
        this.#stages = true;
        return;
      case 'put on list':
      case 'take off list':
        this.#lists.add(action.audience);
        return;
      case 'run bundle':
        for (const step of this.#catalogue.body('bundle', action.bundle)?.then ?? []) {
          if (step.if) this.condition(step.if);
          this.action(step.action);
        }
        return;
      case 'increase field':
      case 'give points':
      case 'assign owner':
        return this.#rest();
      case 'make task':
      case 'notify':
        return;
    }
  }

  found(): Respects {
    return { contact: this.#respects('contact'), company: this.#respects('company'), isAll: this.isAll };
  }

  #respects(of: RuleSubject): readonly Respect[] {
    const catalogue = this.#catalogue;
    const fields = [...this.#fields].filter(([field]) => catalogue.body('field', field)?.of === of);
    const isOf = (audience: number): boolean => catalogue.body('audience', audience)?.of === of;
    const both = [
      ...fields.map(([field, values]) => fieldRespect(field, [...values], catalogue)),
      ...[...this.#lists].filter(isOf).map((list) => listRespect(list, catalogue)),
      ...[...this.#pins].filter(isOf).map((audience) => pinRespect(audience, catalogue)),
    ];
    if (of === 'company') return both;
    return [
      ...[...this.#tags].map((tag) => tagRespect(tag, catalogue)),
      ...both,
      ...(this.#stages ? [stageRespect(catalogue)] : []),
      ...[...this.#signals].map((type) => signalRespect(type, catalogue)),
    ];
  }
}

function tagRespect(tag: number, catalogue: Catalogue): Respect {
  const key = catalogue.get('tag', tag)?.key ?? '…';
  return [
    { words: `no tag ${key}`, put: () => undefined, change: { kind: 'tag', tag, add: false, reasons: 'all' } },
    {
      words: `the tag ${key}`,
      put: (state, at) => state.put('tags', tag, { since: at, reasons: [REASON] }),
      change: { kind: 'tag', tag, add: true, reason: REASON },
    },
  ];
}

function fieldRespect(field: number, values: readonly unknown[], catalogue: Catalogue): Respect {
  const body = catalogue.body('field', field);
  const name = catalogue.get('field', field)?.name ?? '…';
  if (!body) return [];
  const apart = new Map<string, WrittenFact>();
  for (const value of withOthers(values, body)) {
    const read = readFact(body, value, catalogue.workspace);
    if (read.ok && read.value) apart.set(JSON.stringify(read.value.fact), read.value);
  }
  return [
    { words: `nothing in ${name}`, put: () => undefined, change: { kind: 'field', field, value: undefined } },
    ...[...apart.values()].map((written): Setting => ({
      words: `${name} ${showFact(body, written.fact, written.shown)}`,
      put: (state) => state.put('facts', field, written.fact),
      change: { kind: 'field', field, value: written },
    })),
  ];
}

/** With what is said, what lies beside it: between two numbers, another text, another choice. */
function withOthers(values: readonly unknown[], body: FieldBody): readonly unknown[] {
  switch (body.type) {
    case 'yes/no':
      return [true, false];
    case 'number':
    case 'money': {
      const numbers = values.filter((value) => typeof value === 'number').sort((a, b) => a - b);
      const [least, most] = [numbers[0] ?? 0, numbers.at(-1) ?? 0];
      const between = numbers.slice(1).map((value, index) => (value + (numbers[index] ?? 0)) / 2);
      return [least - 1, ...numbers, ...between, most + 1];
    }
    case 'one choice':
      return choicesOf(body).map(({ key }) => key);
    case 'text':
    case 'long text':
    case 'phone':
    case 'link':
      return [...values, 'anything else'];
    case 'date':
    case 'date-time':
    case 'several choices':
      return values;
  }
}

function stageRespect(catalogue: Catalogue): Respect {
  return [
    { words: 'no stage', put: () => undefined, change: { kind: 'stage', stage: undefined, backward: true } },
    ...catalogue.ladder().map(({ id, name }): Setting => ({
      words: `the stage ${name}`,
      put: (state, at) => void (state.stage = { id, since: at }),
      change: { kind: 'stage', stage: id, backward: true },
    })),
  ];
}

function listRespect(audience: number, catalogue: Catalogue): Respect {
  const name = catalogue.get('audience', audience)?.name ?? '…';
  return [
    { words: `not on the list ${name}`, put: () => undefined, change: { kind: 'list', audience, on: false } },
    { words: `on the list ${name}`, put: (state, at) => state.join(audience, at), change: { kind: 'list', audience, on: true } },
  ];
}

/** Who is kept in a live audience or out of it, whatever it asks. */
function pinRespect(audience: number, catalogue: Catalogue): Respect {
  const name = catalogue.get('audience', audience)?.name ?? '…';
  const pinned = (isIn: boolean): Setting => {
    const pin = { in: isIn, reason: REASON.ref, until: undefined, by: REASON.ref };
    return {
      words: `a pin ${isIn ? 'in' : 'out of'} ${name}`,
      put: (state, at) => state.put('pins', audience, { ...pin, since: at }),
      change: { kind: 'pin', audience, pin },
    };
  };
  return [
    { words: `no pin in ${name}`, put: () => undefined, change: { kind: 'pin', audience, pin: undefined } },
    pinned(true),
    pinned(false),
  ];
}

/** Whether anything gives points of a scorecard: then more decides a score than its lines. */
function isGivenPoints(scorecard: number, catalogue: Catalogue): boolean {
  const gives = (action: RuleAction): boolean => action.do === 'give points' && action.scorecard === scorecard;
  const answers = catalogue.all('form').flatMap(({ body }) => body.questions.flatMap((question) => [question, ...rowsOf(question)]));
  return (
    catalogue.all('rule').some(({ body }) => body.then.some(gives)) ||
    catalogue.all('bundle').some(({ body }) => body.then.some(({ action }) => gives(action))) ||
    answers.some(({ does }) => does?.some(gives) ?? false)
  );
}

/** Whoever did it once, of whatever kind. */
function signalRespect(type: number, catalogue: Catalogue): Respect {
  const verb = catalogue.get('signalType', type)?.body.verb ?? 'did something';
  const signal = (at: Instant): Signal => ({
    ...{ id: -type, typeId: type, time: at, source: 'made up', senderId: String(type), details: {}, historic: false },
  });
  return [
    { words: `never ${verb}`, put: () => undefined },
    { words: `${verb} once`, put: (state, at) => void state.addSignal(signal(at)) },
  ];
}
