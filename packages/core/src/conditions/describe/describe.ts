import { type Catalogue } from '../../settings/catalogue.ts';
import { isGroup, type Condition, type Group } from '../schema.ts';
import { saidOf } from './said/sentences.ts';

export const GROUP_WORDS = { all: 'all of these hold', any: 'any of these holds', none: 'none of these holds' } as const;

/**
 * The whole condition as one faithful English sentence: "People whose country is Sweden and who ordered in the last 30 days."
 *
 * @param subject how those it speaks of are called
 */
export function describe(condition: Condition, catalogue: Catalogue, subject: 'People' | 'Companies' = 'People'): string {
  const group: Group = isGroup(condition) ? condition : { match: 'all', of: [condition] };
  const [nobody, everybody] = subject === 'Companies' ? ['No company', 'Every company'] : ['No one', 'Everyone'];
  if (group.of.length === 0) return group.match === 'any' ? `${nobody}: an empty list of alternatives.` : `${everybody}.`;
  return `${subject} ${saidOf(group, catalogue, subject === 'Companies' ? 'companies' : 'many')}.`;
}
