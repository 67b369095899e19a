import { type Catalogue } from '../settings/catalogue.ts';
import { type Effect } from './effect.ts';
import { effectWords } from './words.ts';

/** One effect that a rehearsal found, in the few words of a list: `+ snag.room`, `comes into Bench seekers`. */
export function briefWords(effect: Effect, catalogue: Catalogue): string {
  const kind = ({ tag: 'tag', band: 'scorecard', membership: 'audience', firing: 'rule' } as const)[effect.kind as 'tag'];
  const thing = kind && effect.thing !== undefined ? catalogue.get(kind, effect.thing) : undefined;
  const name = (kind === 'tag' ? thing?.key : thing?.name) ?? '';
  switch (`${effect.kind} ${effect.verb}`) {
    case 'tag removed':
      return `− ${name}`;
    case 'tag reason removed':
      return `− ${name} (one reason fewer)`;
    case 'tag reason added':
      return `+ ${name} (one more reason)`;
    case 'tag added':
    case 'tag valued':
      return `+ ${name}`;
    case 'band crossed':
      return `${name} → ${String(effect.after)}`;
    case 'membership joined':
      return `comes into ${name}`;
    case 'membership left':
      return `leaves ${name}`;
    case 'firing fired':
      return `runs ${name}`;
  }
  const { makes } = effect;
  if (makes) return makes.what === 'task' ? `task “${makes.title}”` : `notice “${makes.text}”`;
  return effectWords({ ...effect, ...effect.personal, ruleVersion: effect.rule?.version }, catalogue);
}

/** How often each kind of effect is among some, such as `tag added`; that rules ran is no change by itself. */
export function countChanges(effects: readonly Effect[], counts: Record<string, number>): void {
  for (const { kind, verb } of effects) {
    if (kind === 'firing') continue;
    const name = `${kind} ${verb}`;
    counts[name] = (counts[name] ?? 0) + 1;
  }
}
