import { expect, test, type Locator, type Page } from '@playwright/test';
import { base, call, expectAccessible, idle, signIn } from '../support/world';

const emailOf = (n: number): string => `n${n}@table.example`;
const ordered = (n: number, order: number): Promise<unknown> =>
  call(
    'POST',
    '/api/v1/signals',
    {
      ...{ specversion: '1.0', source: 'people', id: `o${n}-${order}`, type: 'order.placed', subject: emailOf(n) },
      data: { order: `o${n}-${order}`, amount: 100 * n, currency: 'SEK' },
    },
    'application/cloudevents+json',
  );

/** Goes on with Tab until something has the focus, as whoever has no mouse does. */
async function tabTo(page: Page, wanted: Locator): Promise<void> {
  await wanted.waitFor();
  for (let pressed = 0; pressed < 150; pressed += 1) {
    if (await wanted.evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error('the keys do not lead there');
}

test.describe('the table of people', () => {
  test.beforeAll(async () => {
    await call('PUT', '/api/v1/definitions', {
      fields: [{ key: 'shelf-town', name: 'town of the shelf', of: 'contact', type: 'text' }],
      families: [{ key: 'row', name: 'Row', prefix: 'row', purpose: '', many: true }],
      tags: [{ key: 'row.picked', name: 'picked', family: 'row' }],
    });
    await call('PUT', '/api/v1/contacts', {
      contacts: Array.from({ length: 8 }, (_, n) => ({
        email: emailOf(n),
        fields: { 'given-name': `Row ${n}`, 'shelf-town': n < 6 ? 'Oakham' : 'Mill End' },
      })),
    });
    for (const [n, orders] of [
      [1, 1],
      [2, 3],
      [4, 2],
    ] as const)
      for (let order = 0; order < orders; order += 1) await ordered(n, order);
    await idle();
  });

  test('is narrowed, gets a column that counts, is sorted by it, changed as a whole, kept as an audience, and that is taken back', async ({
    page,
  }) => {
    await signIn(page);
    await page.goto(`${base()}/people`);
    await page.getByRole('button', { name: 'Narrow down' }).click();
    const line = page.getByPlaceholder('bought glaze twice in the last 60 days');
    await line.fill('town of the shelf is Oakham');
    await line.press('Enter');
    await expect(page.getByRole('heading', { level: 1 })).toContainText('People: 6');

    await page.getByRole('button', { name: 'Columns …' }).click();
    const columns = page.getByRole('dialog');
    await columns.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(columns.getByText('Times they ordered in the last 90 days')).toBeVisible();
    await expectAccessible(page, 'columns of the table');
    await columns.getByRole('button', { name: 'Done' }).click();
    await page.getByRole('button', { name: /^Times they ordered/ }).click();
    await expect(page.locator('[data-row="0"]')).toContainText('Row 2');
    await expect(page.locator('[data-row="1"]')).toContainText('Row 4');
    await expect(page.locator('[data-row="2"]')).toContainText('Row 1');
    await expectAccessible(page, 'people, sorted');

    // It stands in the address, and outlives a reload.
    await page.reload();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('People: 6');
    await expect(page.locator('[data-row="0"]')).toContainText('Row 2');

    await page.getByRole('button', { name: 'Change …' }).click();
    const change = page.getByRole('dialog');
    await change.getByLabel('Tag', { exact: true }).selectOption('row.picked');
    await expect(change.getByRole('group', { name: 'What it would do' })).toContainText('6 tags added');
    await expectAccessible(page, 'a change of many, rehearsed');
    await change.getByRole('button', { name: 'Do it: changes 6 people' }).click();
    await expect(page.locator('[data-row="5"]')).toContainText('row.picked');

    await page.getByRole('button', { name: 'Keep as audience …' }).click();
    await page.getByRole('dialog').getByLabel('Name').fill('From Oakham');
    await expectAccessible(page, 'keeping as an audience');
    await page.getByRole('dialog').getByRole('button', { name: 'Keep' }).click();
    await expect(page).toHaveURL(/\/audiences\/from-oakham$/);
    await expect(page.locator('[data-count]')).toHaveText('6 people');
    await page.getByRole('link', { name: 'As a table' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('People: 6');

    await page.goto(`${base()}/people/changes`);
    const list = page.getByRole('list', { name: 'Changes' });
    await expect(list).toContainText('add the tag row.picked');
    await expect(list).toContainText('touched 6 people');
    await expectAccessible(page, 'changes of many');
    await list.getByRole('button', { name: 'Take back' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Take back', exact: true }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Close', exact: true }).last().click();
    await page.goto(`${base()}/people/${emailOf(4)}`);
    await expect(page.getByRole('listitem').filter({ hasText: 'Ordered' }).first()).toBeVisible();
    await expect(page.getByRole('button', { name: 'Why row.picked?' })).toHaveCount(0);
  });

  test('is walked through by the keys alone: down, ticked, opened', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/people`);
    await page.getByLabel('Search in this table').fill('table.example');
    await expect(page.locator('[data-row="7"]')).toBeVisible();
    await page.getByRole('region', { name: 'People' }).focus();
    await page.keyboard.press('j');
    await page.keyboard.press('x');
    await page.keyboard.press('j');
    await page.keyboard.press('x');
    await expect(page.getByRole('group', { name: 'Do to many' })).toContainText('2 people ticked');
    await page.keyboard.press('Enter');
    await expect(page).toHaveURL(/\/people\/[0-9a-f-]{36}$/);
  });

  test('is frozen and worked down by the keys, with a word about each, and a note stays with the contact', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/people`);
    await page.getByLabel('Search in this table').fill('table.example');
    await page.getByRole('button', { name: 'Contact', exact: true }).click();
    await expect(page.locator('[data-row="0"]')).toContainText('Row 0');
    await page.getByRole('button', { name: 'Work down …' }).click();
    await page.getByRole('dialog').getByLabel('Name').fill('Call the table');
    await expectAccessible(page, 'freezing a table');
    await page.getByRole('dialog').getByRole('button', { name: 'Freeze' }).click();
    await expect(page.getByText('0 of 8 done')).toBeVisible();
    await expectAccessible(page, 'a worklist');
    await page.getByRole('button', { name: 'Begin' }).click();
    const strip = page.getByRole('region', { name: 'Worklist' });
    await expect(page.getByRole('heading', { level: 1 })).toContainText('Row 0');
    await strip.getByLabel('A word about it').fill('wants a bench');
    await expectAccessible(page, 'a contact of a worklist');
    await page.getByLabel('Write something down').fill('Comes on Fridays.');
    await page.getByLabel('Write something down').press('Control+Enter');
    await expect(page.getByText('Comes on Fridays.')).toBeVisible();
    await strip.getByRole('button', { name: /Done/ }).click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('Row 1');
    await page.getByRole('heading', { level: 1 }).click();
    await page.keyboard.press('l');
    await expect(page.getByRole('heading', { level: 1 })).toContainText('Row 2');
    await strip.getByRole('link', { name: 'Call the table' }).click();
    await expect(page.getByText('1 of 8 done')).toBeVisible();
    await expect(page.getByRole('row', { name: /Row 0/ })).toContainText('wants a bench');
    await expect(page.getByRole('row', { name: /Row 1/ })).toContainText('put off');
    await page.goto(`${base()}/people/worklists`);
    await expect(page.getByRole('list', { name: 'Worklists' })).toContainText('Call the table');
    await expectAccessible(page, 'worklists');
  });

  test('who is here twice is compared and merged with a choice, by the keys, and parted again', async ({ page }) => {
    await call('PUT', '/api/v1/contacts', {
      contacts: [
        { email: 'eve.ravn@twice.example', fields: { 'given-name': 'Eve', 'family-name': 'Ravn', 'shelf-town': 'Oakham' } },
        { email: 'everavn@twice.example', fields: { 'given-name': 'Eve', 'family-name': 'Ravn', 'shelf-town': 'Mill End' } },
      ],
    });
    await idle();
    await signIn(page);
    await page.goto(`${base()}/people/duplicates`);
    const row = page.getByRole('list', { name: 'Pairs' }).getByRole('listitem').filter({ hasText: 'eve.ravn@twice.example' });
    await expect(row).toContainText('certain: the same mailbox and the same name');
    await row.getByRole('button', { name: 'Compare …' }).focus();
    await page.keyboard.press('Enter');
    const dialog = page.getByRole('dialog');
    await dialog.getByRole('radio', { name: 'town of the shelf: Mill End' }).focus();
    await page.keyboard.press('Space');
    await expectAccessible(page, 'two contacts side by side');
    await dialog.getByRole('button', { name: 'Merge into Eve Ravn' }).focus();
    await page.keyboard.press('Enter');
    await expect(page.getByText('Eve Ravn is merged into Eve Ravn.')).toBeVisible();
    await expect(row).toHaveCount(0);
    await page.goto(`${base()}/people/eve.ravn@twice.example`);
    await expect(page.getByRole('button', { name: 'town of the shelf: Mill End, edit' })).toBeVisible();
    await page.getByRole('button', { name: 'Part them' }).click();
    await expect(page.getByText('is a contact of their own again')).toBeVisible();
    await page.goto(`${base()}/people/duplicates`);
    await expect(row).toBeVisible();
  });

  test('is walked with the keys alone: from the table to a contact, down a worklist, and through a merge', async ({ page }) => {
    const contact = (email: string, name: string) => ({ email, fields: { 'given-name': name, 'family-name': 'Keyes' } });
    await call('PUT', '/api/v1/contacts', {
      contacts: [contact('ada.keyes@keys.example', 'Ada'), contact('adakeyes@keys.example', 'Ada'), contact('bo@keys.example', 'Bo')],
    });
    await idle();
    await signIn(page);
    await page.goto(`${base()}/`);
    await page.getByRole('heading', { level: 1 }).waitFor();
    const { keyboard } = page;
    const toTheThree = async (): Promise<void> => {
      await keyboard.press('g');
      await keyboard.press('p');
      await tabTo(page, page.getByLabel('Search in this table'));
      await keyboard.type('keys.example');
      await expect(page.locator('[data-row="2"]')).toBeVisible();
      await expect(page.locator('[data-row="3"]')).toHaveCount(0);
    };

    // To the table, and narrowed there.
    await toTheThree();
    await tabTo(page, page.getByRole('region', { name: 'People' }));
    await keyboard.press('j');
    await keyboard.press('Enter');
    await expect(page).toHaveURL(/\/people\/[0-9a-f-]{36}$/);
    await expect(page.getByRole('heading', { level: 1 })).toContainText('Keyes');

    // Back, ticked, frozen, and worked down.
    await toTheThree();
    await tabTo(page, page.getByRole('region', { name: 'People' }));
    for (const key of ['j', 'x', 'j', 'x', 'j', 'x']) await keyboard.press(key);
    await tabTo(page, page.getByRole('button', { name: 'Work down …' }));
    await keyboard.press('Enter');
    await tabTo(page, page.getByRole('dialog').getByLabel('Name'));
    await keyboard.type('By the keys');
    await keyboard.press('Enter');
    await expect(page.getByText('0 of 3 done')).toBeVisible();
    await tabTo(page, page.getByRole('button', { name: 'Begin' }));
    await keyboard.press('Enter');
    const strip = page.getByRole('region', { name: 'Worklist' });
    for (let done = 1; done <= 3; done += 1) {
      await expect(strip).toContainText(`number ${done}`);
      await keyboard.press('d');
    }
    await expect(page.getByText('3 of 3 done')).toBeVisible();

    // To those who are here twice, and merged.
    await keyboard.press('g');
    await keyboard.press('p');
    await tabTo(page, page.getByRole('link', { name: 'Perhaps one person' }));
    await keyboard.press('Enter');
    const row = page.getByRole('list', { name: 'Pairs' }).getByRole('listitem').filter({ hasText: 'ada.keyes@keys.example' });
    await tabTo(page, row.getByRole('button', { name: 'Compare …' }));
    await keyboard.press('Enter');
    await tabTo(page, page.getByRole('dialog').getByRole('button', { name: 'Merge into Ada Keyes' }));
    await keyboard.press('Enter');
    await expect(page.getByText('Ada Keyes is merged into Ada Keyes.')).toBeVisible();
    await expect(row).toHaveCount(0);
  });

  test('a deal is drawn to another stage of its board, and moved back by the keys', async ({ page }) => {
    await call('PUT', '/api/v1/definitions', {
      pipelines: [
        {
          key: 'table-trade',
          name: 'Table trade',
          stages: [
            { key: 'asked', name: 'asked' },
            { key: 'offered', name: 'offered' },
            { key: 'sold', name: 'sold', outcome: 'won' },
          ],
        },
      ],
    });
    await call('PUT', '/api/v1/deals', {
      deals: [{ outsideId: 'plates', name: 'Forty plates', contact: emailOf(1), pipeline: 'table-trade', amount: '1200.00' }],
    });
    await idle();
    await signIn(page);
    await page.goto(`${base()}/people/deals?pipeline=table-trade`);
    const offered = page.getByRole('region', { name: 'offered' });
    await expect(page.getByText('1 deal is open, worth 1,200.00 SEK together.')).toBeVisible();
    await expectAccessible(page, 'the board of deals');
    const from = await page.getByRole('listitem', { name: 'Forty plates' }).boundingBox();
    const to = await offered.boundingBox();
    await page.mouse.move((from?.x ?? 0) + 20, (from?.y ?? 0) + 12);
    await page.mouse.down();
    await page.mouse.move((from?.x ?? 0) + 60, (from?.y ?? 0) + 30, { steps: 4 });
    await page.mouse.move((to?.x ?? 0) + 60, (to?.y ?? 0) + 100, { steps: 6 });
    await page.mouse.up();
    await expect(offered.getByRole('listitem', { name: 'Forty plates' })).toBeVisible();
    await expect(offered).toContainText('1 deal');
    await page.getByRole('listitem', { name: 'Forty plates' }).focus();
    await page.keyboard.press('Alt+ArrowLeft');
    await expect(page.getByRole('region', { name: 'asked' }).getByRole('listitem', { name: 'Forty plates' })).toBeVisible();
  });
});
