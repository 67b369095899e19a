import { saidOfThem } from '../conditions/describe/said/sentences.ts';
import { explain, type Explanation } from '../conditions/evaluate/explain.ts';
import { detailsHold } from '../conditions/evaluate/details.ts';
import { isGroup, type Condition } from '../conditions/schema.ts';
import { isAnswered, rowsFor, rowsOf, type AnswerRow } from '../forms/answer-map.ts';
import { ELEMENT, type Details } from '../intake/details.ts';
import { type RuleAction } from '../rules/definition.ts';
import { type CompiledRule } from '../rules/compile.ts';
import { wasDue } from '../rules/dates.ts';
import { contactsWords } from '../rules/action-kinds.ts';
import { stepFactWords } from '../rules/ladder-words.ts';
import { oftenWords, whenWords } from '../rules/words.ts';
import { optionOf } from '../contacts/facts.ts';
import { hasPart } from './parts.ts';
import { type AnyDefinition, type DefinitionKind } from '../settings/definitions.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type Moment } from '../time/moment.ts';
import { addToDay, localDay, startOfDay } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { namesInMap } from './maps.ts';
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

const GROUPS = { all: 'all of these hold', any: 'any of these holds' } as const;

interface Asking {
  readonly compiled: Compiled;
  readonly state: SubjectState;
  readonly moment: Moment;
  readonly wanted: Wanted;
}

/**
 * Everything that could give a contact something, and what holds each back, as things stand at a moment.
 *
 * @param state with all its signals and histories
 */
export function waysTo(compiled: Compiled, state: SubjectState, moment: Moment, wanted: Wanted): readonly WayTo[] {
  const asking: Asking = { compiled, state, moment, wanted };
  const { catalogue } = compiled;
  return [
    ...catalogue.all('rule').flatMap((definition) => ruleWay(asking, definition as AnyDefinition, compiled.rules.get(definition.id))),
    ...(wanted.of === 'tag' ? [...mapWays(asking), ...linkWays(asking)] : []),
    ...formWays(asking),
    ...(wanted.of === 'stage' ? [...dealWays(asking), ...factWays(asking)] : []),
    ...bundleWays(asking),
  ];
}

const gives =
  ({ of, id }: Wanted) =>
  (action: RuleAction): boolean =>
    (of === 'tag' && action.do === 'add tag' && action.tag === id) ||
    (of === 'stage' && action.do === 'set stage' && action.stage === id) ||
    (of === 'list' && action.do === 'put on list' && action.audience === id);

/** Whether a rule names it at all, by itself or by a bundle; of one that stands still no more is known. */
const namesIt = (catalogue: Catalogue, wanted: Wanted, actions: readonly RuleAction[]): boolean =>
  actions.some(
    (action) =>
      gives(wanted)(action) ||
      (action.do === 'run bundle' && catalogue.body('bundle', action.bundle)?.then.some((step) => gives(wanted)(step.action))),
  );

function ruleWay(asking: Asking, definition: AnyDefinition, rule: CompiledRule | undefined): readonly WayTo[] {
  const { compiled, wanted } = asking;
  if (definition.kind !== 'rule' || !namesIt(compiled.catalogue, wanted, definition.body.then)) return [];
  const { kind, id, key, name, body } = definition;
  if (!rule) return [{ kind, id, key, name, lines: [], because: compiled.whyBroken.get(id) ?? 'It stands still.' }];
  const on: WhyLine = { words: 'It is on', holds: body.on || body.when.kind === 'sweep' };
  if (body.of === 'company') return [{ kind, id, key, name, ...companyWay(asking, on, body.then) }];
  const set = setOff(asking, rule);
  const lines = [on, set, ...ifLines(asking, rule), ...oftenLine(asking, rule), ...heldLine(asking, rule), ...gateLines(asking)];
  const failing = lines.find((line) => !line.holds);
  return [{ kind, id, key, name, lines, because: failing ? becauseOf(failing, on, set, rule) : waitsFor(rule) }];
}

/** What a rule for companies asks of a contact; what it asks of the company is seen there. */
function companyWay(
  { compiled: { catalogue }, state, wanted }: Asking,
  on: WhyLine,
  then: readonly RuleAction[],
): Pick<WayTo, 'lines' | 'because'> {
  const giving = then.filter(gives(wanted)).map((action) => ('parts' in action ? action.parts : undefined));
  const parts = giving.some((each) => each === undefined) ? undefined : giving.flatMap((each) => each ?? []);
  const lines: readonly WhyLine[] = [
    on,
    { words: 'they are in a company', holds: state.company !== undefined },
    ...(parts ? [{ words: `they are among ${contactsWords(parts, catalogue)}`, holds: hasPart(state, parts, catalogue) }] : []),
  ];
  const failing = lines.find((line) => !line.holds);
  return { lines, because: failing === on ? 'It is off.' : failing ? notSo(failing) : 'It does it when it runs for their company.' };
}

function becauseOf(failing: WhyLine, on: WhyLine, set: WhyLine, rule: CompiledRule): string {
  if (failing === on) return 'It is off.';
  return failing === set && rule.when.kind === 'signal' ? 'That never happened.' : notSo(failing);
}

const notSo = (line: WhyLine): string => `Not so: ${wordsOf(line)}.`;

/** What is not so of a line: inside a group, the first of its lines that is not, or all where any of them would do. */
function wordsOf(line: WhyLine): string {
  if (!line.of) return line.words;
  if (line.words === GROUPS.any) return line.of.map(wordsOf).join(' or ');
  const [first, ...others] = line.of.filter((each) => !each.holds);
  return `${first ? wordsOf(first) : line.words}${others.length > 0 ? `, and ${others.length} more` : ''}`;
}

/** All is so: what it waits for now. */
function waitsFor({ when }: CompiledRule): string {
  switch (when.kind) {
    case 'signal':
      return 'All of this is so now. It was not when it last happened, or the rule was not there yet: it does it the next time.';
    case 'becomes':
      return 'All of this is so now. It does it when this becomes so, and it was so before the rule looked.';
    case 'date':
      return 'All of this is so now. It does it when the date comes again.';
    case 'sweep':
      return 'All of this is so now. It does it when it is run.';
  }
}

/** What sets a rule off, and whether it ever did. */
function setOff({ compiled: { catalogue }, state, moment }: Asking, rule: CompiledRule): WhyLine {
  const { when, definition } = rule;
  const words = whenWords(definition.body.when, catalogue, rule.of);
  switch (when.kind) {
    case 'sweep':
      return { words, holds: true };
    case 'date':
      return { words, holds: wasDue(when.date, state, catalogue, moment) };
    case 'signal':
      return {
        words,
        holds: (state.signals.get(when.type) ?? []).some(
          (signal) => signal.time <= moment.instant && detailsHold(when.where, signal.details, moment),
        ),
      };
    case 'becomes': {
      const { condition } = definition.body.when as { readonly condition: Condition };
      const lines = topLines(lineOf(explain(when.node, state, moment), condition, catalogue));
      return { words: 'as soon as this is so', holds: lines.every((line) => line.holds), of: lines };
    }
  }
}

function ifLines(asking: Asking, rule: CompiledRule): readonly WhyLine[] {
  const { compiled, state, moment } = asking;
  const { if: condition, then } = rule.definition.body;
  return [
    ...(condition ? topLines(lineOf(explain(rule.if, state, moment), condition, compiled.catalogue)) : []),
    ...bundleLines(asking, then),
  ];
}

/** What bundles among actions ask before they give it; where several ways lead to it, any of them is enough. */
function bundleLines({ compiled, state, moment, wanted }: Asking, actions: readonly RuleAction[]): readonly WhyLine[] {
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
const topLines = (line: WhyLine): readonly WhyLine[] => (line.of && line.words === GROUPS.all ? line.of : [line]);

/** A rule that may not run so often is held back by that it has. */
function oftenLine({ state, moment, compiled }: Asking, rule: CompiledRule): readonly WhyLine[] {
  const { howOften } = rule.definition.body;
  const { limit, pauseDays } = howOften;
  const firing = state.firings.get(rule.definition.id);
  if (limit === undefined && pauseDays === undefined) return [];
  const { zone } = compiled.catalogue;
  const paused =
    firing !== undefined &&
    pauseDays !== undefined &&
    moment.instant < startOfDay(addToDay(localDay(firing.lastAt, zone), pauseDays, 'days'), zone);
  const ran = firing?.times ?? 0;
  return [
    {
      words: `it runs ${oftenWords(howOften, rule.of)}, and ran ${ran === 0 ? 'never' : ran === 1 ? 'once' : `${ran} times`}`,
      holds: !paused && (limit === undefined || ran < limit),
    },
  ];
}

const heldLine = ({ state }: Asking, { definition }: CompiledRule): readonly WhyLine[] =>
  state.suspendedRules.has(definition.id) ? [{ words: 'it is not held back for going in a circle', holds: false }] : [];

/** What a stage asks of whoever comes to it. */
function gateLines({ compiled, state, moment, wanted }: Asking): readonly WhyLine[] {
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

function mapWays({ compiled: { catalogue, maps }, state, wanted }: Asking): readonly WayTo[] {
  return catalogue.all('map').flatMap(({ id, key, name, body }): readonly WayTo[] => {
    const rows = body.rows.filter(({ add }) => add.includes(wanted.id));
    if (rows.length === 0) return [];
    const map = maps.get(id);
    const verbs = body.adds.map((type) => catalogue.body('signalType', type)?.verb ?? '…').join(' or ');
    const lines: readonly WhyLine[] = [
      { words: 'It is on', holds: body.on },
      {
        words: `they ${verbs} ${rows.map(({ value }) => `“${value}”`).join(' or ')}`,
        holds: map ? namesInMap(map, state, (row) => row.add.includes(wanted.id)) : false,
      },
    ];
    const because = !body.on
      ? 'It is off.'
      : lines[1]?.holds
        ? 'It gave it, and it has gone since, or came before the row was there.'
        : 'That never happened.';
    return [{ kind: 'map', id, key, name, lines, because }];
  });
}

function linkWays({ compiled: { catalogue }, state, wanted }: Asking): readonly WayTo[] {
  const clicked = catalogue.find('signalType', 'message.clicked')?.id;
  return catalogue.all('message').flatMap(({ id, key, name, body }): readonly WayTo[] => {
    const links = body.links.filter(({ tag }) => tag === wanted.id);
    if (links.length === 0) return [];
    const chosen = (clicked === undefined ? [] : (state.signals.get(clicked) ?? [])).some(
      ({ details }) => details['campaign'] === key && links.some((link) => link.key === details['link']),
    );
    return [
      {
        ...{ kind: 'message', id, key, name },
        lines: [{ words: `they choose ${links.map(({ label }) => `“${label}”`).join(' or ')} in it`, holds: chosen }],
        because: chosen ? 'They chose it, and the tag has gone since.' : 'They have not chosen it.',
      },
    ];
  });
}

function formWays(asking: Asking): readonly WayTo[] {
  const { state, wanted } = asking;
  const { catalogue } = asking.compiled;
  const answered = catalogue.find('signalType', 'form.answered')?.id;
  return catalogue.all('form').flatMap(({ id, key, name, body }): readonly WayTo[] => {
    const giving = body.questions.flatMap((question) => {
      const rows = rowsOf(question).filter(
        (row) => (wanted.of === 'tag' && row.add?.includes(wanted.id)) || namesIt(catalogue, wanted, row.does ?? []),
      );
      const always = namesIt(catalogue, wanted, question.does ?? []);
      return rows.length > 0 || always ? [{ question, rows }] : [];
    });
    const isDone = wanted.of === 'tag' && body.doneTags?.includes(wanted.id) === true;
    if (giving.length === 0 && !isDone) return [];
    const sent = (answered === undefined ? [] : (state.signals.get(answered) ?? [])).filter(({ details }) => details['form'] === key);
    const lines = [
      { words: 'they answer it', holds: sent.length > 0 },
      ...giving.map(({ question, rows }) => ({
        words: `“${question.label}” with ${rows.map((row) => `“${nameOfRow(row)}”`).join(' or ') || 'anything'}`,
        holds: sent.some(({ details }) => {
          const answer = answerIn(details, question.key);
          return rows.length === 0 ? isAnswered(answer) : rowsFor(question, answer).some((row) => rows.includes(row));
        }),
      })),
    ];
    const gave = isDone || lines.slice(1).some((line) => line.holds);
    // Who was given it by a row alone, or for having come to the end, was asked by no bundle.
    const byRow = isDone || giving.some(({ rows }) => rows.some((row) => wanted.of === 'tag' && row.add?.includes(wanted.id)));
    const asks = byRow
      ? []
      : bundleLines(
          asking,
          giving.flatMap(({ question, rows }) => [...rows.flatMap((row) => row.does ?? []), ...(question.does ?? [])]),
        );
    const failing = asks.find((line) => !line.holds);
    const because =
      sent.length === 0
        ? 'They have not answered it.'
        : !gave
          ? 'They answered it otherwise.'
          : failing
            ? notSo(failing)
            : 'They answered so, and it has gone since.';
    return [{ kind: 'form', id, key, name, lines: [...lines, ...asks], because }];
  });
}

const nameOfRow = (row: AnswerRow): string => ('name' in row && typeof row.name === 'string' ? row.name : row.key);

/** An answer as it came with a signal, from the details that are kept of it. */
function answerIn(details: Details, question: string): unknown {
  const { answers } = details;
  const answer = typeof answers === 'object' && !Array.isArray(answers) ? (answers as Details)[question] : undefined;
  if (Array.isArray(answer)) return (answer as readonly Details[]).map((element) => element[ELEMENT]);
  return typeof answer === 'number' ? answer / 1_000_000 : answer;
}

/** Stages of deals with which the ladder is kept in step. */
function dealWays(asking: Asking): readonly WayTo[] {
  const { compiled, state, wanted } = asking;
  const { catalogue } = compiled;
  const deals = catalogue.body('stage', wanted.id)?.deals ?? [];
  return deals.flatMap(({ pipeline, stage }): readonly WayTo[] => {
    const found = catalogue.get('pipeline', pipeline);
    if (!found) return [];
    const { id, key, name, body } = found;
    const lines = [
      {
        words: `a deal of theirs comes to ${body.stages.find((each) => each.key === stage)?.name ?? stage}`,
        holds: [...state.deals.values()].some((deal) => deal.pipeline === pipeline && deal.stage === stage),
      },
      ...gateLines(asking),
    ];
    const failing = lines.find((line) => !line.holds);
    return [
      {
        kind: 'pipeline',
        id,
        key,
        name,
        lines,
        because: failing ? notSo(failing) : 'It does it when a deal comes there again.',
      },
    ];
  });
}

/** Facts with which the ladder is kept in step. */
function factWays(asking: Asking): readonly WayTo[] {
  const { compiled, state, wanted } = asking;
  const { catalogue } = compiled;
  return (catalogue.body('stage', wanted.id)?.facts ?? []).flatMap((fact): readonly WayTo[] => {
    const found = catalogue.get('field', fact.field);
    if (!found) return [];
    const { id, key, name, body } = found;
    const isSo = state.facts.get(fact.field) === optionOf(body, fact.value);
    const lines = [{ words: stepFactWords(fact, catalogue), holds: isSo }, ...gateLines(asking)];
    const failing = lines.find((line) => !line.holds);
    return [{ kind: 'field', id, key, name, lines, because: failing ? notSo(failing) : 'It does it when it becomes that again.' }];
  });
}

function bundleWays(asking: Asking): readonly WayTo[] {
  return asking.compiled.catalogue
    .all('bundle')
    .filter(({ body }) => body.then.some((step) => gives(asking.wanted)(step.action)))
    .map(({ id, key, name }) => {
      const lines = bundleLines(asking, [{ do: 'run bundle', bundle: id }]);
      const failing = lines.find((line) => !line.holds);
      return { kind: 'bundle', id, key, name, lines, because: failing ? notSo(failing) : 'It does it when it is run by hand.' };
    });
}
