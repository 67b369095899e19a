import { type DefinitionsDocument } from '@eager-sieve/core';
import { AUDIENCES } from './audiences';
import { FIELDS } from './facts';
import { FORMS } from './forms';
import { MESSAGES } from './messages';
import { SCORECARDS } from './scorecards';
import { FAMILIES, TAGS } from './tags';
import { BUNDLES, LADDER, MAPS, PIPELINES, ROUTING } from './trade';

/** What Fernhollow Clayworks is made of before anybody comes. */
export const SET_UP = {
  language: 1,
  name: 'Fernhollow Clayworks',
  timeZone: 'Europe/Stockholm',
  currency: 'SEK',
  rates: { EUR: '11.35' },
  fields: FIELDS,
  families: FAMILIES,
  tags: TAGS,
  ladder: LADDER,
  pipelines: PIPELINES,
  forms: FORMS,
  scorecards: SCORECARDS,
  audiences: AUDIENCES,
  messages: MESSAGES,
  routing: ROUTING,
  maps: MAPS,
  bundles: BUNDLES,
} as unknown as DefinitionsDocument;
