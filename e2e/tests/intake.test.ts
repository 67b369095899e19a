import { createServer, type Server } from 'node:http';
import { type AddressInfo } from 'node:net';
import { expect, test } from '@playwright/test';
import { base, call, idle, signIn } from '../support/world';

const tagsOf = async (email: string): Promise<readonly string[]> =>
  (await call<{ tags: { key: string }[] }>('GET', `/api/v1/contacts/${email}`)).tags.map(({ key }) => key);
const signalsOf = async (email: string) =>
  (await call<{ signals: { type: string; source: string; data: Record<string, unknown> }[] }>('GET', `/api/v1/contacts/${email}/signals`))
    .signals;

test.describe('from purchase to tag and back', () => {
  const BUYER = 'buyer@intake.example';
  const order = (type: string, id: string) =>
    call(
      'POST',
      '/api/v1/signals?wait=true',
      {
        specversion: '1.0',
        source: 'till',
        id: `${type} ${id}`,
        type,
        subject: BUYER,
        data: { order: id, items: [{ product: 'Celadon' }] },
      },
      'application/cloudevents+json',
    );

  test('a table of products is filled in; an order adds its tag, and the refund of the last one takes it away', async ({ page }) => {
    await call('PUT', '/api/v1/definitions', {
      families: [{ key: 'shade', name: 'Shade', prefix: 'shade', purpose: 'colours they buy', many: true }],
      tags: [{ key: 'shade.celadon', name: 'buys celadon', family: 'shade' }],
    });
    await signIn(page);
    await page.goto(`${base()}/rules/maps/new`);
    await page.getByLabel('Name of the signal map').fill('Colours they buy');
    await page.getByRole('button', { name: '+ row' }).click();
    await page.getByLabel('Value of row 1').fill('celadon');
    await page.getByLabel('Tags given by row 1').selectOption('shade.celadon');
    await page.getByRole('button', { name: 'Keep signal map' }).click();
    await expect(page.getByRole('heading', { name: 'Colours they buy' })).toBeVisible();
    await idle();

    await order('order.placed', 'o-1');
    await order('order.placed', 'o-2');
    await page.goto(`${base()}/people/${BUYER}`);
    const held = page.locator('li[data-fact]').filter({ hasText: 'shade.celadon' });
    await expect(held).toBeVisible();
    await order('order.refunded', 'o-1');
    // One of two orders stands, and so does the tag.
    expect(await tagsOf(BUYER)).toEqual(['shade.celadon']);
    await order('order.refunded', 'o-2');
    // The open page follows by itself.
    await expect(page.getByText('No tags.')).toBeVisible();
    await expect(held).toBeHidden();
    expect(await tagsOf(BUYER)).toEqual([]);
  });
});

test('orders come in from a file, rehearsed first, and take their place in time', async ({ page }) => {
  await signIn(page);
  await page.goto(`${base()}/intake/import`);
  await page.getByLabel('What the rows are').selectOption('signal');
  await page.getByLabel('Type of the signals').selectOption('order.placed');
  await page.locator('input[type=file]').setInputFiles({
    name: 'orders.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      'Email;Order date;Order number;SKU;Total\nfile@intake.example;24.12.2025;F-1;Ash glaze;120\nnobody;24.12.2025;F-2;Ash glaze;1\n',
    ),
  });
  await expect(page.getByLabel('Column SKU goes to')).toHaveValue('detail:items.product');
  await page.getByRole('button', { name: 'Rehearse' }).click();
  await expect(page.getByText('1 new, 0 here already, 1 would be refused')).toBeVisible();
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(page.getByText('The file is in: 1 new, 0 here already, 1 refused')).toBeVisible();
  await idle();
  expect(await signalsOf('file@intake.example')).toMatchObject([{ type: 'order.placed', source: 'import', data: { order: 'F-1' } }]);
});

test.describe('a site', () => {
  let site: Server;
  let origin: string;
  test.beforeAll(async () => {
    const head = `<script src="${base()}/site.js" defer></script>`;
    const page = (body: string): string =>
      `<!doctype html><html lang="en"><head><title>Wheels</title>${head}</head><body>${body}</body></html>`;
    site = createServer((_request, response) => {
      response.setHeader('content-type', 'text/html').end(page(`<a href="${base()}/f/join-us">Join us</a><a href="/kilns">Kilns</a>`));
    });
    await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
    // Another host than the server's, as a site has.
    origin = `http://localhost:${(site.address() as AddressInfo).port}`;
    await call('PUT', '/api/v1/definitions', {
      forms: [
        {
          key: 'join-us',
          name: 'Join us',
          published: true,
          questions: [{ key: 'email', label: 'Your email', type: 'email', required: true }],
          thanks: 'You are in.',
        },
      ],
    });
  });
  test.afterAll(() => site.close());

  test('tells of a visitor only once they agree; who answers a form is known, with what they did before', async ({ page, browser }) => {
    await signIn(page);
    await page.goto(`${base()}/intake/site`);
    await page.getByText('Listen to these sites').click();
    await page.getByLabel('Their addresses, one a line').fill(origin);
    await page.getByRole('button', { name: 'Keep' }).click();
    await expect(page.getByText('These sites are listened to.')).toBeVisible();

    const visitor = await browser.newPage({ locale: 'sv-SE', timezoneId: 'Europe/Stockholm' });
    const told: string[] = [];
    visitor.on('request', (request) => {
      if (request.url().includes('/site/')) told.push(request.postData() ?? '');
    });
    await visitor.goto(`${origin}/wheels?utm_campaign=spring`);
    await visitor.waitForFunction('window.sieve !== undefined');
    expect(await visitor.evaluate('localStorage.length')).toBe(0);
    expect(told).toEqual([]);
    const first = visitor.waitForResponse((response) => response.url().endsWith('/site/visit'));
    await visitor.evaluate('sieve.agree()');
    expect((await first).status()).toBe(204);
    const second = visitor.waitForResponse((response) => response.url().endsWith('/site/visit'));
    await visitor.getByRole('link', { name: 'Kilns' }).click();
    expect((await second).status()).toBe(204);
    await visitor.getByRole('link', { name: 'Join us' }).click();
    await visitor.getByLabel('Your email').fill('visitor@intake.example');
    await visitor.getByRole('button', { name: 'Send' }).click();
    await expect(visitor.getByText('You are in.')).toBeVisible();
    await idle();
    expect((await signalsOf('visitor@intake.example')).map(({ type, data }) => [type, data['path'] ?? data['form']]).sort()).toEqual([
      ['form.answered', 'join-us'],
      ['page.visited', '/kilns'],
      ['page.visited', '/wheels'],
    ]);
    await page.goto(`${base()}/people/visitor@intake.example`);
    await expect(page.getByText('sv-SE')).toBeVisible();
    await expect(page.getByText('spring', { exact: true })).toBeVisible();
    await visitor.close();
  });
});
