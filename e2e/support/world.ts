import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';
import { PERSON } from './server';

export const base = (): string => process.env['BASE_URL'] ?? '';

export async function signIn(page: Page): Promise<void> {
  await page.goto(`${base()}/sign-in`);
  await page.getByLabel('Email').fill(PERSON.email);
  await page.getByLabel('Password').fill(PERSON.password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('heading', { name: 'Today', exact: true })).toBeVisible();
}

/** Asks the public API with the test's key. */
export async function call<Answer>(method: string, path: string, body?: unknown, type = 'application/json'): Promise<Answer> {
  const response = await fetch(`${base()}${path}`, {
    method,
    headers: { authorization: `Bearer ${process.env['API_KEY'] ?? ''}`, ...(body === undefined ? {} : { 'content-type': type }) },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const text = await response.text();
  if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${text}`);
  return JSON.parse(text) as Answer;
}

export async function idle(): Promise<void> {
  await expect
    .poll(async () => (await call<{ idle: boolean }>('GET', '/api/v1/status')).idle, { timeout: 30_000, intervals: [100] })
    .toBe(true);
}

/** The levels that the product holds itself to. */
const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

/** No serious fault of accessibility on what the page shows now, in either theme. Of the second only the colours are asked: the rest is the same. */
export async function expectAccessible(page: Page, what: string): Promise<void> {
  // What is being asked again is drawn paler until its answer is there.
  await expect(page.locator('[aria-busy="true"]')).toHaveCount(0);
  // What was scrolled half beneath a column that is kept in sight is reached by scrolling back.
  await page.evaluate(() => document.querySelectorAll('main *').forEach((each) => each.scrollLeft && (each.scrollLeft = 0)));
  const light = await new AxeBuilder({ page }).withTags(RULES).analyze();
  expect(light.passes.length).toBeGreaterThan(8);
  await inTheme(page, 'kiln');
  const dark = await new AxeBuilder({ page }).withRules(['color-contrast', 'link-in-text-block']).analyze();
  await inTheme(page, 'flour');
  expect([...faultsOf(light, `${what}, flour`), ...faultsOf(dark, `${what}, kiln`)]).toEqual([]);
}

/** Pages of the application follow what is set on them; pages for the public follow the machine. */
async function inTheme(page: Page, theme: 'flour' | 'kiln'): Promise<void> {
  await page.emulateMedia({ colorScheme: theme === 'kiln' ? 'dark' : 'light' });
  await page.evaluate((name) => {
    const root = document.documentElement;
    if (root.dataset['theme'] !== undefined) root.dataset['theme'] = name;
    // Colours that are still on their way to the other theme belong to neither.
    for (const each of document.getAnimations()) if (each instanceof CSSTransition) each.finish();
  }, theme);
}

const faultsOf = ({ violations }: Awaited<ReturnType<AxeBuilder['analyze']>>, what: string): readonly string[] =>
  violations
    .filter((violation) => violation.impact === 'serious' || violation.impact === 'critical')
    .map(
      (violation) =>
        `${what}: ${violation.id} at ${violation.nodes
          .slice(0, 3)
          .map((node) => `${node.target.join(' ')} ${node.failureSummary ?? ''}`)
          .join(' | ')}`,
    );
