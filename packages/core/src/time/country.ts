/** In V8 the zones of a country are a property, in newer engines a method; TypeScript knows neither yet. */
interface LocaleWithZones {
  readonly timeZones?: readonly string[];
  readonly getTimeZones?: () => readonly string[] | undefined;
}

let countries: ReadonlyMap<string, string> | undefined;

/** The country of each time zone that lies in one alone, by its English name. */
function byZone(): ReadonlyMap<string, string> {
  const names = new Intl.DisplayNames(['en'], { type: 'region', fallback: 'none' });
  const regions = new Map<string, Set<string>>();
  const letters = Array.from({ length: 26 }, (_, index) => String.fromCharCode(65 + index));
  for (const code of letters.flatMap((first) => letters.map((second) => first + second))) {
    // Countries that are no more go by the names of those that came after them.
    const region = new Intl.Locale(`und-${code}`).region;
    if (region !== code || names.of(code) === undefined) continue;
    const locale = new Intl.Locale(`und-${code}`) as Intl.Locale & LocaleWithZones;
    for (const zone of locale.timeZones ?? locale.getTimeZones?.() ?? []) regions.set(zone, (regions.get(zone) ?? new Set()).add(code));
  }
  return new Map(
    [...regions].flatMap(([zone, [region, ...others]]) => {
      const name = region === undefined || others.length > 0 ? undefined : names.of(region);
      return name === undefined ? [] : [[zone, name] as const];
    }),
  );
}

/** The country in which a time zone lies, such as Sweden for Europe/Stockholm; undefined where it lies in several, or in none. */
export function countryOfZone(zone: string): string | undefined {
  countries ??= byZone();
  const known = countries.get(zone);
  if (known !== undefined) return known;
  try {
    // A zone goes by several names: Asia/Kolkata is Asia/Calcutta.
    return countries.get(new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone);
  } catch {
    return undefined;
  }
}
