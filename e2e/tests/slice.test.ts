import { expect, test, type Page } from '@playwright/test';
import { base, call, idle, signIn } from '../support/world';

const CSV = `Email,First name,Last name,Own kiln,May email
ottoline@farrow.example,Ottoline,Farrow,no,yes
bjorn@akerlid.example,Björn,Åkerlid,maybe,yes
imani@okoro.example,Imani,Okoro-Vale,yes,no
not an address,Nobody,Here,no,yes
"teodor@halasz.example","Teodor ""Teo""",Halasz,no,
`;

/** The key that makes a new one of what the page lists, once the page is there. */
async function pressNew(page: Page): Promise<void> {
  await expect(page.locator('[data-new]')).toBeVisible();
  await page.keyboard.press('n');
}

test.describe.serial('from a form answer to a sent campaign', () => {
  test.beforeAll(async () => {
    await call('PUT', '/api/v1/definitions', {
      name: 'Fernhollow Clayworks',
      fields: [{ key: 'own-kiln', name: 'has own kiln', of: 'contact', type: 'yes/no' }],
    });
  });

  test('a person signs in, and a wrong password does not', async ({ page }) => {
    await page.goto(`${base()}/people`);
    await expect(page).toHaveURL(/sign-in/);
    await page.getByLabel('Email').fill('wren@fernhollow.example');
    await page.getByLabel('Password').fill('not it');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByRole('alert')).toContainText('Email or password is not right');
    await signIn(page);
  });

  test('contacts come from a CSV file, and rows that are wrong say why', async ({ page }) => {
    await signIn(page);
    await page.keyboard.press('g');
    await page.keyboard.press('i');
    await page.getByRole('link', { name: 'Import a file' }).click();
    await page.locator('input[type=file]').setInputFiles({ name: 'people.csv', mimeType: 'text/csv', buffer: Buffer.from(CSV) });
    await expect(page.getByLabel('Column Email goes to')).toHaveValue('email');
    await expect(page.getByLabel('Column First name goes to')).toHaveValue('field:given-name');
    await page.getByLabel('Column Own kiln goes to').selectOption('field:own-kiln');
    await page.getByRole('button', { name: 'Import', exact: true }).click();
    await expect(page.getByText('3 new, 0 brought up to date, 0 left as they were, 2 refused')).toBeVisible();
    await expect(page.getByText('line 3')).toBeVisible();
    await expect(page.getByText(/needs yes or no/)).toBeVisible();
    await expect(page.getByText(/an email address like/)).toBeVisible();
    await page.getByRole('link', { name: 'To the people' }).click();
    await expect(page.getByRole('link', { name: 'Teodor "Teo" Halasz' })).toBeVisible();
    await expect(page.getByRole('heading', { name: 'People: 3' })).toBeVisible();
  });

  test('a tag plan, a form with questions, and its public page', async ({ page, browser }) => {
    await signIn(page);
    await page.goto(`${base()}/tags`);
    await page.getByLabel('Name of the family').fill('Snag');
    await page.getByLabel('New tag: who has it?').fill('price');
    await page.getByRole('button', { name: 'Add tag' }).click();
    await expect(page.getByText('snag.price', { exact: true })).toBeVisible();

    await page.goto(`${base()}/intake`);
    await pressNew(page);
    await page.getByLabel('Name of the form').fill('Find your clay');
    await page.getByRole('button', { name: '+ one choice' }).click();
    await page.getByLabel('Question', { exact: true }).first().fill('What stops you?');
    await page.getByLabel('Question', { exact: true }).first().blur();
    await page.getByRole('button', { name: '+ choice' }).click();
    await page.keyboard.type('Price');
    await page.keyboard.press('Enter');
    await page.keyboard.type('Time');
    await page.keyboard.press('Tab');
    await page.getByRole('button', { name: '+ text', exact: true }).click();
    await page.keyboard.type('Your first name');
    await page.keyboard.press('Tab');
    await page.getByLabel('Field that keeps Your first name').selectOption({ label: 'given name' });
    await page.getByRole('button', { name: '+ several choices' }).click();
    await page.keyboard.type('What do you make?');
    await page.keyboard.press('Tab');
    const makes = page.getByRole('group', { name: 'Choices of What do you make?' });
    await makes.getByRole('button', { name: '+ choice' }).click();
    await page.keyboard.type('Bowls');
    await page.keyboard.press('Enter');
    await page.keyboard.type('Mugs');
    await page.keyboard.press('Tab');
    // Who has never made anything is not asked what they make; only those who say that the price stops them are asked for more.
    await page.getByRole('button', { name: '+ long text' }).click();
    await page.keyboard.type('What would help you?');
    await page.keyboard.press('Tab');
    await page.getByRole('button', { name: 'Help and way of What would help you?' }).click();
    await page.getByRole('button', { name: 'Ask it only if …' }).click();
    await page.getByLabel('Question of What would help you?, condition 1').selectOption({ label: '“What stops you?”' });
    await expect(page.getByRole('group', { name: 'Choices of What would help you?, condition 1' }).getByLabel('Price')).toBeChecked();
    await expect(page.getByRole('complementary', { name: 'Ways through the form' })).toContainText(
      'From “What do you make?” to “What would help you?”',
    );
    await page.getByRole('tab', { name: 'Answer map' }).click();
    const helps = page.getByRole('region', { name: 'What would help you?' });
    await helps.getByRole('button', { name: '+ group of answers' }).click();
    await helps.getByLabel('Name of group 1').fill('Cheaper');
    await helps.getByLabel('Words of Cheaper').fill('cheaper, billigare');
    await helps.getByRole('button', { name: '+ action' }).click();
    await page.getByRole('button', { name: 'Publish' }).click();
    await expect(page.getByRole('link', { name: '/f/find-your-clay' })).toBeVisible();

    const visitor = await browser.newPage();
    await visitor.goto(`${base()}/f/find-your-clay`);
    await visitor.getByRole('button', { name: 'Go on' }).click();
    await visitor.getByRole('button', { name: 'Send' }).click();
    await expect(visitor.getByRole('alert')).toContainText('Nothing you wrote is lost');
    await visitor.close();
  });

  test('a rule is rehearsed and turned on', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/rules`);
    await pressNew(page);
    await page.getByLabel('Name of the rule').fill('The price stops them');
    await expect(page.getByLabel('What sets it off')).toHaveValue(/\d+/);
    await page.getByRole('button', { name: '+ detail' }).first().click();
    await page.getByLabel('detail', { exact: true }).nth(1).selectOption({ label: 'answer to “What stops you?” (Find your clay)' });
    await page.getByLabel('detail: value').nth(1).selectOption({ label: 'Price' });
    await expect(page.getByRole('button', { name: 'Turn on' })).toBeDisabled();
    await page.getByRole('button', { name: /Rehearse/ }).click();
    await expect(page.getByRole('region', { name: 'Rehearsal' }).locator('[data-touched]')).toContainText('0');
    await page.getByRole('button', { name: 'Turn on' }).click();
    await expect(page.getByText('The price stops them is on.')).toBeVisible();
    await idle();
  });

  test('a scorecard gives points for the tag, an order, an opened message', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/scores`);
    await pressNew(page);
    await page.getByLabel('Name of the scorecard').fill('Keenness');
    await page.getByRole('button', { name: '+ for a fact' }).click();
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).fill('has tag snag.price');
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).press('Enter');
    await page.getByRole('button', { name: '+ for something that happens' }).click();
    await page.getByLabel('Points of line 2').fill('20');
    await page.getByRole('button', { name: '+ for something that happens' }).click();
    await page.getByLabel('What has to happen').selectOption({ label: 'opened a message' });
    await page.getByLabel('How often it counts').selectOption('day');
    await page.getByLabel('How long its points stay').selectOption('halveEvery');
    await page.getByLabel('Points of line 3').fill('5');
    await page.getByRole('button', { name: 'Keep scorecard' }).click();
    await expect(page.getByText('Keenness is kept.')).toBeVisible();
    await idle();
  });

  test('an audience is built by picking and typing, and a new contact arrives in it by itself, with its trace', async ({
    page,
    browser,
  }) => {
    await signIn(page);
    await page.goto(`${base()}/audiences/new`);
    await page.getByLabel('Name of the audience').fill('Price-shy and keen');
    await page.getByRole('button', { name: 'Add a line about' }).click();
    await page.getByRole('combobox', { name: 'Add a line about' }).fill('price');
    await page.getByRole('option', { name: /^snag.price/ }).click();
    await expect(page.locator('[data-outline]')).toContainText('has the tag snag.price');
    await page.getByRole('button', { name: 'Close' }).click();
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).pressSequentially('Keenness at lea');
    await expect(page.getByRole('option', { name: /at least/ })).toBeVisible();
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).press('Enter');
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).pressSequentially('5');
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).press('Enter');
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).fill('did anything in the last 30 days');
    await page.getByRole('combobox', { name: 'Type a line', exact: true }).press('Enter');
    await expect(page.locator('[data-outline]')).toContainText('in the last 30 days');
    await expect(page.locator('[data-count]')).toHaveText('0 people');
    await page.getByRole('button', { name: 'Keep audience' }).click();
    await expect(page).toHaveURL(/audiences\/price-shy-and-keen/);
    await idle();

    const visitor = await browser.newPage();
    await visitor.goto(`${base()}/f/find-your-clay`);
    await visitor.getByLabel('Price').check();
    await visitor.getByRole('button', { name: 'Go on' }).click();
    await visitor.getByLabel('Bowls').check();
    await visitor.getByLabel('What would help you?').fill('Något billigare.');
    await visitor.getByLabel('Your first name').fill('Pernille');
    await visitor.getByLabel(/Your email address/).fill('pernille@dahlgaard.example');
    await visitor.getByLabel('You may write to me by email').check();
    await visitor.getByRole('button', { name: 'Send' }).click();
    await expect(visitor.getByText('Thank you.')).toBeVisible();
    await visitor.close();

    // Nobody reloads the page.
    await expect(page.locator('[data-count]')).toHaveText('1 person');
    await page.getByRole('link', { name: 'Pernille' }).click();
    await expect(page.getByRole('heading', { name: /Pernille/ })).toBeVisible();
    await page.getByRole('button', { name: 'Why in Price-shy and keen?' }).click();
    const trace = page.getByRole('complementary', { name: 'Trace' });
    for (const step of [
      'The lines hold',
      'Came into Price-shy and keen',
      'Tag snag.price added',
      'Rule The price stops them ran',
      'Signal form.answered',
    ])
      await expect(trace).toContainText(step);
    await page.keyboard.press('Escape');
    await expect(trace).toBeHidden();
  });

  test('a message is written, sent, read, and answered by a click that moves its reader', async ({ page, browser }) => {
    await signIn(page);
    await page.goto(`${base()}/campaigns`);
    await pressNew(page);
    await page.getByLabel('Name of the message').fill('Which clay are you?');
    await page.getByLabel('To', { exact: true }).selectOption({ label: 'Price-shy and keen' });
    await page.getByLabel('Subject').fill('A question, [given-name or "friend"]');
    await page.getByLabel('Words of a new link').fill('Glossy');
    await page.getByRole('button', { name: '+ choice link' }).click();
    await page.getByLabel('Text', { exact: true }).fill('Hello [given-name or "there"], which one? [glossy]');
    await page.getByRole('button', { name: 'Keep message' }).click();
    await expect(page.getByRole('region', { name: 'Recipients' })).toContainText('1 person gets it');
    await expect(page.getByRole('region', { name: 'Recipients' })).toContainText('Hello Pernille, which one? Glossy');

    await page.goto(`${base()}/tags`);
    await page.getByLabel('Family').selectOption('+');
    await page.getByLabel('Name of the family').fill('Wish');
    await page.getByLabel('New tag: who has it?').fill('glossy');
    await page.getByRole('button', { name: 'Add tag' }).click();
    await expect(page.getByText('wish.glossy', { exact: true })).toBeVisible();
    await page.goto(`${base()}/campaigns/which-clay-are-you`);
    await page.getByLabel('Tag of link 1').selectOption({ label: 'wish.glossy' });
    await page.getByRole('button', { name: 'Keep changes' }).click();
    await expect(page.getByText('Which clay are you? is kept.')).toBeVisible();
    await page.getByRole('button', { name: 'Send …' }).click();
    await page.getByRole('button', { name: 'Send to 1 person' }).click();
    await expect(page.getByText('On its way to 1 person.')).toBeVisible();

    await page.goto(`${base()}/campaigns/post-room`);
    await expect(page.getByRole('article', { name: 'The message' })).toContainText('A question, Pernille');
    await page.getByRole('button', { name: 'Open it' }).click();
    await expect(page.getByText('Pernille opened it.')).toBeVisible();
    const link = await page.getByRole('article').getByRole('link', { name: 'Glossy' }).getAttribute('href');
    const reader = await browser.newPage();
    await reader.goto(link ?? '');
    await expect(reader.getByText('You chose Glossy')).toBeVisible();
    await reader.close();
    await idle();
    await page.getByRole('article').getByRole('link', { name: 'Pernille' }).click();
    await expect(page.getByText('wish.glossy').first()).toBeVisible();
    await expect(page.getByText(/Clicked in a message: “Glossy” in Which clay are you/).first()).toBeVisible();
    await expect(page.getByText('opened messages').or(page.getByText('line-3')).first()).toBeVisible();
  });

  test('who unsubscribes is held back from the next send', async ({ page, browser }) => {
    await signIn(page);
    await page.goto(`${base()}/campaigns/post-room`);
    const href = await page.getByRole('link', { name: 'To hear no more from us' }).getAttribute('href');
    const reader = await browser.newPage();
    await reader.goto(href ?? '');
    await reader.getByRole('button', { name: 'Yes, stop writing to me' }).click();
    await expect(reader.getByRole('heading', { name: 'Done' })).toBeVisible();
    await reader.close();
    await idle();
    await page.goto(`${base()}/campaigns/which-clay-are-you`);
    await expect(page.getByRole('region', { name: 'Recipients' })).toContainText('0 people get it');
    await expect(page.getByRole('region', { name: 'Recipients' })).toContainText('1 held back: has withdrawn consent to email');
    await expect(page.getByRole('button', { name: 'Send …' })).toBeDisabled();
  });

  test('an order by the API does the same, and once', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/people`);
    await page.getByRole('link', { name: 'Ottoline Farrow' }).click();
    await expect(page.getByText('The contact was added')).toBeVisible();
    await expect(page.getByText(/^Ordered/)).toBeHidden();
    const order = {
      specversion: '1.0',
      source: 'shop',
      id: 'order-90417',
      type: 'order.placed',
      subject: 'OTTOLINE@farrow.example',
      data: {
        order: '90417',
        items: [{ product: 'Celadon glaze 1 l', line: 'glaze', quantity: 1, amount: '48.00' }],
        amount: '48.00',
        currency: 'SEK',
      },
    };
    expect(await call('POST', '/api/v1/signals', order, 'application/cloudevents+json')).toMatchObject({ accepted: 1, duplicates: 0 });
    await expect(page.getByText(/Ordered: Celadon glaze 1 l/).first()).toBeVisible();
    await expect(page.locator('main')).toContainText('20 Keenness');
    expect(await call('POST', '/api/v1/signals', order, 'application/cloudevents+json')).toMatchObject({ accepted: 0, duplicates: 1 });
    await idle();
    await page.reload();
    await expect(page.locator('main')).toContainText('20 Keenness');
  });

  test('search finds contacts and definitions, the ledger shows what was done, keys work', async ({ page }) => {
    await signIn(page);
    await page.keyboard.press('/');
    await page.getByPlaceholder(/a name, an address/).fill('pernille');
    await expect(page.getByRole('option', { name: /pernille@dahlgaard.example/ })).toBeVisible();
    await page.getByPlaceholder(/a name, an address/).fill('price-shy');
    await page.getByRole('option', { name: /Price-shy and keen/ }).click();
    await expect(page).toHaveURL(/audiences\/price-shy-and-keen/);
    await page.keyboard.press('g');
    await page.keyboard.press('l');
    await expect(page.getByRole('heading', { name: 'Ledger' })).toBeVisible();
    await expect(page.getByText('came into Price-shy and keen').first()).toBeVisible();
    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog', { name: 'Keys' })).toBeHidden();
  });

  test('the time zone, a field and a key are made in the settings', async ({ page }) => {
    await signIn(page);
    await page.goto(`${base()}/settings`);
    await page.getByRole('link', { name: 'Fields' }).click();
    await page.getByLabel('New field').fill('favourite glaze');
    await page.getByRole('button', { name: 'Add field' }).click();
    await expect(page.getByRole('cell', { name: 'favourite-glaze' })).toBeVisible();
    await page.getByRole('link', { name: 'Keys and the API' }).click();
    await page.getByLabel('New key, for').fill('the till');
    await page.getByRole('button', { name: 'Make key' }).click();
    const key = await page.locator('code').textContent();
    expect(key).toMatch(/^sieve_/);
    const answer = await fetch(`${base()}/api/v1/definitions`, { headers: { authorization: `Bearer ${key}` } });
    expect(answer.status).toBe(403);
    await page.getByRole('button', { name: 'Revoke the till' }).click();
    await expect(page.getByText('revoked')).toBeVisible();
  });
});
