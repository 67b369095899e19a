import { expect, test } from '@playwright/test';
import { base, call, expectAccessible, idle, signIn } from '../support/world';

test('a field is asked of everyone, its choices are merged, and its type is changed, each after a rehearsal', async ({ page }) => {
  const sizes = ['Small', 'Little', 'Large'].map((name) => ({ key: name.toLowerCase(), name }));
  await call('PUT', '/api/v1/definitions', {
    fields: [
      { key: 'shed', name: 'size of the shed', of: 'contact', type: 'one choice', options: sizes },
      { key: 'shed-hours', name: 'hours in the shed', of: 'contact', type: 'text' },
    ],
    audiences: [
      { key: 'little-sheds', name: 'Little sheds', kind: 'live', condition: { kind: 'field', field: 'shed', op: 'is', value: 'little' } },
    ],
  });
  await call('PUT', '/api/v1/contacts', {
    contacts: [
      { email: 'a@shed.example', fields: { shed: 'little', 'shed-hours': '12' } },
      { email: 'b@shed.example', fields: { shed: 'small', 'shed-hours': 'all day' } },
      { email: 'c@shed.example' },
    ],
  });
  await idle();
  await signIn(page);
  await page.goto(`${base()}/settings/fields`);
  await page.getByRole('table', { name: 'Fields of contacts' }).getByRole('link', { name: 'size of the shed' }).click();
  await page.getByText('Everyone should have it').click();
  await page.getByRole('button', { name: 'Keep changes' }).click();
  await expect(page.getByText(/should have it and ha(s|ve) not/)).toBeVisible();
  await page.getByRole('link', { name: 'Show those without' }).click();
  await expect(page.getByText('c@shed.example').first()).toBeVisible();
  await expect(page.getByText('a@shed.example')).toHaveCount(0);
  await page.goBack();
  await page.getByText('1 has it').first().hover();
  await page.getByRole('button', { name: 'Merge choice Little into another' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Into').selectOption('Small');
  await expect(dialog).toContainText('1 contact would get “Small”.');
  await expect(dialog.getByRole('link', { name: 'Little sheds' })).toBeVisible();
  await expectAccessible(page, 'merging a choice');
  await dialog.getByRole('button', { name: 'Merge' }).click();
  await expect(page.getByText('Merged: Little into Small.')).toBeVisible();
  await idle();
  await page.goto(`${base()}/audiences/little-sheds`);
  await expect(page.locator('[data-count]')).toHaveText('2 people');

  await page.goto(`${base()}/settings/fields/shed-hours`);
  await page.getByRole('button', { name: 'Change the type …' }).click();
  await dialog.getByLabel('From text to').selectOption('number');
  await expect(dialog).toContainText('1 of 2 values fit. 1 does not, and stays in the retired field:');
  await expect(dialog.getByRole('cell', { name: 'all day' })).toBeVisible();
  await expectAccessible(page, 'changing the type of a field');
  await dialog.getByRole('button', { name: 'Change the type' }).click();
  await expect(page.getByText('A fact about contacts: number.')).toBeVisible();
  await idle();
  await page.goto(`${base()}/people/a@shed.example`);
  await expect(page.getByRole('button', { name: 'hours in the shed: 12, edit' })).toBeVisible();
  await page.goto(`${base()}/people/b@shed.example`);
  await page.getByRole('button', { name: 'size of the shed: Small, edit' }).click();
  await page.getByRole('combobox', { name: 'size of the shed' }).selectOption('not known');
  await expect(page.getByText(/everyone should have one/)).toBeVisible();
});
