import * as core from '@eager-sieve/core';
import { type Catalogue } from '@eager-sieve/core';
import { catalogueFrom, type Core } from './catalogue-from';

type Others = Parameters<typeof catalogueFrom> extends [Core, ...infer Rest] ? Rest : never;

/** The demo's definitions in memory. */
export const demoCatalogue = (...others: Others): Catalogue => catalogueFrom(core, ...others);
