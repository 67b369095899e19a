import { type ConditionNode, type DetailNode, type MeasureNode, type NodeOf, type SignalSet } from './node.ts';
import { type ValueTest } from './operators/index.ts';

/**
 * Names one thing that a definition reads or that a pass touches: `tag:12`, `signal:3`, `consent:email`, `change:stage`.
 * `company` is the link of a contact to its company, `contacts` anything about the contacts of a company.
 */
export type Dependency =
  | `${'field' | 'tag' | 'signal' | 'score' | 'points' | 'audience' | 'pin'}:${number}`
  | `consent:${string}`
  | `change:${string}`
  | 'stage'
  | 'owner'
  | 'company'
  | 'deals'
  | 'contacts';

/** Everything that a condition reads. `clock`: whether time alone can change the outcome. */
export interface Dependencies {
  readonly on: ReadonlySet<Dependency>;
  readonly clock: boolean;
  /** for a company: what its conditions read from its contacts */
  readonly ofContacts: ReadonlySet<Dependency>;
  /** tags and audiences whose past it reads, not only their present */
  readonly past: ReadonlySet<Dependency>;
}
export const READS_NOTHING: Dependencies = { on: new Set(), clock: false, ofContacts: new Set(), past: new Set() };

export const watchesTheClock = (test: ValueTest | undefined): boolean => test?.ask === 'operator' && test.positive.next !== undefined;

export function dependenciesOf(...nodes: readonly ConditionNode[]): Dependencies {
  const reading = new DependencyCollector();
  for (const node of nodes) reading.condition(node);
  return reading;
}

/** The union of several dependencies. */
export function joined(...all: readonly Dependencies[]): Dependencies {
  return {
    on: new Set(all.flatMap((each) => [...each.on])),
    clock: all.some((each) => each.clock),
    ofContacts: new Set(all.flatMap((each) => [...each.ofContacts])),
    past: new Set(all.flatMap((each) => [...each.past])),
  };
}

class DependencyCollector implements Dependencies {
  readonly on = new Set<Dependency>();
  readonly ofContacts = new Set<Dependency>();
  readonly past = new Set<Dependency>();
  clock = false;

  condition(node: ConditionNode): void {
    const read = this.#readers[node.kind] as (node: ConditionNode) => void;
    read(node);
  }

  /** What each kind of line rests on. */
  readonly #readers: { readonly [Kind in ConditionNode['kind']]: (node: NodeOf<Kind>) => void } = {
    group: ({ of }) => of.forEach((each) => this.condition(each)),
    field: (node) => {
      this.clock ||= watchesTheClock(node.test);
      this.#field(node);
    },
    tag: ({ tag, op, since, value }) => {
      this.clock ||= since !== undefined || watchesTheClock(value);
      if (op === 'had' || op === 'lost') this.past.add(`tag:${tag}`);
      this.on.add(`tag:${tag}`);
    },
    signal: ({ set }) => this.#signals(set),
    change: ({ of }) => {
      this.clock = true;
      this.on.add(`change:${of}`);
    },
    compare: ({ left, right }) => {
      this.#measure(left);
      this.#measure(right);
    },
    score: ({ scorecard }) => void this.on.add(`score:${scorecard}`),
    band: ({ scorecard, since }) => {
      this.clock ||= since !== undefined;
      this.on.add(`score:${scorecard}`);
    },
    audience: ({ audience, op, since }) => {
      this.clock ||= since !== undefined;
      if (op === 'left') this.past.add(`audience:${audience}`);
      this.on.add(`audience:${audience}`);
    },
    stage: ({ since }) => {
      this.clock ||= since !== undefined;
      this.on.add('stage');
    },
    owner: () => void this.on.add('owner'),
    consent: ({ channel }) => void this.on.add(`consent:${channel}`),
    deal: ({ clock }) => {
      this.clock ||= clock;
      this.on.add('deals');
    },
    contacts: ({ condition }) => {
      const inner = dependenciesOf(condition);
      for (const dependency of inner.on) this.ofContacts.add(dependency);
      for (const dependency of inner.past) this.past.add(dependency);
      this.clock ||= inner.clock;
      this.on.add('contacts');
    },
  };

  #field({ of, field }: { readonly of: 'contact' | 'company'; readonly field: number }): void {
    this.on.add(`field:${field}`);
    if (of === 'company') this.on.add('company');
  }

  #signals(set: SignalSet): void {
    for (const type of [...set.types, ...(set.then?.types ?? [])]) this.on.add(`signal:${type}`);
    // Even "ever" depends on the clock: a signal may be dated slightly in the future.
    this.clock = true;
  }

  #measure(measure: MeasureNode): void {
    if (measure.kind === 'field') this.#field(measure);
    else if (measure.kind === 'score') this.on.add(`score:${measure.scorecard}`);
    else this.#signals(measure.set);
  }
}

/** Whether the answer about a signal's details can change with time alone. */
export const detailsWatchTheClock = (nodes: readonly DetailNode[]): boolean =>
  nodes.some((node) => (node.kind === 'elements' ? detailsWatchTheClock(node.of) : watchesTheClock(node.test)));
