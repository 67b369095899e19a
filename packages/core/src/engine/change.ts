import { type ConsentChannel, type ConsentState } from '../conditions/schema.ts';
import { type WrittenFact } from '../contacts/facts.ts';
import { type FieldId, type TagId } from '../settings/ids.ts';
import { type TagReason } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';

/** One change of a fact, a tag or a consent, wherever it comes from. */
export type Change =
  | { readonly kind: 'field'; readonly field: FieldId; readonly value: WrittenFact | undefined }
  | { readonly kind: 'tag'; readonly tag: TagId; readonly add: boolean; readonly reason: TagReason }
  | { readonly kind: 'consent'; readonly channel: ConsentChannel; readonly state: ConsentState; readonly at: Instant };
