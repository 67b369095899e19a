import { type Catalogue } from '../../settings/catalogue.ts';
import { isGroup, type Condition, type Group } from '../schema.ts';
import { lineText } from './line.ts';

export const GROUP_WORDS = { all: 'all of these hold', any: 'any of these holds', none: 'none of these holds' } as const;

/** A condition inside a sentence: every line, nothing left out. */
function clause(condition: Condition, catalogue: Catalogue, inner: boolean): string {
  if (!isGroup(condition)) return lineText(condition, catalogue);
  if (condition.of.length === 0) return condition.match === 'any' ? 'no one' : 'everyone';
  const parts = condition.of.map((each) => clause(each, catalogue, true));
  if (condition.match === 'none') return `none of: ${parts.join('; ')}`;
  const text = parts.join(condition.match === 'all' ? ', and ' : ', or ');
  return inner && parts.length > 1 ? `(${text})` : text;
}

/**
 * The whole condition as one faithful English sentence part, after "People for whom".
 *
 * @param subject how those it speaks of are called
 */
export function describe(condition: Condition, catalogue: Catalogue, subject = 'People'): string {
  const group: Group = isGroup(condition) ? condition : { match: 'all', of: [condition] };
  if (group.of.length === 0) return group.match === 'any' ? 'No one: an empty list of alternatives.' : 'Everyone.';
  return `${subject} for ${subject === 'Companies' ? 'which' : 'whom'} this holds: ${clause(group, catalogue, false)}.`;
}
