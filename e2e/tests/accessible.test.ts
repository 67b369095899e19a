import { expect, test } from '@playwright/test';
import { base, call, expectAccessible, idle, signIn } from '../support/world';

const LONG = 'Wilhelmina-Konstantinopolitana Featherstonehaugh-Cholmondeley of the Upper Far Fields beyond Saltwick';

/** A little of everything, awkward names among it. */
async function furnish(): Promise<void> {
  await call('PUT', '/api/v1/definitions', {
    families: [{ key: 'look', name: 'Look', prefix: 'look', purpose: 'what they like', many: true }],
    tags: [{ key: 'look.glossy', name: 'likes glossy', family: 'look' }],
    forms: [
      {
        key: 'looks',
        name: `Looks: ${LONG}`,
        published: true,
        questions: [
          { key: 'email', label: 'Email', type: 'email', required: true },
          { key: 'look', label: 'Which?', type: 'one choice', options: [{ key: 'a', name: 'A' }] },
        ],
      },
    ],
    scorecards: [
      {
        key: 'liking',
        name: 'Liking',
        bands: [
          { key: 'low', name: 'low', from: 0 },
          { key: 'high', name: 'high', from: 10 },
        ],
        lines: [{ key: 'visits', kind: 'activity', type: 'page.visited', points: 4, counts: 'every time', keeps: 'forever' }],
      },
    ],
    audiences: [
      {
        key: 'lookers',
        name: `Lookers ${LONG}`,
        kind: 'live',
        condition: {
          match: 'any',
          of: [
            { kind: 'tag', tag: 'look.glossy', op: 'has' },
            { kind: 'signal', type: 'page.visited', within: { last: 30, unit: 'days' } },
          ],
        },
      },
    ],
    messages: [
      {
        key: 'looks',
        name: 'Looks',
        subject: 'Hello',
        text: 'Hello [given-name or "there"]',
        links: [{ key: 'a', label: 'A', tag: 'look.glossy' }],
        audience: 'lookers',
      },
    ],
    rules: [
      {
        key: 'visits',
        name: 'Visitors',
        when: { kind: 'signal', type: 'page.visited' },
        then: [{ do: 'add tag', tag: 'look.glossy' }],
        on: true,
      },
    ],
  });
  await call('PUT', '/api/v1/definitions', {
    fields: [{ key: 'seats', name: 'seats', of: 'company', type: 'number' }],
    ladder: [{ key: 'heard', name: 'heard of us' }],
    pipelines: [{ key: 'deals', name: 'Deals', stages: [{ key: 'open', name: 'open' }] }],
    audiences: [
      { key: 'guests', name: 'Guests', kind: 'fixed' },
      { key: 'visits', name: 'To be visited', kind: 'fixed', of: 'company' },
    ],
    routing: [{ key: 'desk', name: 'Desk', rows: [{ key: 'all', owners: ['wren@fernhollow.example'] }] }],
    bundles: [{ key: 'greet', name: 'Greet', then: [{ action: { do: 'make task', title: LONG.slice(0, 80) } }] }],
  });
  await call('PUT', '/api/v1/companies', {
    companies: [{ outsideId: 'c1', name: LONG.slice(0, 120), fields: { seats: 40 }, lists: { visits: true } }],
  });
  await call('PUT', '/api/v1/contacts', {
    contacts: [
      {
        email: 'long@names.example',
        company: 'c1',
        part: 'decider',
        stage: 'heard',
        lists: { guests: true },
        fields: { 'given-name': LONG.slice(0, 60), 'family-name': '<script>alert(1)</script>' },
        consent: { email: 'given' },
      },
    ],
  });
  await call('POST', '/api/v1/tasks', { contact: 'long@names.example', title: LONG.slice(0, 200), due: '2026-01-01', for: null });
  await call(
    'POST',
    '/api/v1/signals',
    {
      specversion: '1.0',
      source: 'axe',
      id: 'v1',
      type: 'page.visited',
      subject: 'long@names.example',
      data: { path: '/glazes', title: LONG },
    },
    'application/cloudevents+json',
  );
  await idle();
}

test('every screen is free of serious faults of accessibility, in both themes', async ({ browser }) => {
  // Some fifty screens, each read whole by the checker in both themes: seconds apiece on a small machine.
  test.setTimeout(1_200_000);
  await furnish();
  // The checker opens a page of its own beside it, so the context is made first.
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await page.goto(`${base()}/sign-in`);
  await expectAccessible(page, 'sign in');
  await signIn(page);
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'flour');
  const { id } = await call<{ id: string }>('GET', '/api/v1/contacts/long@names.example');
  const place = await call<{ id: string }>('GET', '/api/v1/companies/c1');
  const screens = [
    '/',
    '/tasks',
    '/people',
    `/people/${id}`,
    '/intake',
    '/intake/import',
    '/intake/forms/looks',
    '/intake/stream',
    '/intake/webhooks/new',
    '/intake/watched/new',
    '/intake/site',
    '/intake/files',
    '/intake/stand-ins',
    '/tags',
    '/tags?show=look',
    '/rules',
    '/rules/visits',
    '/rules/ladder/funnel',
    '/rules/depends/all',
    '/scores',
    '/scores/liking',
    '/audiences',
    '/audiences/lookers',
    '/audiences/new',
    '/audiences/visits',
    '/campaigns',
    '/campaigns/looks',
    '/campaigns/post-room',
    '/ledger',
    '/people/companies',
    '/people/deals',
    '/people/deals?show=table',
    '/people/duplicates',
    '/people/worklists',
    '/people/changes',
    `/people/companies/${place.id}`,
    '/rules/bundles/greet',
    '/rules/maps/new',
    '/rules/routing/desk',
    '/audiences/guests',
    '/tags/look.glossy',
    '/tags/families/look',
    '/settings/fields/seats',
    '/settings/account',
    '/settings',
    '/settings/fields',
    '/settings/stages',
    '/settings/signal-types',
    '/settings/signal-types/order.placed',
    '/ledger?cause=signal',
    '/settings/people',
    '/settings/keys',
    '/nowhere',
  ];
  for (const screen of screens) {
    await page.goto(`${base()}${screen}`);
    await page.waitForLoadState('networkidle').catch(() => undefined);
    await expect(page.locator('main')).not.toContainText('Loading');
    await expectAccessible(page, screen);
  }
  await page.goto(`${base()}/people/${id}`);
  await page.getByRole('button', { name: 'Why look.glossy?' }).click();
  await expect(page.getByRole('complementary', { name: 'Trace' })).toContainText('Signal page.visited');
  await expectAccessible(page, 'trace');
  await page.goto(`${base()}/audiences/lookers`);
  await page.getByRole('tab', { name: /Pinned/ }).click();
  await expect(page.getByRole('form', { name: 'Pin someone' })).toBeVisible();
  await expectAccessible(page, 'pins');
  for (const view of ['map', 'look', 'try', 'results']) {
    await page.goto(`${base()}/intake/forms/looks?view=${view}`);
    await expect(page.getByRole('tab', { selected: true })).toBeVisible();
    await page.waitForLoadState('networkidle').catch(() => undefined);
    await expectAccessible(page, `form, ${view}`);
  }
  await page.goto(`${base()}/f/looks`);
  await expect(page.getByRole('heading')).toBeVisible();
  await expectAccessible(page, 'public form');
  await page.close();
});

test('on a machine that is set to dark, it is dark', async ({ browser }) => {
  const page = await browser.newPage({ colorScheme: 'dark' });
  await signIn(page);
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'kiln');
  await page.close();
});

test('a page that is 390 wide can be read and gone through', async ({ browser }) => {
  const page = await browser.newPage({ viewport: { width: 390, height: 800 } });
  await signIn(page);
  await page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: 'Audiences' }).click();
  await expect(page.getByRole('heading', { name: /Audiences/ })).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await page.close();
});
