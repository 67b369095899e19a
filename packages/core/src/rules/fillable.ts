import { isGroup, type Condition } from '../conditions/schema.ts';
import { type FieldId, type TagId } from '../settings/ids.ts';

/** What somebody can fill in so that a condition comes to hold. */
export interface Fillable {
  readonly fields: readonly FieldId[];
  readonly tags: readonly TagId[];
  /** whether it also asks for something else */
  readonly others: boolean;
}

/** Operators that hold where there is nothing. */
const HOLDS_OF_NOTHING = /^(is not|does not|includes none|is empty|!=)/;

/** The facts and tags of a contact that a condition asks to be there, in the order in which it names them. */
export function fillable(condition: Condition): Fillable {
  const fields = new Set<FieldId>();
  const tags = new Set<TagId>();
  let others = false;
  const look = (each: Condition): void => {
    if (isGroup<{ match: 'all' | 'any' | 'none'; of: Condition[] }>(each)) {
      if (each.match === 'none') others ||= each.of.length > 0;
      else each.of.forEach(look);
    } else if (each.kind === 'field' && each.of !== 'company' && !HOLDS_OF_NOTHING.test(each.op)) fields.add(each.field);
    else if (each.kind === 'tag' && each.op === 'has' && each.value === undefined) tags.add(each.tag);
    else others = true;
  };
  look(condition);
  return { fields: [...fields], tags: [...tags], others };
}
