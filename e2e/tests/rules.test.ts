import { expect, test } from '@playwright/test';
import { base, call, expectAccessible, idle, signIn } from '../support/world';

const BUYER = 'buyer@rules.example';
const LOOKER = 'looker@rules.example';
const send = (id: string, type: string, subject: string, data: object): Promise<unknown> =>
  call('POST', '/api/v1/signals', { specversion: '1.0', source: 'rules', id, type, subject, data }, 'application/cloudevents+json');
const items = [{ product: 'Tea bowl', line: 'bowls', quantity: 1, amount: 120 }];

test.describe('rules, maps and the way back', () => {
  test.beforeAll(async () => {
    await call('PUT', '/api/v1/definitions', {
      families: [{ key: 'shelf', name: 'Shelf', prefix: 'shelf', purpose: 'what stands on it', many: true }],
      tags: ['bowls', 'looker', 'asked', 'one', 'two'].map((key) => ({ key: `shelf.${key}`, name: key, family: 'shelf' })),
      bundles: [{ key: 'ask-them', name: 'Ask them', then: [{ action: { do: 'add tag', tag: 'shelf.asked' } }] }],
      ladder: [{ key: 'shelf-met', name: 'met at the shelf', needs: { kind: 'tag', tag: 'shelf.bowls', op: 'has' } }],
      routing: [{ key: 'shelf-desk', name: 'Shelf desk', rows: [{ key: 'all', owners: ['wren@fernhollow.example'] }] }],
      rules: [
        {
          key: 'hand-out',
          name: 'Hand out',
          when: { kind: 'signal', type: 'form.answered', where: [{ path: 'form', op: 'is', value: 'none' }] },
          then: [{ do: 'assign owner', routing: 'shelf-desk' }],
          on: true,
        },
        {
          key: 'every-look',
          name: 'Every look',
          when: { kind: 'signal', type: 'page.visited', where: [{ path: 'path', op: 'starts with', value: '/shelf' }] },
          then: [{ do: 'add tag', tag: 'shelf.looker' }],
          on: true,
        },
        {
          key: 'one-off',
          name: 'One off',
          when: { kind: 'becomes', condition: { kind: 'tag', tag: 'shelf.two', op: 'has' } },
          then: [{ do: 'remove tag', tag: 'shelf.two' }],
          on: true,
        },
      ],
    });
    await call('PUT', '/api/v1/contacts', { contacts: [{ email: BUYER }, { email: LOOKER }] });
    await send('o1', 'order.placed', BUYER, { order: 'tea-1', items });
    await send('v1', 'page.visited', LOOKER, { path: '/shelf/plates' });
    await idle();
  });

  test('what was ordered and has no row gets one, gives its tag to those before, and a refund takes it back', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/rules/maps/new`);
    await page.getByLabel('Name of the signal map').fill('Shelf');
    await page.getByRole('button', { name: 'A row for Tea bowl' }).click();
    await expect(page.getByLabel('Value of row 1')).toHaveValue('Tea bowl');
    await page.getByLabel('Tags given by row 1').selectOption('shelf.bowls');
    await page.getByRole('button', { name: /^Keep/ }).click();
    await expect(page).toHaveURL(/\/maps\/shelf$/);
    await page.getByRole('button', { name: /^Rehearse on what came before/ }).click();
    await expect(page.getByRole('region', { name: 'Rehearsal' })).toContainText('1 tag added');
    await page.getByRole('button', { name: 'Run it now …' }).click();
    await page.getByRole('button', { name: 'Run it now', exact: true }).click();
    await expect(page.getByRole('region', { name: 'Runs' })).toContainText('done · touched 1 person: 1 tag added');
    await expectAccessible(page, 'signal map with runs');

    await page.goto(`${base()}/people/${BUYER}`);
    await page.getByRole('button', { name: 'Why shelf.bowls?' }).click();
    await expect(page.getByRole('complementary', { name: 'Trace' })).toContainText(/run \d+ of Shelf/);
    await send('r1', 'order.refunded', BUYER, { order: 'tea-1', items });
    await expect(page.getByText('No tags.')).toBeVisible();
    await send('o2', 'order.placed', BUYER, { order: 'tea-2', items });
    await expect(page.getByRole('button', { name: 'Why shelf.bowls?' })).toBeVisible();
  });

  test('something looks wrong: from the contact to the rule, the fix rehearsed, what it did taken back, and the fix applied', async ({
    page,
  }) => {
    await signIn(page);
    await page.goto(`${base()}/people/${LOOKER}`);
    await page.getByRole('button', { name: 'Why shelf.looker?' }).click();
    const trace = page.getByRole('complementary', { name: 'Trace' });
    await expect(trace).toContainText('Rule Every look ran');
    await trace
      .getByRole('link', { name: /Every look/ })
      .first()
      .click();
    await expect(page.getByLabel('Name of the rule')).toHaveValue('Every look');
    // The fix: only for those who have been asked.
    await page
      .getByPlaceholder(/last 60 days/)
      .first()
      .fill('has the tag shelf.asked');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: /^Rehearse/ }).click();
    await expect(page.getByRole('region', { name: 'Rehearsal' })).toContainText('would have touched nobody yet');
    await page.getByRole('button', { name: 'Keep changes' }).click();
    await expect(page.getByText('version 2')).toBeVisible();
    await page.getByRole('button', { name: 'Take back what it did' }).click();
    await expect(page.getByRole('dialog')).toContainText('would be taken back on 1 person');
    await page.getByRole('button', { name: 'Take back', exact: true }).click();
    await expect(page.getByRole('dialog')).toContainText('taken back on 1 person');
    await page.getByRole('button', { name: 'Close', exact: true }).last().click();
    await page.goto(`${base()}/people/${LOOKER}`);
    await expect(page.getByRole('listitem').filter({ hasText: 'Visited a page' }).first()).toBeVisible();
    await expect(page.getByRole('button', { name: 'Why shelf.looker?' })).toHaveCount(0);
    await page.goto(`${base()}/ledger?cause=take+back&who=${LOOKER}`);
    await expect(page.getByRole('row', { name: /shelf\.looker/ })).toBeVisible();
    await page.getByRole('button', { name: 'by day and rule' }).click();
    await expect(page.getByText('By rule')).toBeVisible();
    await expectAccessible(page, 'ledger by day');
  });

  test('a rule that would close a circle says so before it is turned on, and is drawn with what it depends on', async ({ page }) => {
    await call('PUT', '/api/v1/definitions', {
      rules: [
        {
          key: 'two-again',
          name: 'Two again',
          when: {
            kind: 'becomes',
            condition: {
              match: 'all',
              of: [
                { kind: 'tag', tag: 'shelf.one', op: 'has' },
                { kind: 'tag', tag: 'shelf.two', op: 'lacks' },
              ],
            },
          },
          then: [{ do: 'add tag', tag: 'shelf.two' }],
          on: false,
        },
      ],
    });
    await signIn(page);
    await page.goto(`${base()}/rules/two-again`);
    await page.getByRole('button', { name: /^Rehearse/ }).click();
    await expect(page.getByRole('alert')).toContainText('These rules set each other off without end');
    await expect(page.getByRole('alert')).toContainText('who comes to have the tag shelf.one');
    await page.goto(`${base()}/rules/depends/all?of=tag/shelf.two`);
    await expect(page.getByRole('region', { name: 'shelf.two leads to' })).toContainText('One off');
    await expectAccessible(page, 'what depends on what');
  });

  test('why somebody does not have a tag leads to the bundle that gives it, which is run on them by hand', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/people/${LOOKER}`);
    await page.getByRole('button', { name: 'Why not …?' }).click();
    const why = page.getByRole('region', { name: 'Why not' });
    await why.getByLabel('What they do not have').selectOption('tag/shelf.asked');
    await expect(why).toContainText('They do not have it.');
    await expect(why).toContainText('Ask them It does it when it is run by hand.');
    await expectAccessible(page, 'why not');

    await page.getByRole('button', { name: 'Run a bundle …' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Bundle', { exact: true }).selectOption('ask-them');
    await expect(dialog.getByRole('region', { name: 'Rehearsal' })).toContainText('1 tag added');
    await expectAccessible(page, 'a bundle, rehearsed');
    await dialog.getByRole('button', { name: 'Run it: changes 1 person' }).click();
    await expect(page.getByRole('button', { name: 'Why shelf.asked?' })).toBeVisible();
    await expect(why).toContainText('They have it.');
    await page.goto(`${base()}/rules/bundles/ask-them`);
    await expect(page.getByRole('region', { name: 'Runs' })).toContainText('touched 1 person');
  });

  test('a routing table hands out by shares and a day at most, as its rehearsal says, and a stage is held back by what it needs', async ({
    page,
  }) => {
    await signIn(page);
    await page.goto(`${base()}/rules/routing/shelf-desk`);
    await page.getByLabel(/a day at most$/).fill('1');
    await page.getByRole('checkbox', { name: 'has a task' }).check();
    await page.getByLabel('Contacts to rehearse on').selectOption('everybody who came');
    await page.getByRole('button', { name: /^Rehearse/ }).click();
    await expect(page.getByRole('region', { name: 'Rehearsal' })).toContainText('would have had no owner');
    await expectAccessible(page, 'routing, rehearsed');
    await page.getByRole('button', { name: /^Keep/ }).click();
    await expect(page.getByText('Done.').first()).toBeVisible();
    await send('d1', 'form.answered', BUYER, { form: 'none', answers: {} });
    await idle();
    await send('d2', 'form.answered', LOOKER, { form: 'none', answers: {} });
    await idle();
    await page.goto(`${base()}/people/${BUYER}`);
    const owner = page.getByLabel('Owner, by sign-in address');
    await expect(owner).toHaveValue('wren@fernhollow.example');
    await expect(page.getByText('Say hello').first()).toBeVisible();
    await page.goto(`${base()}/people/${LOOKER}`);
    await expect(owner).toHaveValue('');

    await page.getByLabel('Stage', { exact: true }).selectOption('shelf-met');
    // What is missing is asked for: it is given, and then they come to the stage.
    const stays = 'The stage stays: met at the shelf is only reached if they have the tag shelf.bowls';
    const needs = page.getByRole('dialog', { name: 'What met at the shelf needs' });
    await expect(needs.getByText(stays)).toBeVisible();
    await expectAccessible(page, 'what a stage needs');
    await needs.getByRole('button', { name: 'Give them shelf.bowls' }).click();
    await expect(needs.getByText('they have it')).toBeVisible();
    await needs.getByRole('button', { name: 'Set the stage' }).click();
    await expect(needs).toBeHidden();
    await expect(page.getByLabel('Stage', { exact: true })).toHaveValue('shelf-met');
    await expect(page.getByRole('listitem').filter({ hasText: stays }).first()).toBeVisible();
  });
});
