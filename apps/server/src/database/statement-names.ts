/** Each connection keeps a plan of every statement that has a name. Texts put together as they are needed must not fill it. */
const MOST = 400;
const names = new Map<string, string>();

/** The name under which a connection remembers a statement; none where there are too many already. */
export function statementName(text: string): string | undefined {
  const known = names.get(text);
  if (known !== undefined || names.size >= MOST) return known;
  const name = `s${names.size}`;
  names.set(text, name);
  return name;
}
