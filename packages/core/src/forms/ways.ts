import { meets, nextAfter, type Answers, type AnswerValue, type AskedIf, type Branching, type Next } from './branching.ts';
import { scaleOf } from './question-types.ts';

/** So many situations are looked at; a form with more is not looked through to the end. */
const MOST_SITUATIONS = 20_000;
/** So many ways to answer one question that make a difference further on. */
const MOST_KINDS = 2_000;

/** From one question to the next that is asked, or to an end. */
export interface Link {
  readonly from: string;
  /** the next question; undefined where the way ends */
  readonly to: string | undefined;
  /** the key of the outcome, or true, where it ends */
  readonly end: string | true | undefined;
  /** the choices that lead there, by name; empty if any answer can */
  readonly by: readonly string[];
}

/** What can happen to people in a form. */
export interface Ways {
  /** questions that nobody can come to */
  readonly unreached: readonly string[];
  readonly links: readonly Link[];
  /** questions asked one after another on a way that can go round for ever, if there is one */
  readonly endless: readonly string[] | undefined;
  /** questions asked on a way that ends without the address having been asked for, with answers that lead along it */
  readonly withoutEmail: { readonly asked: readonly string[]; readonly answers: Answers } | undefined;
  /** whether every situation has been looked at */
  readonly isComplete: boolean;
}

/** A way to answer a question, as far as it makes a difference: where it leads, and what it makes true of what later questions go by. */
interface Kind {
  readonly answer: AnswerValue | undefined;
  readonly next: Next | undefined;
  readonly meets: ReadonlySet<number>;
}

/** Where somebody stands: before the question at `at`, with what is true of the answers so far. */
interface Situation {
  readonly at: number;
  readonly truths: ReadonlySet<number>;
  readonly hasEmail: boolean;
}

/** A step on the way to a situation. */
interface Step {
  readonly before: Step | undefined;
  readonly key: string;
  readonly answer: AnswerValue | undefined;
}

/** Looks through every way in which a form can be answered. Exact as long as `isComplete`. */
export function waysOf(questions: readonly Branching[]): Ways {
  return new Looking(questions).look();
}

/** What a question asks of an earlier answer, each with a number of its own. */
interface Test {
  readonly id: number;
  readonly asked: AskedIf;
}

class Looking {
  readonly #questions: readonly Branching[];
  readonly #tests: readonly (readonly Test[])[];
  readonly #kinds = new Map<string, readonly Kind[]>();
  readonly #reached = new Set<string>();
  readonly #links = new Map<string, Map<string, Set<string>>>();
  /** whether the way can lead back: then nothing that was said may be forgotten */
  readonly #leadsBack: boolean;
  #isComplete = true;

  constructor(questions: readonly Branching[]) {
    this.#questions = questions;
    let id = 0;
    this.#tests = questions.map(({ askedIf = [] }) => askedIf.map((asked) => ({ id: id++, asked })));
    const place = (key: string): number => questions.findIndex((each) => each.key === key);
    const back = (next: Next | undefined, at: number): boolean => next !== undefined && 'question' in next && place(next.question) <= at;
    this.#leadsBack = questions.some((each, at) => back(each.next, at) || (each.options ?? []).some(({ next }) => back(next, at)));
  }

  look(): Ways {
    const done = new Set<string>();
    /** situations on the way that is being followed, by the step that led out of them */
    const open = new Map<string, number>();
    let endless: readonly string[] | undefined;
    /** the last steps of a way that ended without the address; a way may have none */
    let without: { readonly last: Step | undefined } | undefined;
    const end = (hasEmail: boolean, last: Step | undefined): void => {
      if (!hasEmail) without ??= { last };
    };
    interface Frame {
      readonly name: string;
      readonly situation: Situation;
      readonly step: Step | undefined;
      readonly kinds: readonly Kind[];
      place: number;
    }
    const frames: Frame[] = [];
    const enter = (from: Situation, step: Step | undefined, by: Kind | undefined): void => {
      const situation = this.#settle(from);
      const question = this.#questions[situation.at];
      this.#link(step?.key, question?.key, true, by);
      if (!question) return end(situation.hasEmail, step);
      const name = nameOf(situation);
      if (open.has(name)) {
        endless ??= [...stepsOf(step).slice(open.get(name)), { key: question.key }].map(({ key }) => key);
        return;
      }
      if (done.has(name)) return;
      if (done.size + open.size >= MOST_SITUATIONS) {
        this.#isComplete = false;
        return;
      }
      this.#reached.add(question.key);
      open.set(name, frames.length);
      frames.push({ name, situation, step, kinds: this.#kindsOf(question), place: 0 });
    };
    enter({ at: 0, truths: new Set(), hasEmail: false }, undefined, undefined);
    for (let frame = frames.at(-1); frame; frame = frames.at(-1)) {
      const kind = frame.kinds[frame.place];
      frame.place += 1;
      if (!kind) {
        open.delete(frame.name);
        done.add(frame.name);
        frames.pop();
        continue;
      }
      const { situation } = frame;
      const question = this.#questions[situation.at] as Branching;
      const step: Step = { before: frame.step, key: question.key, answer: kind.answer };
      const hasEmail = situation.hasEmail || question.type === 'email';
      const truths = new Set([...situation.truths].filter((id) => !this.#about(question.key).some((test) => test.id === id)));
      for (const id of kind.meets) truths.add(id);
      if (kind.next && 'end' in kind.next) {
        this.#link(question.key, undefined, kind.next.end, kind);
        end(hasEmail, step);
        continue;
      }
      const { next } = kind;
      const to = next ? this.#questions.findIndex(({ key }) => key === next.question) : situation.at + 1;
      enter({ at: to < 0 ? this.#questions.length : to, truths, hasEmail }, step, kind);
    }
    return {
      unreached: this.#questions.filter(({ key, type }) => type !== 'hidden' && !this.#reached.has(key)).map(({ key }) => key),
      links: this.#allLinks(),
      endless,
      withoutEmail: without && exampleOf(stepsOf((without as { readonly last: Step | undefined }).last)),
      isComplete: this.#isComplete,
    };
  }

  /** Passes over what is not asked, and forgets what no later question goes by. */
  #settle(from: Situation): Situation {
    let { at } = from;
    for (;;) {
      const question = this.#questions[at];
      if (!question) break;
      const asked = (this.#tests[at] ?? []).every((test) => from.truths.has(test.id));
      if (question.type !== 'hidden' && asked) break;
      at += 1;
    }
    if (this.#leadsBack) return { ...from, at };
    const later = new Set(this.#tests.slice(at + 1).flatMap((tests) => tests.map(({ id }) => id)));
    return { ...from, at, truths: new Set([...from.truths].filter((id) => later.has(id))) };
  }

  #about(key: string): readonly Test[] {
    return this.#tests.flat().filter(({ asked }) => asked.question === key);
  }

  #kindsOf(question: Branching): readonly Kind[] {
    let kinds = this.#kinds.get(question.key);
    if (!kinds) {
      kinds = this.#differing(question);
      this.#kinds.set(question.key, kinds);
    }
    return kinds;
  }

  /** The answers to a question of which each makes a difference. */
  #differing(question: Branching): readonly Kind[] {
    const tests = this.#about(question.key);
    const kinds = new Map<string, Kind>();
    for (const answer of this.#answersTo(question, tests)) {
      const met = tests.filter(({ asked }) => meets(asked, answer)).map(({ id }) => id);
      const next = nextAfter(question, answer);
      const name = `${met.join(',')}|${JSON.stringify(next ?? null)}`;
      // Which choices lead where is shown, so of a single choice every one is followed.
      const whole = question.type === 'one choice' && leads(question) ? `${name}|${String(answer)}` : name;
      if (!kinds.has(whole)) kinds.set(whole, { answer, next, meets: new Set(met) });
    }
    return [...kinds.values()];
  }

  #answersTo(question: Branching, tests: readonly Test[]): readonly (AnswerValue | undefined)[] {
    const left: readonly (AnswerValue | undefined)[] = question.required ? [] : [undefined];
    switch (question.type) {
      case 'one choice':
        return [...(question.options ?? []).map(({ key }) => key), ...left];
      case 'several choices':
        return this.#subsets(question, tests);
      case 'scale':
      case 'number':
        return [...numbersOf(question, tests), ...left];
      case 'consent':
        return [true, ...left];
      case 'email':
        return ['somebody@place.example'];
      case 'text':
      case 'long text':
      case 'date':
      case 'phone':
      case 'hidden':
        // No question goes by these, so any answer is like any other.
        return ['-'];
    }
  }

  /** Sets of choices that differ in what they meet and in how many they are, one of each. */
  #subsets(
    { options = [], required, min = 0, max = options.length }: Branching,
    tests: readonly Test[],
  ): readonly (AnswerValue | undefined)[] {
    let sets = new Map<string, readonly string[]>([['', []]]);
    for (const { key } of options) {
      const grown = new Map(sets);
      for (const chosen of sets.values()) {
        const more = [...chosen, key];
        const name = `${more.length}|${tests
          .filter(({ asked }) => !('noneOf' in asked) === meets(asked, more))
          .map(({ id }) => id)
          .join(',')}`;
        if (!grown.has(name)) grown.set(name, more);
      }
      sets = grown;
      if (sets.size > MOST_KINDS) {
        this.#isComplete = false;
        break;
      }
    }
    const fewest = Math.max(min, 1);
    const some = [...sets.values()].filter((each) => each.length >= fewest && each.length <= max);
    return required ? some : [undefined, ...some];
  }

  #link(from: string | undefined, to: string | undefined, end: string | true, kind: Kind | undefined): void {
    if (from === undefined) return;
    const question = this.#questions.find(({ key }) => key === from) as Branching;
    const of = this.#links.get(from) ?? new Map<string, Set<string>>();
    this.#links.set(from, of);
    const name = to === undefined ? `/${String(end)}` : to;
    const by = of.get(name) ?? new Set<string>();
    of.set(name, by);
    by.add(question.type === 'one choice' ? (question.options?.find(({ key }) => key === kind?.answer)?.name ?? 'no answer') : '');
  }

  #allLinks(): readonly Link[] {
    return [...this.#links].flatMap(([from, ends]) =>
      [...ends].map(([name, by]): Link => {
        const end = name.startsWith('/') ? (name === '/true' ? true : name.slice(1)) : undefined;
        return { from, to: end === undefined ? name : undefined, end, by: ends.size === 1 ? [] : [...by].filter(Boolean) };
      }),
    );
  }
}

const leads = ({ options = [] }: Branching): boolean => options.some(({ next }) => next !== undefined);
const nameOf = ({ at, truths, hasEmail }: Situation): string => `${at}|${[...truths].sort((a, b) => a - b).join(',')}|${hasEmail}`;

function stepsOf(last: Step | undefined): readonly Step[] {
  const steps: Step[] = [];
  for (let step = last; step; step = step.before) steps.unshift(step);
  return steps;
}

const exampleOf = (way: readonly Step[]): NonNullable<Ways['withoutEmail']> => ({
  asked: way.map(({ key }) => key),
  answers: Object.fromEntries(way.flatMap(({ key, answer }) => (answer === undefined ? [] : [[key, answer]]))),
});

/** Numbers of which each lies differently to what later questions go by, within the limits of the question. */
function numbersOf(question: Branching, tests: readonly Test[]): readonly number[] {
  if (question.type === 'scale') {
    const [low, high] = scaleOf(question);
    return Array.from({ length: high - low + 1 }, (_, step) => low + step);
  }
  const { min = -Infinity, max = Infinity } = question;
  const edges = tests.flatMap(({ asked }) =>
    'anyOf' in asked || 'noneOf' in asked ? [] : [asked.from, asked.to].filter((each) => each !== undefined),
  );
  const ends = [...edges, ...[min, max].filter(Number.isFinite)].sort((a, b) => a - b);
  const between = ends.slice(1).map((each, index) => (each + (ends[index] as number)) / 2);
  const all = ends.length === 0 ? [0] : [(ends[0] as number) - 1, ...ends, ...between, (ends.at(-1) as number) + 1];
  return [...new Set(all)].filter((each) => each >= min && each <= max);
}
