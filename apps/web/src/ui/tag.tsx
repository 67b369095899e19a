const MARKS = ['#6d3b5e', '#2b6c84', '#8a5a1e', '#456f2e', '#a8392c', '#c97b2b', '#4b5a9b', '#7a6a2f', '#5b2a4e', '#2f7a6b'];

/** The mark of a family: the same family always has the same colour. */
function markOf(key: string): string {
  const family = key.split('.')[0] ?? '';
  let sum = 0;
  for (const character of family) sum = (sum * 31 + (character.codePointAt(0) ?? 0)) % 9_973;
  return MARKS[sum % MARKS.length] as string;
}

/** A tag, written as family.name with its family's mark. */
export function Tag({ name, title }: { name: string; title?: string }) {
  return (
    <span className="font-mono text-[12px] whitespace-nowrap" title={title}>
      <span aria-hidden className="mr-1.25 inline-block h-2.75 w-0.75 align-[-1px]" style={{ background: markOf(name) }} />
      {name}
    </span>
  );
}
