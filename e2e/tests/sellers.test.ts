import { expect, test, type Page } from '@playwright/test';
import { base, call, expectAccessible, idle, signIn } from '../support/world';

const NELL = { name: 'Nell Arden', email: 'nell@fernhollow.example', password: 'a kettle on the hob' };
const COLLEAGUE = 'wren@fernhollow.example';

test.describe.serial('a seller', () => {
  let page: Page;
  test.beforeAll(async ({ browser }) => {
    // The checker opens a page of its own beside it, so the context is made first.
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    page = await context.newPage();
    await call('PUT', '/api/v1/companies', { companies: [{ outsideId: 'ridge', name: 'Ridge Pottery' }] });
  });
  test.afterAll(() => page.context().close());

  test('is invited, sets a password, and finds just the contacts that are theirs', async ({ page: admin }) => {
    await signIn(admin);
    await admin.goto(`${base()}/settings/people`);
    await admin.getByLabel('Name', { exact: true }).fill(NELL.name);
    await admin.getByLabel('Email', { exact: true }).fill(NELL.email);
    await admin.locator('form', { hasText: 'Invite' }).getByRole('combobox').selectOption('seller');
    await admin.getByRole('button', { name: 'Invite' }).click();
    const link = await admin.getByRole('status').locator('code').innerText();
    await call('PUT', '/api/v1/contacts', {
      contacts: [
        { email: 'rook@ridge.example', owner: NELL.email, fields: { 'given-name': 'Rook' } },
        { email: 'wynn@ridge.example', owner: NELL.email, company: 'ridge', fields: { 'given-name': 'Wynn' } },
        { email: 'hidden@ridge.example', owner: COLLEAGUE, fields: { 'given-name': 'Hidden' } },
      ],
    });
    await idle();
    await page.goto(link);
    await page.locator('input[type="password"]').first().fill(NELL.password);
    await page.keyboard.press('Enter');
    await expect(page.getByRole('heading', { level: 1, name: 'Your contacts: 2' })).toBeVisible();
    await expect(page.getByText('Rook')).toBeVisible();
    await expect(page.getByText('Hidden')).toHaveCount(0);
    await expect(page.getByRole('navigation', { name: 'Places' })).not.toContainText('Ledger');
    await expectAccessible(page, 'the contacts of a seller');
    await page.keyboard.press('/');
    await page.keyboard.type('hidden');
    await expect(page.getByRole('dialog')).not.toContainText('hidden@ridge.example');
    await page.keyboard.press('Escape');
  });

  test('asks the server nothing that is not for them, on any of their pages', async () => {
    const refused: string[] = [];
    page.on('response', (response) => {
      if (response.status() === 403) refused.push(response.url());
    });
    for (const path of [
      '/people',
      '/people/deals',
      '/tasks',
      '/people/worklists',
      '/tags',
      '/rules',
      '/scores',
      '/audiences',
      '/settings/account',
    ]) {
      await page.goto(`${base()}${path}`);
      await page.waitForLoadState('networkidle').catch(() => undefined);
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    }
    await page.goto(`${base()}/people/rook@ridge.example`);
    await expect(page.getByRole('heading', { level: 1, name: /Rook/ })).toBeVisible();
    await page.goto(`${base()}/people/hidden@ridge.example`);
    await expect(page.getByRole('alert')).toBeVisible();
    expect(refused).toEqual([]);
  });

  test('corrects an address and puts a file with the contact, by the keys', async () => {
    await page.goto(`${base()}/people/rook@ridge.example`);
    await page.getByRole('button', { name: 'correct …' }).focus();
    await page.keyboard.press('Enter');
    await page.getByRole('textbox', { name: 'Email address' }).fill('rook.marsh@ridge.example');
    await expectAccessible(page, 'correcting an address');
    await page.keyboard.press('Enter');
    await expect(page.getByText('before: rook@ridge.example')).toBeVisible();
    await page.getByLabel('+ file').setInputFiles({ name: 'offer.txt', mimeType: 'text/plain', buffer: Buffer.from('An offer.') });
    const saved = page.waitForEvent('download');
    await page.getByRole('link', { name: 'offer.txt' }).click();
    expect((await saved).suggestedFilename()).toBe('offer.txt');
    await page.getByRole('button', { name: 'On a past day' }).click();
    await expect(page.getByRole('region', { name: 'On a past day' })).toContainText('They were not here yet');
    await expectAccessible(page, 'a contact of a seller');
    // An order that comes under the old address is theirs.
    await call(
      'POST',
      '/api/v1/signals',
      {
        ...{ specversion: '1.0', source: 'till', id: 'r1', type: 'order.placed', subject: 'rook@ridge.example' },
        data: { order: 'r1', amount: 10, currency: 'SEK' },
      },
      'application/cloudevents+json',
    );
    await expect(page.getByText(/^Ordered/).first()).toBeVisible();
  });

  test('sees the contacts of the team once an admin says so, and a colleague links one to the company that their address suggests', async ({
    page: admin,
  }) => {
    await signIn(admin);
    await admin.goto(`${base()}/settings/people`);
    for (const name of [NELL.name, 'Wren Aldous']) {
      await admin.getByLabel(`Team of ${name}`).fill('Shop');
      await admin.keyboard.press('Enter');
      await expect(admin.getByText(`${name} is in the team Shop now.`)).toBeVisible();
    }
    await admin.getByLabel(`${NELL.name} sees the contacts of the whole team`).click();
    await expect(admin.getByText(`${NELL.name} sees the contacts of the whole team now.`)).toBeVisible();
    await expectAccessible(admin, 'people with teams');
    await page.goto(`${base()}/people`);
    await page.getByLabel('Search in this table').fill('ridge.example');
    await expect(page.locator('[data-row="2"]')).toBeVisible();
    await admin.goto(`${base()}/people/hidden@ridge.example`);
    await admin.getByRole('button', { name: 'Link to Ridge Pottery' }).click();
    await expect(admin.getByRole('link', { name: 'Ridge Pottery' })).toBeVisible();
    await admin.getByRole('button', { name: 'Company: Ridge Pottery, change' }).click();
    await expectAccessible(admin, 'finding a company');
    await admin.keyboard.press('Escape');
    // A list of another team is not there for them, and one of their own is.
    await call('PUT', '/api/v1/definitions', { audiences: [{ key: 'callers', name: 'To be called', kind: 'fixed' }] });
    await admin.goto(`${base()}/audiences/callers`);
    await admin.getByLabel('Put on the list, by email address').fill('wynn@ridge.example');
    await admin.keyboard.press('Enter');
    await expect(admin.getByRole('link', { name: 'Wynn' })).toBeVisible();
    const keptTo = async (team: string): Promise<void> => {
      await admin.getByText('Folder, team, labels and description').click();
      await admin.getByLabel('Which sellers see it').selectOption(team);
      await admin.getByRole('button', { name: 'Keep changes' }).click();
      await expect(admin.getByText(`It is kept to the team ${team}.`)).toBeVisible();
      await expectAccessible(admin, `a list that is kept to ${team}`);
    };
    await admin.goto(`${base()}/settings/people`);
    await admin.getByLabel('Team of Wren Aldous').fill('Workshop');
    await admin.keyboard.press('Enter');
    await expect(admin.getByText('Wren Aldous is in the team Workshop now.')).toBeVisible();
    await admin.goto(`${base()}/audiences/callers`);
    await keptTo('Workshop');
    await page.goto(`${base()}/audiences/callers`);
    await expect(page.getByRole('heading', { name: 'There is no such audience' })).toBeVisible();
    await page.goto(`${base()}/people/wynn@ridge.example`);
    await expect(page.getByRole('heading', { level: 1, name: /Wynn/ })).toBeVisible();
    await expect(page.getByText('To be called')).toHaveCount(0);
    await admin.goto(`${base()}/audiences/callers`);
    await keptTo('Shop');
    await page.goto(`${base()}/audiences`);
    await page.getByRole('link', { name: 'To be called' }).click();
    await expect(page.getByRole('link', { name: 'Wynn' })).toBeVisible();
    await expect(page.getByText('You see your own contacts on it.')).toBeVisible();
    await expectAccessible(page, 'a list that a seller works from');
    await admin.goto(`${base()}/campaigns/post-room`);
    await admin.getByRole('tab', { name: 'To colleagues' }).click();
    await expectAccessible(admin, 'mail to colleagues');
  });
});
