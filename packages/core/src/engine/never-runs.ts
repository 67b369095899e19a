import { holds } from '../conditions/evaluate/holds.ts';
import { type ConditionNode } from '../conditions/node.ts';
import { isGroup, type Condition } from '../conditions/schema.ts';
import { type CompiledRule } from '../rules/compile.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type RuleId } from '../settings/ids.ts';
import { Moment } from '../time/moment.ts';
import { type Instant } from '../time/zone.ts';
import { type Compiled } from './compiled.ts';
import { MadeUpWorld } from './made-up-world.ts';
import { everyKind, placesOf, respectsIn } from './made-up.ts';
import { type SubjectState } from './state.ts';

/** So many kinds of contacts are tried on one rule; one that can tell more apart is left alone. */
export const MOST_KINDS = 2_000;

/**
 * Rules that are on and can never run, since nobody can be as they ask. Whatever those who are made up cannot decide (time, history, amounts)
 * is taken to be possible, so a rule that is named here is dead for certain.
 */
export function neverRun(compiled: Compiled, now: Instant, most = MOST_KINDS): readonly RuleId[] {
  return [...compiled.rules.values()].flatMap((rule) =>
    rule.definition.body.on && !canRun(compiled, rule, now, most) ? [rule.definition.id] : [],
  );
}

type Asked = readonly (readonly [node: ConditionNode, condition: Condition])[];

function canRun(compiled: Compiled, rule: CompiledRule, now: Instant, most: number): boolean {
  const { catalogue } = compiled;
  const { body } = rule.definition;
  const asked: Asked = [
    ...(rule.when.kind === 'becomes' && body.when.kind === 'becomes' ? [[rule.when.node, body.when.condition] as const] : []),
    ...(body.if ? [[rule.if, body.if] as const] : []),
  ];
  const respects = respectsIn(
    asked.map(([, condition]) => condition),
    catalogue,
  );
  const places = placesOf(respects, rule.of === 'contact' || respects.contact.length > 0 ? 1 : 0);
  const kinds = places.reduce((product, { respect }) => product * respect.length, 1);
  if (asked.length === 0 || kinds > most) return true;
  const moment = new Moment(now, catalogue.zone);
  for (const kind of everyKind(places)) {
    const world = MadeUpWorld.of(compiled, now, places, kind, { company: rule.of === 'company', contacts: 1 });
    const state = rule.of === 'company' ? world?.company : world?.contacts[0];
    if (state && asked.every(([node, condition]) => mayHold(node, condition, state, moment, catalogue))) return true;
  }
  return false;
}

/** Whether a condition may be so of somebody: not, only where nothing that is left open could make it so. */
const mayHold = (node: ConditionNode, condition: Condition, ...of: [SubjectState, Moment, Catalogue]): boolean =>
  verdict(node, condition, ...of) !== 'no';

type Verdict = 'yes' | 'no' | 'open';

function verdict(node: ConditionNode, condition: Condition, state: SubjectState, moment: Moment, catalogue: Catalogue): Verdict {
  if (!isGroup(condition) || node.kind !== 'group')
    return !isDecided(condition, catalogue) ? 'open' : holds(node, state, moment) ? 'yes' : 'no';
  const inner = condition.of.map((each, index) => verdict(node.of[index] as ConditionNode, each as Condition, state, moment, catalogue));
  const [decides, otherwise]: readonly [Verdict, Verdict] = condition.match === 'all' ? ['no', 'yes'] : ['yes', 'no'];
  const whole = inner.includes(decides) ? decides : inner.includes('open') ? 'open' : otherwise;
  return condition.match !== 'none' || whole === 'open' ? whole : whole === 'yes' ? 'no' : 'yes';
}

/** Whether those who are made up decide it. Who is in a live audience, and what scores say, can be moved by pins and points as well. */
function isDecided(condition: Condition, catalogue: Catalogue): boolean {
  if (isGroup(condition) || !respectsIn([condition], catalogue).isAll) return false;
  if (condition.kind === 'audience') return catalogue.body('audience', condition.audience)?.kind === 'fixed';
  return condition.kind === 'tag' || condition.kind === 'field' || condition.kind === 'stage';
}
