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

/** No serious fault of accessibility on what the page shows now, in the theme it is in. */
export async function expectAccessible(page: Page, what: string): Promise<void> {
  const { violations, passes } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze();
  expect(passes.length).toBeGreaterThan(8);
  const serious = violations.filter((violation) => violation.impact === 'serious' || violation.impact === 'critical');
  expect(
    serious.map(
      (violation) =>
        `${what}: ${violation.id} at ${violation.nodes
          .slice(0, 3)
          .map((node) => `${node.target.join(' ')} ${node.failureSummary ?? ''}`)
          .join(' | ')}`,
    ),
  ).toEqual([]);
}
