import { type Window } from '../conditions/schema.ts';
import { type Keeps } from '../contacts/points.ts';
import { type Catalogue } from '../settings/catalogue.ts';
import { type AnyDefinition } from '../settings/definitions.ts';
import { type SignalTypeId } from '../settings/ids.ts';
import { type Unit } from '../time/zone.ts';

/** The kinds of definitions that can ask what somebody did before. */
const KINDS = ['audience', 'rule', 'scorecard', 'bundle', 'routing', 'stage'] as const;

/** About how many days a unit has; the longest ones count, so that nothing is taken for shorter than it is. */
const DAYS: Readonly<Record<Unit, number>> = { minutes: 1 / 1_440, hours: 1 / 24, days: 1, weeks: 7, months: 31, years: 366 };

/** The definitions in use that ask for signals of a type further back than so many days: of what is older they know nothing once it is forgotten. */
export function lookingFurtherBack(catalogue: Catalogue, type: SignalTypeId, days: number): readonly AnyDefinition[] {
  const isOfType = (part: object | undefined): boolean =>
    part !== undefined && 'type' in part && isTypes(part.type) && catalogue.signalTypes(part.type).includes(type);
  const asks = (part: unknown): boolean => {
    if (Array.isArray(part)) return part.some(asks);
    if (typeof part !== 'object' || part === null) return false;
    const { do: action, then, ...rest } = part as Asking;
    if (action !== undefined) return false;
    // What has to follow is looked for as far back as what it follows.
    const follows = Array.isArray(then) ? undefined : then;
    return (
      ((isOfType(part) || isOfType(follows)) && daysBack(rest) > days) ||
      Object.values(rest).some(asks) ||
      (Array.isArray(then) && asks(then))
    );
  };
  return KINDS.flatMap((kind) => catalogue.all(kind) as readonly AnyDefinition[]).filter(({ kind, body }) =>
    asks(kind === 'rule' && body.when.kind === 'signal' ? { ...body, when: undefined } : body),
  );
}

interface Asking {
  readonly kind?: string;
  readonly within?: Window;
  readonly keeps?: Keeps;
  readonly do?: string;
  readonly then?: object;
}

type Types = Parameters<Catalogue['signalTypes']>[0];
const isTypes = (type: unknown): type is Types =>
  type === 'from them' ||
  type === 'from us' ||
  typeof type === 'number' ||
  (Array.isArray(type) && type.every((each) => typeof each === 'number'));

/** How far back a line or a row of a scorecard looks. */
function daysBack({ kind, within, keeps }: Asking): number {
  if (kind === 'activity') return typeof keeps === 'object' && 'dropAfter' in keeps ? keeps.dropAfter : Number.POSITIVE_INFINITY;
  return typeof within === 'object' && 'last' in within ? within.last * DAYS[within.unit] : Number.POSITIVE_INFINITY;
}
