const SIGNS: Readonly<Record<string, string>> = { '&': '&#38;', '<': '&#60;', '>': '&#62;', '"': '&#34;', "'": '&#39;' };

/** Text as it may stand in a page, in a value of an attribute too. */
export const escaped = (text: string): string => text.replace(/[&<>"']/g, (sign) => SIGNS[sign] ?? sign);

/** Markup that has been made safe. */
export class Html {
  readonly markup: string;
  constructor(markup: string) {
    this.markup = markup;
  }
}
type Part = Html | string | number | undefined | false | readonly Part[];

const markupOf = (part: Part): string => {
  if (part === undefined || part === false) return '';
  if (part instanceof Html) return part.markup;
  return Array.isArray(part) ? part.map(markupOf).join('') : escaped(String(part));
};

/** A page or a part of one. Whatever stands in it is escaped, but for other parts made so. */
export const html = (texts: TemplateStringsArray, ...parts: readonly Part[]): Html =>
  new Html(texts.map((text, index) => text + markupOf(parts[index])).join(''));
