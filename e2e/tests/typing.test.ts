import { expect, test, type Page } from '@playwright/test';
import { base, call, idle, signIn } from '../support/world';

const PLACES = [
  { key: 'harbour', name: 'Harbour side' },
  { key: 'upper', name: 'Upper Fern' },
];
/** Whom the hardest audience of all asks for, and who misses it by one line each. */
const PEOPLE: readonly (readonly [email: string, fields: object, more: object, line: string, orders: number])[] = [
  ['lives-there', { 'wheel-years': 3, side: 'harbour' }, {}, 'glaze', 1],
  ['glows', { 'wheel-years': 3 }, {}, 'glaze', 2],
  ['neither', { 'wheel-years': 3 }, {}, 'glaze', 1],
  ['began', { 'wheel-years': 1, side: 'upper' }, {}, 'glaze', 1],
  ['clay', { 'wheel-years': 3, side: 'upper' }, {}, 'clay', 1],
  ['buys-a-wheel', { 'wheel-years': 3, side: 'upper' }, { tags: { 'buys.wheel': true } }, 'glaze', 1],
  ['withdrew', { 'wheel-years': 3, side: 'upper' }, { consent: { email: 'withdrawn' } }, 'glaze', 1],
];
const SENTENCE =
  'People who ordered an item whose line is glaze in the last 120 days, whose years at the wheel is more than 1, who do not have the tag buys.wheel, ' +
  'whose consent to email is not withdrawn, who are in Those of the test, and either whose side is Harbour side or Upper Fern or whose Glow is bright.';

test.describe('the hardest audience', () => {
  test.beforeAll(async () => {
    await call('PUT', '/api/v1/definitions', {
      fields: [
        { key: 'wheel-years', name: 'years at the wheel', of: 'contact', type: 'number' },
        { key: 'side', name: 'side', of: 'contact', type: 'one choice', options: PLACES },
      ],
      families: [{ key: 'buys', name: 'Buys', prefix: 'buys', purpose: '', many: true }],
      tags: [{ key: 'buys.wheel', name: 'is buying a wheel', family: 'buys' }],
      scorecards: [
        {
          key: 'glow',
          name: 'Glow',
          bands: [
            { key: 'dim', name: 'dim', from: 0 },
            { key: 'bright', name: 'bright', from: 20 },
          ],
          lines: [{ key: 'orders', kind: 'activity', type: 'order.placed', points: 10, counts: 'every time', keeps: 'forever' }],
        },
      ],
      audiences: [
        {
          key: 'those-of-the-test',
          name: 'Those of the test',
          kind: 'live',
          condition: { kind: 'field', field: 'email', op: 'ends with', value: 'typing.example' },
        },
      ],
    });
    await call('PUT', '/api/v1/contacts', {
      contacts: PEOPLE.map(([name, fields, more]) => ({ email: `${name}@typing.example`, fields, ...more })),
    });
    const orders = PEOPLE.flatMap(([name, , , line, count]) =>
      Array.from({ length: count }, (_, n) => ({
        specversion: '1.0',
        source: 'typing',
        id: `${name} ${n}`,
        type: 'order.placed',
        subject: `${name}@typing.example`,
        data: { order: `${name} ${n}`, items: [{ product: 'One', line }] },
      })),
    );
    await call('POST', '/api/v1/signals', orders, 'application/cloudevents-batch+json');
    await idle();
  });

  const begin = async (page: Page): Promise<void> => {
    await signIn(page);
    await page.goto(`${base()}/audiences/new`);
  };
  const stands = async (page: Page): Promise<void> => {
    await expect(page.getByText(SENTENCE)).toBeVisible();
    await expect(page.locator('[data-count]')).toHaveText('2 people');
    await expect(page.getByText('lives-there@typing.example')).toBeVisible();
    await expect(page.getByText('glows@typing.example')).toBeVisible();
  };
  const typed = (page: Page) => page.getByRole('combobox', { name: 'Type a line', exact: true });

  test('is pasted as text', async ({ page }) => {
    await begin(page);
    await typed(page).focus();
    const lines = [
      '• ordered an item whose line is glaze in the last 120 days',
      '• years at the wheel is more than 1',
      '• does not have the tag buys.wheel',
      '• consent to email is not withdrawn',
      '• is in Those of the test',
      '• side is Harbour side or Upper Fern, or Glow is bright',
    ];
    await page.evaluate((text) => {
      const data = new DataTransfer();
      data.setData('text/plain', text);
      document.activeElement?.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
    }, lines.join('\n'));
    await stands(page);
  });

  test('is typed as people say it, without a mouse', async ({ page }) => {
    await begin(page);
    for (const line of [
      'bought glaze in the last 120 days',
      'more than a year at the wheel',
      'not tagged buys.wheel',
      'email consent not withdrawn',
      'in Those of the test',
      'Harbour side or Upper Fern or bright',
    ]) {
      await typed(page).focus();
      await page.keyboard.type(line);
      await page.keyboard.press('Enter');
      await expect(typed(page)).toHaveValue('');
    }
    await stands(page);
  });

  test('is picked with a mouse alone', async ({ page }) => {
    await begin(page);
    const add = async (name: RegExp): Promise<void> => {
      await page.getByRole('button', { name: 'Add a line about' }).click();
      await page.getByRole('option', { name }).click();
    };
    await add(/^ordered( [\d,]+)?$/);
    await page.getByRole('button', { name: '+ detail' }).click();
    await page.getByLabel('detail', { exact: true }).selectOption({ label: 'line of an item' });
    await page.getByLabel('detail: how').selectOption('is');
    await page.getByLabel('detail: value').fill('glaze');
    await page.getByLabel('when: how many').fill('120');
    await add(/^years at the wheel number/);
    await page.getByLabel('fact: how').selectOption({ label: 'more than' });
    await add(/^buys.wheel/);
    await page.getByLabel('has or lacks').selectOption({ label: 'they do not have it' });
    await add(/^consent$/);
    await page.getByRole('button', { name: 'turn round' }).last().click();
    await page.getByLabel('consent', { exact: true }).selectOption('withdrawn');
    await add(/^Those of the test/);
    await page.getByRole('button', { name: '+ group' }).click();
    await page.getByRole('button', { name: /^what the line is about/ }).click();
    await page.getByRole('option', { name: /^side one choice/ }).click();
    await page.getByLabel('fact: how').selectOption('is one of');
    for (const { name } of PLACES) await page.getByRole('checkbox', { name }).check();
    await page.getByRole('button', { name: '+ line' }).last().click({ force: true });
    await page.getByRole('button', { name: /^what the line is about/ }).click();
    await page.getByRole('option', { name: /^Glow dim/ }).click();
    await page.getByRole('button', { name: 'Close' }).click();
    await stands(page);
  });
});

test('search begins where one types', async ({ page }) => {
  await signIn(page);
  await page.keyboard.press('/');
  await page.keyboard.type('those of');
  await expect(page.getByRole('option', { name: /Those of the test/ })).toBeVisible();
});
