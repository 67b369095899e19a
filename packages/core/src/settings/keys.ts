import { z } from 'zod';
import { fold } from '../text/fold.ts';

const KEY = /^[a-z0-9]+(?:[.-][a-z0-9]+)*$/;

/** The immutable outside name of a definition: lower case letters, digits, single dots and hyphens. */
export const keySchema = z.string().min(1).max(80).regex(KEY, 'lower case letters, digits, and single dots or hyphens between them');

/** A key made from a name, not one of `taken`. */
export function keyFrom(name: string, taken: ReadonlySet<string> = new Set()): string {
  const plain = fold(name).normalize('NFKD').replace(/\p{M}/gu, '');
  const base =
    plain
      .replace(/[^a-z0-9.]+/g, '-')
      .replace(/^[-.]+|[-.]+$/g, '')
      .replace(/[.-]{2,}/g, '-')
      .slice(0, 60) || 'thing';
  if (!taken.has(base)) return base;
  let n = 2;
  while (taken.has(`${base}-${n}`)) n += 1;
  return `${base}-${n}`;
}

/** A name as people read it. */
export const nameSchema = z.string().trim().min(1).max(120);

/** A colour as browsers write it. */
export const colourSchema = z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour like #1a2b3c');

/** Where a definition is put among others of its kind, and what is noted of it; none of it means anything to contacts. */
export const shelved = {
  folder: z.string().trim().min(1).max(80).optional(),
  labels: z.array(z.string().trim().min(1).max(40)).max(20).optional(),
  description: z.string().max(1_000).optional(),
};

/** What else people call a thing: read where somebody types, and never shown in its place. */
export const synonymsSchema = z.array(nameSchema).max(30).optional();
