import fc from 'fast-check';

/** Text that some layer may stumble over: what PostgreSQL cannot hold, what is no character, what means something to JavaScript or SQL. */
const TEXTS = [
  '\u0000',
  'a\u0000b',
  '\ud800',
  'x\udc00y',
  '__proto__',
  'constructor',
  'toString',
  '',
  ' ',
  "'; drop table contact; --",
  '%',
  '\\',
  '$1',
  '${1}',
  'infinity',
  '-infinity',
  'NaN',
  '0000-01-01',
  '9999-12-31T23:59:59Z',
  '-000001-01-01T00:00:00Z',
  '+275760-09-13T00:00:00Z',
  '2026-02-30',
  '1e400',
  '9223372036854775808',
  '2147483648',
  '01890000-0000-7000-8000-000000000000',
  'id:',
  'id:\u0000',
  '@',
  'a@b',
  '😀'.repeat(50),
  'x'.repeat(5_000),
  '\u202e\u200b',
] as const;
const NUMBERS = [1e308, -1e308, 9_223_372_036_854_775_808, -9_223_372_036_854_775_809, 2_147_483_648, 1e-320, 1e21, 0.1, -1, 0] as const;

const nested = (depth: number, inner: unknown, object: boolean): unknown => {
  let value = inner;
  for (let level = 0; level < depth; level += 1) value = object ? { of: value } : [value];
  return value;
};

/** A value that no caller who means well sends. */
export const poison: fc.Arbitrary<unknown> = fc.oneof(
  { weight: 6, arbitrary: fc.constantFrom<unknown>(...TEXTS) },
  { weight: 3, arbitrary: fc.constantFrom<unknown>(...NUMBERS) },
  fc.constantFrom<unknown>(null, true, false, [], {}),
  fc.tuple(fc.constantFrom(10, 100, 3_000), fc.boolean()).map(([depth, object]) => nested(depth, 'x', object)),
  fc.constantFrom<unknown>(...TEXTS).map((text) => Object.fromEntries([[String(text), text]])),
  fc.constantFrom(...TEXTS, ...NUMBERS).map((each) => Array.from({ length: 300 }, () => each)),
  fc.jsonValue({ maxDepth: 3 }),
);

type Path = readonly (string | number)[];
const placesIn = (value: unknown, at: Path = []): readonly Path[] =>
  typeof value === 'object' && value !== null
    ? [at, ...Object.entries(value).flatMap(([key, inner]) => placesIn(inner, [...at, Array.isArray(value) ? Number(key) : key]))]
    : [at];

const at = (value: unknown, place: Path): unknown =>
  place.reduce<unknown>((inner, step) => (inner as Record<string | number, unknown> | undefined)?.[step], value);
const isLeaf = (value: unknown): boolean => typeof value !== 'object' || value === null;

/** The same with another value at a place. */
function replaced(value: unknown, [step, ...rest]: Path, by: unknown): unknown {
  if (step === undefined) return by;
  if (Array.isArray(value)) return value.map((each: unknown, index) => (index === step ? replaced(each, rest, by) : each));
  return Object.fromEntries(
    Object.entries((value ?? {}) as object).map(([key, each]) => [key, key === step ? replaced(each, rest, by) : (each as unknown)]),
  );
}

/** Something of the same type, which gets past whoever looks at types alone. */
const alike = (leaf: unknown): fc.Arbitrary<unknown> =>
  typeof leaf === 'string'
    ? fc.constantFrom<unknown>(...TEXTS, `${leaf}\u0000`, `${leaf}\ud800`, leaf.toUpperCase())
    : typeof leaf === 'number'
      ? fc.constantFrom<unknown>(...NUMBERS)
      : poison;

/** One or two places of a body that is right, with something else in them; or with a property more. */
export const poisoned = (body: unknown): fc.Arbitrary<unknown> => {
  const places = placesIn(body);
  const leaves = places.filter((place) => isLeaf(at(body, place)));
  const subtle =
    leaves.length === 0
      ? fc.constant(body)
      : fc.constantFrom(...leaves).chain((place) => alike(at(body, place)).map((by) => replaced(body, place, by)));
  const once = (from: unknown): fc.Arbitrary<unknown> =>
    fc.tuple(fc.constantFrom(...places), poison, fc.boolean(), fc.constantFrom(...TEXTS)).map(([place, by, isMore, key]) => {
      const there = at(from, place);
      const isOpen = isMore && typeof there === 'object' && there !== null && !Array.isArray(there);
      return replaced(from, place, isOpen ? { ...there, [key]: by } : by);
    });
  return fc.oneof({ weight: 6, arbitrary: subtle }, { weight: 3, arbitrary: once(body) }, { weight: 1, arbitrary: once(body).chain(once) });
};

/** The text of a body, sometimes in ways that no program writes JSON: keys that are special, numbers beyond all bounds, escapes of half a character. */
export const written = (body: unknown): fc.Arbitrary<string> =>
  fc
    .tuple(
      fc.constant(JSON.stringify(body) ?? 'null'),
      fc.constantFrom(...Array.from({ length: 14 }, () => 'plain'), 'proto', 'huge', 'half', 'cut', 'twice'),
    )
    .map(([text, how]) => {
      if (how === 'proto') return text.replace('{', '{"__proto__":{"polluted":true},"constructor":{"prototype":{"polluted":true}},');
      if (how === 'huge') return text.replace(/\d+/, '1e999');
      if (how === 'half') return text.replace(/"([^"\\]{1,3})/, '"\\ud83d$1');
      if (how === 'cut') return text.slice(0, -1);
      return how === 'twice' ? `${text}${text}` : text;
    });

/** The rest of an address: parameters that are odd, many times there, or of another shape. */
export const queries = (names: readonly string[]): fc.Arbitrary<string> => {
  const piece = fc.oneof(
    fc.constantFrom<unknown>(...TEXTS),
    fc.constantFrom<unknown>(...NUMBERS),
    poison,
    fc.constantFrom(1, '2026-11-25T10:00:00Z'),
  );
  const cursor = fc.oneof(
    { weight: 4, arbitrary: fc.tuple(piece, piece).map((key) => Buffer.from(JSON.stringify(key)).toString('base64url')) },
    piece.map((value) => Buffer.from(JSON.stringify([value])).toString('base64url')),
    fc.constantFrom(...TEXTS, Buffer.from('[1').toString('base64url'), Buffer.from('{}').toString('base64url')),
  );
  const value = fc.oneof(cursor, fc.constantFrom<string>(...TEXTS), fc.constantFrom('1', '0', '-1', 'true', '500'));
  const name = fc.constantFrom(
    ...names,
    ...names.map((each) => `${each}[]`),
    ...names.map((each) => `${each}[__proto__]`),
    'limit',
    'after',
  );
  return fc
    .array(fc.tuple(name, value), { maxLength: 3 })
    .map((pairs) => pairs.map(([key, each]) => `${encodeURIComponent(key)}=${encodeURIComponent(each.toWellFormed())}`).join('&'));
};

/** A part of a path, as it stands in an address. */
export const parts: fc.Arbitrary<string> = fc
  .constantFrom<string>(...TEXTS.filter((text) => text !== ''), '../..', '%00', '%ff', '%E0%A4%A', '1.5', '-1', '1e3', 'x'.repeat(400))
  .map((text) => (text.startsWith('%') && text.length > 1 ? text : encodeURIComponent(text.toWellFormed())));
