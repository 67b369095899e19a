const names = new Intl.DisplayNames(['en'], { type: 'language', fallback: 'none' });

/** What a language is called in English, by its code (BCP 47): `sv` is Swedish. Undefined where there is none of that code. */
export function languageName(code: string): string | undefined {
  try {
    return names.of(code);
  } catch {
    return undefined;
  }
}

/** The languages that are offered, by their codes. */
export const LANGUAGE_CODES: readonly string[] =
  'ar bg bn cs da de el en es et eu fa fi fr ga gl he hi hr hu id is it ja ko lt lv ms nb nl nn pl pt ro ru sk sl sr sv sw ta th tr uk ur vi zh'.split(
    ' ',
  );
