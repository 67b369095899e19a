import { explain } from '../conditions/evaluate/explain.ts';
import { detailsHold } from '../conditions/evaluate/details.ts';
import { type Condition } from '../conditions/schema.ts';
import { type RuleAction } from '../rules/definition.ts';
import { type CompiledRule } from '../rules/compile.ts';
import { wasDue } from '../rules/dates.ts';
import { contactsWords } from '../rules/action-kinds.ts';
import { oftenWords, whenWords } from '../rules/words.ts';
import { type AnyDefinition } from '../settings/definitions.ts';
import { type Moment } from '../time/moment.ts';
import { addToDay, localDay, startOfDay } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { hasPart } from './parts.ts';
import { type SubjectState } from './state.ts';
import { bundleWays, dealWays, factWays, formWays, linkWays, mapWays } from './ways-besides.ts';
import {
  bundleLines,
  gateLines,
  gives,
  lineOf,
  namesIt,
  notSo,
  topLines,
  type Asking,
  type Wanted,
  type WayTo,
  type WhyLine,
} from './why-lines.ts';

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
