const DEEPEST = 6;
const MOST_CELLS = 300;

/** What stands in the path of a value that is inside of each of a list. */
export const EACH = '[]';

/**
 * An object as the cells of one row. What is inside of another goes by its path; of a list of objects there is a column for all of it, as JSON, and
 * one for each of their properties, with what they have there as a list in JSON. Plain lists are joined.
 *
 * @example cellsOf({ buyer: { mail: 'a@b.example' }, items: [{ sku: 'x' }, { sku: 'y' }] }, ';')
 * // { 'buyer.mail': 'a@b.example', items: '[{"sku":"x"},{"sku":"y"}]', 'items[].sku': '["x","y"]' }
 */
export function cellsOf(value: object, listSeparator: string): Readonly<Record<string, string>> {
  const cells: Record<string, string> = {};
  const put = (path: string, cell: string): void => {
    if (path !== '__proto__' && Object.keys(cells).length < MOST_CELLS) cells[path] = cell;
  };
  const walk = (path: string, inner: unknown, depth: number): void => {
    if (!isObject(inner) || depth > DEEPEST) {
      put(path, cellIn(inner, listSeparator));
      if (Array.isArray(inner) && inner.some(isObject)) {
        for (const key of new Set(inner.flatMap((one) => (isObject(one) ? Object.keys(one) : []))))
          put(`${path}${EACH}.${key}`, JSON.stringify(inner.map((one) => (isObject(one) ? plain(one[key]) : null))));
      }
      return;
    }
    for (const [key, one] of Object.entries(inner)) walk(path === '' ? key : `${path}.${key}`, one, depth + 1);
  };
  walk('', value, 0);
  return cells;
}

const isObject = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const plain = (value: unknown): unknown => (typeof value === 'object' && value !== null ? JSON.stringify(value) : (value ?? null));

function cellIn(value: unknown, listSeparator: string): string {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value) && value.some((one) => typeof one === 'object' && one !== null)) return JSON.stringify(value);
  if (Array.isArray(value)) return value.map((one) => cellIn(one, listSeparator)).join(listSeparator);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'object' ? JSON.stringify(value) : String(value as string | number);
}
