import { type RuleAction } from '../rules/definition.ts';
import { type TagId } from '../settings/ids.ts';
import { type Compiled } from './compiled.ts';
import { type SubjectState } from './state.ts';

/**
 * What is left of an action where the answer came from whoever typed the address: what is not known yet is filled in, and nothing that is
 * known is replaced or taken away.
 *
 * @param form whose own tags its answers may still replace
 * @returns undefined where nothing is left
 */
export function fillingOnly(action: RuleAction, form: number, state: SubjectState, compiled: Compiled): RuleAction | undefined {
  switch (action.do) {
    case 'add tag': {
      if (replacesTag(action.tag, form, state, compiled)) return undefined;
      const { value, ...bare } = action;
      return value !== undefined && state.tags.get(action.tag)?.value !== undefined ? bare : action;
    }
    case 'remove tag':
      return action.only ? action : undefined;
    case 'set field':
      return state.facts.has(action.field) ? undefined : action;
    case 'clear field':
    case 'take off list':
      return undefined;
    case 'set stage':
      return { ...action, backward: false };
    case 'assign owner':
      return { ...action, replace: false };
    case 'increase field':
    case 'put on list':
    case 'give points':
    case 'set company field':
    case 'make task':
    case 'notify':
    case 'run bundle':
      return action;
  }
}

/** Whether a tag would take the place of another one of its family that something else than this form gave. */
export function replacesTag(tag: TagId, form: number, { tags }: SubjectState, { catalogue }: Compiled): boolean {
  const family = catalogue.body('tag', tag)?.family;
  if (family === undefined || catalogue.body('family', family)?.many !== false || tags.has(tag)) return false;
  return [...tags].some(
    ([other, { reasons }]) =>
      catalogue.body('tag', other)?.family === family && reasons.some(({ kind, ref }) => kind !== 'form' || !ref.startsWith(`${form}/`)),
  );
}
