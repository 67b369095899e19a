/** Whose turn it is in a row of a routing table, and how the row stands after. Owners that left the table are passed over. */
export function takeTurn(owners: readonly string[], last: string | undefined): string | undefined {
  const at = last === undefined ? -1 : owners.indexOf(last);
  return owners[(at + 1) % owners.length];
}
