/** Puts a value at the end of the list under a key. */
export function append<Key, Value>(map: Map<Key, Value[]> | undefined, key: Key, value: Value): void {
  const list = map?.get(key);
  if (list) list.push(value);
  else map?.set(key, [value]);
}
