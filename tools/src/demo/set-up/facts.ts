import { CAME_BY, COUNTRIES, LANGUAGES, options, REGIONS, SNAGS, WAYS } from './choices';

const field = (key: string, name: string, type: string, choices?: { key: string; name: string }[]) => ({
  key,
  name,
  of: 'contact',
  type,
  ...(choices ? { options: choices } : {}),
});

const of = (kind: 'company' | 'deal', ...rest: Parameters<typeof field>) => ({ ...field(...rest), of: kind });

/** What is known of contacts, of companies and of deals. */
export const FIELDS = [
  field('country', 'country', 'one choice', COUNTRIES),
  field('region', 'region', 'one choice', REGIONS),
  field('city', 'city', 'text'),
  field('language', 'language', 'one choice', LANGUAGES),
  field('birthday', 'birthday', 'date'),
  field('came-by', 'came to us by', 'one choice', CAME_BY),
  field('wheel-years', 'years at the wheel', 'number'),
  field('works-by', 'works by', 'several choices', WAYS),
  field('own-kiln', 'has own kiln', 'yes/no'),
  field('budget', 'budget', 'money'),
  field('first-class', 'first class', 'date'),
  field('stops', 'what stops them', 'one choice', SNAGS),
  of('company', 'sector', 'sector', 'one choice', options('cafe:café', 'inn', 'school', 'gallery', 'florist')),
  of('company', 'seats', 'seats', 'number'),
  of('company', 'turnover', 'turnover', 'money'),
  of('company', 'company-region', 'region', 'one choice', REGIONS),
  of('deal', 'pieces', 'pieces', 'number'),
];
