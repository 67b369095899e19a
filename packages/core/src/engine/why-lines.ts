import { saidOfThem } from '../conditions/describe/said/sentences.ts';
import { explain, type Explanation } from '../conditions/evaluate/explain.ts';
import { isGroup, type Condition } from '../conditions/schema.ts';
import { type RuleAction } from '../rules/definition.ts';
import { type DefinitionKind } from '../settings/definitions.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Moment } from '../time/moment.ts';
import { type Compiled } from './compiled.ts';
import { type SubjectState } from './state.ts';

/** What a contact does not have: a tag, a stage of the ladder, or a place on a fixed list. */
export interface Wanted {
  readonly of: 'tag' | 'stage' | 'list';
  readonly id: number;
}

/** One thing that has to be so, and whether it is; a group says how many of its lines have to be. */
export interface WhyLine {
  readonly words: string;
  readonly holds: boolean;
  readonly of?: readonly WhyLine[];
}

/** Something that could have given it. */
export interface WayTo {
  readonly kind: DefinitionKind;
  readonly id: number;
  readonly key: string;
  readonly name: string;
  /** everything that it waits for, in the order in which it is asked */
  readonly lines: readonly WhyLine[];
  /** what holds it back; where nothing does, what it waits for */
  readonly because: string;
}

/** How groups are told. */
export const GROUPS = { all: 'all of these hold', any: 'any of these holds' } as const;

/** Who is asked about, and what they do not have. */
export interface Asking {
  readonly compiled: Compiled;
  readonly state: SubjectState;
  readonly moment: Moment;
  readonly wanted: Wanted;
}

/** Whether an action gives what is wanted. */
export const gives =
  ({ of, id }: Wanted) =>
  (action: RuleAction): boolean =>
    (of === 'tag' && action.do === 'add tag' && action.tag === id) ||
    (of === 'stage' && action.do === 'set stage' && action.stage === id) ||
    (of === 'list' && action.do === 'put on list' && action.audience === id);

/** Whether a rule names it at all, by itself or by a bundle; of one that stands still no more is known. */
export const namesIt = (catalogue: Catalogue, wanted: Wanted, actions: readonly RuleAction[]): boolean =>
  actions.some(
    (action) =>
      gives(wanted)(action) ||
      (action.do === 'run bundle' && catalogue.body('bundle', action.bundle)?.then.some((step) => gives(wanted)(step.action))),
  );

/** What holds it back. */
export const notSo = (line: WhyLine): string => `Not so: ${wordsOf(line)}.`;

/** What is not so of a line: inside a group, the first of its lines that is not, or all where any of them would do. */
function wordsOf(line: WhyLine): string {
  if (!line.of) return line.words;
  if (line.words === GROUPS.any) return line.of.map(wordsOf).join(' or ');
  const [first, ...others] = line.of.filter((each) => !each.holds);
  return `${first ? wordsOf(first) : line.words}${others.length > 0 ? `, and ${others.length} more` : ''}`;
}

/** What bundles among actions ask before they give it; where several ways lead to it, any of them is enough. */
export function bundleLines({ compiled, state, moment, wanted }: Asking, actions: readonly RuleAction[]): readonly WhyLine[] {
  const ways = actions.flatMap((action): readonly (WhyLine | undefined)[] => {
    if (action.do !== 'run bundle') return gives(wanted)(action) ? [undefined] : [];
    const steps = compiled.bundles.get(action.bundle);
    return (compiled.catalogue.body('bundle', action.bundle)?.then ?? []).flatMap((step, index) => {
      if (!gives(wanted)(step.action)) return [];
      const node = steps?.[index]?.if;
      return [step.if && node && lineOf(explain(node, state, moment), step.if, compiled.catalogue)];
    });
  });
  const lines = ways.filter((way) => way !== undefined);
  const [only] = lines;
  // One way that asks for nothing is open to everybody.
  if (!only || lines.length < ways.length) return [];
  return lines.length === 1 ? topLines(only) : [{ words: GROUPS.any, holds: lines.some((line) => line.holds), of: lines }];
}

/** The lines of a group that all have to be so stand by themselves. */
export const topLines = (line: WhyLine): readonly WhyLine[] => (line.of && line.words === GROUPS.all ? line.of : [line]);

/** What a stage asks of whoever comes to it. */
export function gateLines({ compiled, state, moment, wanted }: Asking): readonly WhyLine[] {
  if (wanted.of !== 'stage') return [];
  const { catalogue, gates } = compiled;
  const ladder = catalogue.ladder();
  const place = ladder.findIndex(({ id }) => id === wanted.id);
  const standing = ladder.findIndex(({ id }) => id === state.stage?.id);
  const stage = ladder[place];
  const needs = gates.get(wanted.id);
  return [
    { words: `${stage?.name ?? 'the stage'} is ahead of where they stand`, holds: place > standing },
    ...(stage?.body.inOrder ? [{ words: `they stand right before ${stage.name}`, holds: place === standing + 1 }] : []),
    ...(needs && stage?.body.needs ? topLines(lineOf(explain(needs, state, moment), stage.body.needs, catalogue)) : []),
  ];
}

/**
 * A condition as lines that are so or not, groups told as they are. What is not to be is said so, each line of it by itself.
 *
 * @param turned whether it is the opposite that is asked for
 */
export function lineOf(
  explanation: Explanation,
  condition: Condition,
  catalogue: Catalogue,
  of: 'contact' | 'company' = 'contact',
  turned = false,
): WhyLine {
  const isSo = explanation.holds !== turned;
  if (!isGroup(condition))
    return { words: saidOfThem(turned ? { match: 'none', of: [condition] } : condition, catalogue, of), holds: isSo };
  const none = condition.match === 'none';
  return {
    words: (condition.match === 'any') === turned ? GROUPS.all : GROUPS.any,
    holds: isSo,
    of: condition.of.map((each, index) =>
      lineOf(explanation.of?.[index] ?? { holds: false, path: [] }, each as Condition, catalogue, of, none !== turned),
    ),
  };
}
