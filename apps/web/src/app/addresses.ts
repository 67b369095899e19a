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
  signalType: '/settings/signal-types',
};

/** The list that definitions of a kind stand in. */
export const listOf = (kind: string): string =>
  PLACES[kind]?.startsWith('/settings') ? PLACES[kind] : `/${(PLACES[kind] ?? '/settings').split('/')[1] ?? ''}`;

/** The sections of the settings in which definitions without a page of their own stand. */
const SECTIONS: Readonly<Record<string, string>> = {
  stage: '/settings/stages',
  pipeline: '/settings/stages',
  // A change of many is of no definition.
  change: '/people/changes',
};

/** The page of a definition; those without one are looked after in the settings. */
export function addressOf(kind: string, key: string): string {
  const place = PLACES[kind];
  if (place !== undefined) return `${place}/${key}`;
  return SECTIONS[kind] ?? '/settings';
}
