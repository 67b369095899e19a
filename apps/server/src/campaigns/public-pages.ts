/** A small page of the server's own, for people who follow a link from a message. It needs no script. */
export const page = (title: string, body: string): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>${title}</title>
<link rel="stylesheet" href="/public.css"></head><body><main><h1>${title}</h1>${body}</main></body></html>`;
