import { expect, test } from '@playwright/test';
import { base, call, expectAccessible, idle, signIn } from '../support/world';

test.describe('the outline by keyboard', () => {
  test.beforeAll(async () => {
    await call('PUT', '/api/v1/definitions', {
      fields: [{ key: 'wheel-years', name: 'years at the wheel', of: 'contact', type: 'number' }],
      families: [{ key: 'craft', name: 'Craft', prefix: 'craft', purpose: '', many: true }],
      tags: [{ key: 'craft.throwing', name: 'throws', family: 'craft' }],
    });
    await call('PUT', '/api/v1/contacts', {
      contacts: [
        { email: 'three@outline.example', fields: { 'wheel-years': 3 }, tags: { 'craft.throwing': true } },
        { email: 'four@outline.example', fields: { 'wheel-years': 4 } },
        { email: 'none@outline.example', tags: { 'craft.throwing': true } },
      ],
    });
    await idle();
  });

  test('lines are typed, moved, grouped, turned round and removed without a mouse, and the figures follow', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/audiences/new`);
    const type = page.getByRole('combobox', { name: 'Type a line', exact: true });
    for (const line of ['email ends with "outline.example"', 'years at the wheel more than 3', 'has tag craft.throwing']) {
      await type.fill(line);
      await type.press('Escape');
      await type.press('Enter');
    }
    await expect(page.locator('[data-count]')).toHaveText('0 people');
    // The one who stands exactly on the limit is offered.
    await page.getByRole('button', { name: /let the \d+ with exactly 3 in/ }).click();
    await expect(page.locator('[data-count]')).toHaveText('1 person');

    const line = page.getByRole('group', { name: 'has the tag craft.throwing' });
    await line.focus();
    await page.keyboard.press('Alt+ArrowUp');
    await expect(page.locator('[data-line="1"]')).toHaveAttribute('aria-label', 'has the tag craft.throwing');
    await page.keyboard.press('Control+]');
    await expect(page.locator('[data-line="1.0"]')).toBeFocused();
    await page.keyboard.press('!');
    await expect(page.locator('[data-line="1.0"]')).toHaveAttribute('aria-label', 'does not have the tag craft.throwing');
    await expect(page.locator('[data-count]')).toHaveText('1 person');
    await page.keyboard.press('Control+[');
    await expect(page.locator('[data-line="1"]')).toHaveAttribute('aria-label', 'does not have the tag craft.throwing');
    await page.locator('[data-line="1"]').focus();
    await page.keyboard.press('Delete');
    await expect(page.locator('[data-count]')).toHaveText('2 people');
    await expect(page.getByRole('tab', { name: /Missed by one line/ })).toBeVisible();
  });

  test('lines are dragged by their grips: above another, into a group of both, and out of it', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/audiences/new`);
    const type = page.getByRole('combobox', { name: 'Type a line', exact: true });
    for (const line of ['years at the wheel more than 3', 'has tag craft.throwing', 'email is known']) {
      await type.fill(line);
      await type.press('Escape');
      await type.press('Enter');
    }
    const labels = (): Promise<(string | null)[]> =>
      page.locator('[data-line]').evaluateAll((rows) => rows.map((row) => row.getAttribute('aria-label')));
    const drag = async (from: string, to: string, part: number): Promise<void> => {
      await page.locator(`[data-line="${from}"]`).hover();
      const grip = await page.locator(`[data-grip="${from}"]`).boundingBox();
      const row = await page.locator(`[data-line="${to}"]`).boundingBox();
      if (!grip || !row) throw new Error('there is nothing to drag');
      await page.mouse.move(grip.x + grip.width / 2, grip.y + grip.height / 2);
      await page.mouse.down();
      await page.mouse.move(row.x + 40, row.y + row.height / 2, { steps: 6 });
      await page.mouse.move(row.x + 40, row.y + row.height * part, { steps: 4 });
      await page.mouse.up();
    };
    await drag('2', '0', 0.1);
    await expect.poll(labels).toEqual(['email is known', 'years at the wheel is more than 3', 'has the tag craft.throwing']);
    await drag('2', '1', 0.5);
    await expect
      .poll(labels)
      .toEqual(['email is known', 'any of these holds', 'years at the wheel is more than 3', 'has the tag craft.throwing']);
    await expect(page.getByText('It is now line 2 of 2 in “any of these holds”.')).toBeAttached();
    await expectAccessible(page, 'an outline whose lines were dragged');
    await drag('1.1', '0', 0.9);
    await expect
      .poll(labels)
      .toEqual(['email is known', 'has the tag craft.throwing', 'any of these holds', 'years at the wheel is more than 3']);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.locator('[data-line="1.1"]')).toHaveAttribute('aria-label', 'has the tag craft.throwing');
  });

  test('what is refused loses nothing, and says what is wanted', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/audiences/new`);
    const type = page.getByRole('combobox', { name: 'Type a line', exact: true });
    await type.fill('years at the wheel more than many');
    await type.press('Escape');
    await type.press('Enter');
    await expect(type).toHaveValue('years at the wheel more than many');
    await page.route('**/api/v1/definitions', (route) => (route.request().method() === 'PUT' ? route.abort() : route.continue()));
    await page.getByLabel('Name of the audience').fill('Kept here');
    await page.getByRole('button', { name: 'Keep audience' }).click();
    await expect(page.getByText('is typed, and not taken yet')).toBeVisible();
    await expect(type).toBeFocused();
    await type.fill('');
    await page.getByRole('button', { name: 'Put away' }).click();
    await page.getByRole('button', { name: 'Keep audience' }).click();
    await expect(page.getByRole('alert')).toContainText('What you entered is still here');
    await expect(page.getByLabel('Name of the audience')).toHaveValue('Kept here');
  });

  test('a page without its connection says so, and catches up when it is there', async ({ page }) => {
    await page.route('**/api/app/events', (route) => route.fulfill({ status: 503, body: '' }));
    await signIn(page);
    await expect(page.getByText('not connected: figures may be old')).toBeVisible();
    await page.unroute('**/api/app/events');
    await expect(page.getByText('not connected: figures may be old')).toBeHidden();
  });
});
