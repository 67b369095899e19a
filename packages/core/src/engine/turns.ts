/** Whose turn it is in a row of a routing table, and the state of the row afterwards. Owners no longer in the table are skipped. */
export function takeTurn(owners: readonly string[], last: string | undefined): string | undefined {
  const at = last === undefined ? -1 : owners.indexOf(last);
  return owners[(at + 1) % owners.length];
}
