import { type AnswerOf, type RequestOf, type Route, type SentBy } from '../route.ts';
import { AUDIENCE_ROUTES } from './audiences.ts';
import { CAMPAIGN_ROUTES } from './campaigns.ts';
import { COMPANY_ROUTES } from './companies.ts';
import { CONTACT_ROUTES } from './contacts.ts';
import { DOOR_ROUTES } from './doors.ts';
import { FIELD_ROUTES } from './fields.ts';
import { FORM_ROUTES } from './forms.ts';
import { INTAKE_ROUTES } from './intake.ts';
import { LEDGER_ROUTES } from './ledger.ts';
import { PEOPLE_ROUTES } from './people.ts';
import { RULE_ROUTES } from './rules.ts';
import { SETTINGS_ROUTES } from './settings.ts';
import { TAG_ROUTES } from './tags.ts';
import { TASK_ROUTES } from './tasks.ts';
import { TODAY_ROUTES } from './today.ts';
import { WATCH_ROUTES } from './watches.ts';
import { WORKLIST_ROUTES } from './worklists.ts';

export { MEMBER_FORMATS, type MemberFormat } from './audiences.ts';

/**
 * Every route of the server, by name. The controllers, the OpenAPI document, the calls of the web application and
 * the stand-in for the server in its tests are all made from these rows.
 */
export const ROUTES = {
  ...INTAKE_ROUTES,
  ...DOOR_ROUTES,
  ...WATCH_ROUTES,
  ...FORM_ROUTES,
  ...CONTACT_ROUTES,
  ...LEDGER_ROUTES,
  ...RULE_ROUTES,
  ...TAG_ROUTES,
  ...TASK_ROUTES,
  ...WORKLIST_ROUTES,
  ...COMPANY_ROUTES,
  ...AUDIENCE_ROUTES,
  ...CAMPAIGN_ROUTES,
  ...PEOPLE_ROUTES,
  ...SETTINGS_ROUTES,
  ...FIELD_ROUTES,
  ...TODAY_ROUTES,
} as const satisfies Record<string, Route>;

export type Routes = typeof ROUTES;
export type RouteName = keyof Routes;
export type Sent<Name extends RouteName> = SentBy<Routes[Name]>;
export type RouteArgs<Name extends RouteName> = RequestOf<Routes[Name]>;
export type Answer<Name extends RouteName> = AnswerOf<Routes[Name]>;

/** The routes of the public API, which programs outside call with a key. */
export const PUBLIC_API = '/api/v1';
export const publicRoutes: readonly Route[] = Object.values<Route>(ROUTES).filter(
  (route) => route.path.startsWith(`${PUBLIC_API}/`) && route.requires !== 'public',
);
