import { type Workspace } from '@eager-sieve/core';
import { html, type Html } from './html';

export interface Look {
  readonly organisation?: string;
  /** of buttons and lines, as `#1a2b3c` */
  readonly colour?: string | undefined;
}

/** A whole page for people who are not signed in. It needs no script. */
export const publicPage = (title: string, body: Html, { organisation = '', colour }: Look = {}): string =>
  html`<!doctype html>
    <html lang="en" ${colour === undefined ? '' : html` style="--colour: ${colour}; --on-colour: ${onColour(colour)}"`}>
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>${title}</title>
        <link rel="stylesheet" href="/public.css" />
      </head>
      <body class="form">
        <main>${organisation !== '' && html`<p class="organisation">${organisation}</p>`}${body}</main>
      </body>
    </html>`.markup;

/** Black or white, whichever is read better on a colour: by relative luminance, as WCAG 2 defines it. */
export function onColour(colour: string): '#000000' | '#ffffff' {
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => {
    const share = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue > 0.179 ? '#000000' : '#ffffff';
}

/** A small page that says one thing. */
export const wordsPage = (title: string, body: Html, look: Look = {}): string =>
  publicPage(
    title,
    html`<h1>${title}</h1>
      ${body}`,
    look,
  );

/** Pages that everybody can see say whose they are, in their colour. */
export const lookOf = ({ name, colour }: Pick<Workspace, 'name' | 'colour'>): Look => ({ organisation: name, colour });
