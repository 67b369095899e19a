import { type ConsentChannel, type ConsentState } from '../settings/consent.ts';
import { type DealPatch } from '../contacts/deals.ts';
import { type Fact, type WrittenFact } from '../contacts/facts.ts';
import { type AudienceId, type DealId, type FieldId, type RoutingId, type RuleId, type StageId, type TagId } from '../settings/ids.ts';
import { type TagReason } from '../tags/definition.ts';
import { type Instant } from '../time/zone.ts';
import { type Pin } from '../audiences/pin.ts';

/** Which reasons of a tag go: all, one, or those that begin so. */
export type WhichReasons = 'all' | TagReason | { readonly kind: TagReason['kind']; readonly begins: string };

/** One change of recorded state, wherever it comes from. */
export type Change =
  /** `increase`: the value was added to the old one, and is taken back by subtracting; `fills`: only where nothing is known yet */
  | {
      readonly kind: 'field';
      readonly field: FieldId;
      readonly value: WrittenFact | undefined;
      readonly increase?: boolean;
      readonly fills?: boolean;
    }
  /** a value left out leaves the value that is there */
  | { readonly kind: 'tag'; readonly tag: TagId; readonly add: true; readonly reason: TagReason; readonly value?: number | undefined }
  | { readonly kind: 'tag'; readonly tag: TagId; readonly add: false; readonly reasons: WhichReasons }
  | { readonly kind: 'consent'; readonly channel: ConsentChannel; readonly state: ConsentState; readonly at: Instant }
  | { readonly kind: 'stage'; readonly stage: StageId | undefined; readonly backward: boolean }
  /** `replace`: also where there is an owner already; `routing`: the table that said so, whose task and notice go with it */
  | { readonly kind: 'owner'; readonly owner: string | undefined; readonly replace: boolean; readonly routing?: RoutingId | undefined }
  /** nobody of a routing table was free */
  | { readonly kind: 'nobody free'; readonly routing: RoutingId }
  | { readonly kind: 'list'; readonly audience: AudienceId; readonly on: boolean }
  /** a rule that was held back since it went in a circle may run again */
  | { readonly kind: 'let on'; readonly rule: RuleId }
  /** none takes the pin away */
  | { readonly kind: 'pin'; readonly audience: AudienceId; readonly pin: Omit<Pin, 'since'> | undefined }
  | {
      readonly kind: 'company';
      readonly company: number | undefined;
      readonly facts: ReadonlyMap<FieldId, Fact> | undefined;
    }
  | { readonly kind: 'deal'; readonly deal: DealPatch }
  | { readonly kind: 'deal gone'; readonly deal: DealId }
  /** `for`: left out, whoever minds the contact; null, anyone */
  | { readonly kind: 'task'; readonly title: string; readonly due: Instant; readonly for?: string | null };
