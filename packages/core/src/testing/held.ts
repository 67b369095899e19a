import { type ContactColumns } from '../counting/contact-columns.ts';

const NO_EXTRAS = { dealDetails: new Map(), latchedLines: new Map(), points: new Map(), pins: new Map() };
const COLUMNS = ['facts', 'tags', 'pastTags', 'consent', 'signals', 'scores', 'memberships', 'leavings', 'changes'] as const;

/** Takes what stands beside the columns into them. */
export function settle(columns: ContactColumns): void {
  for (const _ of columns.dump());
}

/** Everything that columns hold of a contact, in plain values and in one order. @param isWanted whether what stands under a key is */
export function heldOf(columns: ContactColumns, id: number, isWanted: (key: string) => boolean = () => true): object | undefined {
  const at = columns.placeOf(id);
  if (at === undefined) return undefined;
  const ofColumns = COLUMNS.map((name) => [
    name,
    [...columns[name].entries()]
      .map(([key, rows]) => [String(key), rows.get(at).map(plain)] as const)
      .filter(([key, rows]) => rows.length > 0 && isWanted(key))
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  ]);
  const { dealDetails, latchedLines, points, pins } = columns.extras.get(at) ?? NO_EXTRAS;
  const company = columns.company.first(at);
  return {
    ...Object.fromEntries(ofColumns),
    stage: columns.stage.first(at),
    owner: columns.owner.first(at),
    company,
    companyFacts: company === undefined ? undefined : sorted(columns.companies.get(company)),
    dealDetails: sorted(dealDetails),
    latchedLines: sorted(latchedLines),
    points: sorted(points),
    pins: sorted(new Map([...pins].filter(([audience]) => isWanted(String(audience))))),
  };
}

const sorted = (map: ReadonlyMap<unknown, unknown> | undefined): unknown =>
  map && [...map].map(([key, value]) => [String(key), value] as const).sort(([a], [b]) => (a < b ? -1 : 1));

/** A row; a signal is read out of its columns. */
const plain = (row: unknown): unknown => {
  if (typeof row !== 'object' || row === null || !('senderId' in row)) return row;
  const { id, typeId, time, source, senderId, historic, details } = row as Record<string, unknown>;
  return { id, typeId, time, source, senderId, historic, details };
};
