/** Where each kind of definition has its page. */
const PLACES: Readonly<Record<string, string>> = {
  audience: '/audiences',
  scorecard: '/scores',
  rule: '/rules',
  bundle: '/rules/bundles',
  map: '/rules/maps',
  routing: '/rules/routing',
  message: '/campaigns',
  form: '/intake/forms',
  tag: '/tags',
  family: '/tags/families',
  field: '/settings/fields',
};

/** The list that definitions of a kind stand in. */
export const listOf = (kind: string): string => `/${(PLACES[kind] ?? '/settings').split('/')[1] ?? ''}`;

/** The page of a definition; those without one are looked after in the settings. */
export function addressOf(kind: string, key: string): string {
  const place = PLACES[kind];
  if (place !== undefined) return `${place}/${key}`;
  return '/settings';
}
