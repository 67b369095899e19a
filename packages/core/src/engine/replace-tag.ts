import { type Definition } from '../settings/definitions.ts';
import { takeOverTag } from './merge.ts';
import { type PassContext } from './pass-context.ts';
import { applyChange } from './recorded.ts';

/**
 * Gives whoever has a tag the one that replaces it, for the same reasons and since the same time. The old one is taken off once it is retired: until
 * then definitions still ask for it, and nobody is to leave anything because of that.
 */
export function replaceTag(context: PassContext, { id, retired, body: { replacedBy } }: Definition<'tag'>): void {
  const held = context.state.tags.get(id);
  if (!held || replacedBy === undefined) return;
  takeOverTag(context, replacedBy, held, { parent: undefined });
  if (retired) applyChange(context, { kind: 'tag', tag: id, add: false, reasons: 'all' }, { parent: undefined });
}
