import { expect, test } from '@playwright/test';
import { base, call, idle, signIn } from '../support/world';

const EMAIL = 'setup@kiln.example';
const contactOf = (email: string) =>
  call<{
    id: string;
    tags: { key: string }[];
    stage: { key: string } | null;
    scores: { key: string; points: number; band: string }[];
    audiences: { key: string }[];
  }>('GET', `/api/v1/contacts/${email}`);
let sent = 0;
const happen = async (type: string, data: object): Promise<void> => {
  sent += 1;
  const event = { specversion: '1.0', source: 'setup', id: `s${sent}`, type, subject: EMAIL, data };
  const answer = await call<{ accepted: number; rejected: unknown[] }>('POST', '/api/v1/signals', event, 'application/cloudevents+json');
  expect(answer).toMatchObject({ accepted: 1, rejected: [] });
  await idle();
};

test.describe('setting up, by hand', () => {
  test.beforeAll(async () => {
    await call('PUT', '/api/v1/definitions', {
      families: [{ key: 'firing', name: 'Firing', prefix: 'firing', purpose: 'how they fire', many: true }],
      tags: [{ key: 'firing.rents', name: 'rents a kiln', family: 'firing' }],
      ladder: [{ key: 'looks', name: 'looks around' }],
    });
    await call('PUT', '/api/v1/contacts', { contacts: [{ email: EMAIL, fields: { 'given-name': 'Setup' } }] });
    await idle();
  });

  test('a type of signal of one’s own is made, arrives by the API, and sets off a rule that asks for its detail', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/settings/signal-types`);
    await page.getByRole('link', { name: 'New signal type' }).click();
    await page.getByLabel('A contact …').fill('rented a kiln');
    await page.getByRole('button', { name: '+ detail' }).click();
    await expect(page.getByLabel('Name of the signal type')).toHaveValue('kiln rented');
    await page.getByLabel('Name of detail 1').fill('hours');
    await page.getByLabel('Type of detail 1').selectOption('number');
    await page.getByRole('button', { name: 'Keep signal type' }).click();
    await expect(page.getByText('Programs send it as kiln-rented.')).toBeVisible();

    await page.goto(`${base()}/rules/new`);
    await page.getByLabel('Name of the rule').fill('Rents long');
    await page.getByLabel('What sets it off').selectOption({ label: 'rented a kiln' });
    await page.getByRole('button', { name: '+ detail' }).click();
    await page.getByLabel('detail: how').selectOption({ label: 'at least' });
    await page.getByLabel('detail: value').fill('4');
    await page.getByLabel('Tag of action 1').selectOption({ label: 'firing.rents' });
    await page.getByRole('button', { name: /^Rehearse/ }).click();
    await expect(page.getByLabel('Rehearsal')).toContainText('would be touched');
    await page.getByRole('button', { name: 'Turn on' }).click();
    await expect(page.getByRole('button', { name: 'Turn off' })).toBeVisible();
    await idle();

    await happen('kiln-rented', { hours: 3 });
    expect((await contactOf(EMAIL)).tags).toEqual([]);
    await happen('kiln-rented', { hours: 4 });
    expect((await contactOf(EMAIL)).tags.map((tag) => tag.key)).toEqual(['firing.rents']);
  });

  test('a task is made by hand on the page of a contact, waits on Today, and is ticked there', async ({ page }) => {
    const { id } = await contactOf(EMAIL);
    await signIn(page);
    await page.goto(`${base()}/people/${id}`);
    await page.getByRole('button', { name: '+ task' }).click();
    await page.getByLabel('What is to be done').fill('Show them the kiln');
    await page.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(page.getByRole('checkbox', { name: 'Show them the kiln: done' })).toBeVisible();

    await page.goto(`${base()}/`);
    const mine = page.getByRole('region', { name: 'Your tasks' });
    await mine.getByRole('checkbox', { name: 'Show them the kiln: done' }).click();
    await expect(mine.getByRole('checkbox', { name: 'Show them the kiln: done' })).toHaveCount(0);
    await mine.getByRole('link', { name: 'all tasks' }).click();
    await page.getByLabel('Open or done').selectOption('done');
    await expect(page.getByRole('listitem').filter({ hasText: 'Show them the kiln' })).toContainText('by wren@');
  });

  test('the tag plan says who has a tag, what gives it, and what relies on it', async ({ page }) => {
    await call('PUT', '/api/v1/definitions', {
      audiences: [{ key: 'renters', name: 'Renters', kind: 'live', condition: { kind: 'tag', tag: 'firing.rents', op: 'has' } }],
    });
    await idle();
    await signIn(page);
    await page.goto(`${base()}/tags`);
    const row = page.getByRole('row').filter({ hasText: 'firing.rents' });
    await expect(row).toContainText('1');
    await expect(row.getByRole('link', { name: 'Rents long' })).toBeVisible();
    await row.getByRole('link', { name: 'Renters' }).click();
    await expect(page.locator('[data-count]')).toHaveText('1 person');
  });

  test('a scorecard is made whose line counts by steps, and the contact’s page explains its points', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/scores/new`);
    await page.getByLabel('Name of the scorecard').fill('Kiln use');
    await page.getByRole('button', { name: '+ for something that happens' }).click();
    await page.getByLabel('Name of line 1').fill('rents again and again');
    await page.getByLabel('What has to happen').selectOption({ label: 'rented a kiln' });
    await page.getByLabel('How often it counts').selectOption({ label: 'by steps' });
    await page.getByLabel('Points of step 1').fill('5');
    await page.getByLabel('Number of step 1').fill('2');
    await page.getByRole('button', { name: 'Keep scorecard' }).click();
    await expect(page.getByText(/Kiln use is kept/)).toBeVisible();
    await idle();
    expect((await contactOf(EMAIL)).scores.find((score) => score.key.startsWith('kiln-use'))?.points).toBe(5);

    await page.goto(`${base()}/people/${EMAIL}`);
    await expect(page.getByText('rents again and again').first()).toBeVisible();
    await expect(page.getByText('+5', { exact: true }).first()).toBeVisible();
  });

  test('a fixed list is filled by hand and emptied again, and tells who moved', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/audiences/new`);
    await page.getByLabel('What it is').selectOption({ label: 'fixed list of people, filled by hand' });
    await page.getByLabel('Name of the list').fill('Kiln opening');
    await page.getByRole('button', { name: 'Keep list' }).click();
    await page.getByLabel('Put on the list, by email address').fill(EMAIL);
    await page.getByRole('button', { name: 'Put on' }).click();
    await expect(page.locator('[data-count]')).toHaveText('1 person');
    await page.getByRole('button', { name: /^Take .* off$/ }).click();
    await expect(page.getByText('Nobody is on this list yet')).toBeVisible();
    await page.getByRole('button', { name: 'Who moved' }).click();
    await expect(page.getByText('by wren', { exact: false }).first()).toBeVisible();
  });

  test('the ladder grows and is put in another order, and a rate is set', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/settings/stages`);
    const ladder = page.locator('section').filter({ has: page.getByRole('heading', { name: 'Ladder' }) });
    await ladder.getByLabel('New stage, after the last').fill('fires alone');
    await ladder.getByRole('button', { name: 'Add stage' }).click();
    await expect(ladder.getByText('fires-alone')).toBeVisible();
    const last = await ladder.getByRole('listitem').count();
    await expect(ladder.getByRole('button', { name: 'fires alone down' })).toBeDisabled();
    await ladder.getByRole('button', { name: 'fires alone up' }).click();
    await expect(ladder.getByRole('listitem').nth(last - 2)).toContainText('fires-alone');

    await page.getByRole('link', { name: 'Workspace' }).click();
    const rates = page.locator('section').filter({ has: page.getByRole('heading', { name: 'Currencies' }) });
    await rates.getByLabel('Another currency').fill('nok');
    await rates.getByLabel(/^One of it in/).fill('0.98');
    await rates.getByRole('button', { name: 'Add currency' }).click();
    await expect(rates.getByLabel('Rate of NOK')).toHaveValue('0.98');
    await rates.getByLabel('Rate of NOK').fill('none');
    await rates.getByLabel('Rate of NOK').blur();
    await expect(page.getByText(/[Nn]eeds /)).toBeVisible();
  });

  test('what was done stands in the ledger in sentences, and can be narrowed to one kind', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/ledger`);
    await page.getByLabel('Show').selectOption({ label: 'rules' });
    await expect(page.getByText('Rule Rents long ran, version 1')).toBeVisible();
    await expect(page.getByText('Tag firing.rents added')).toHaveCount(0);
    await page.getByLabel('Show').selectOption({ label: 'tags' });
    await expect(page.getByText('Tag firing.rents added').first()).toBeVisible();
  });
});
