// The public form: made by the administrator, sent by somebody outside, decided on at the desk.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('a public form is made with proof beside it, sent from outside without losing a word, and accepted at the desk', async ({ person, browser }) => {
  const api = await pelto.api('administrator');
  const draft = await (await api('setup/draft')).json();
  draft.recordTypes.push({ id: 't-claim', code: 'claim', label: 'Claim', plural: 'Claims', numbering: { prefix: 'C-', withYear: true }, lines: [{ code: 'parts', label: 'Part', plural: 'Parts' }], read: ['*'], write: ['order_desk'] });
  draft.fields.push({ recordType: 'claim', code: 'customer', label: 'Customer', kind: 'link', target: 'partner' }, { recordType: 'claim', code: 'bought', label: 'Bought on', kind: 'date', required: true }, { recordType: 'claim', code: 'about', label: 'What happened', kind: 'long_text', length: 100000 }, { recordType: 'claim', code: 'verdict', label: 'Verdict', kind: 'text', required: true });
  expect((await api('setup/draft', { method: 'PUT', body: draft })).ok).toBe(true);

  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/types/t-claim`);
  await henna.getByRole('link', { name: 'Let people outside send them in' }).click();
  await henna.getByLabel('Heading').fill('Tell us what is wrong');
  await henna.getByLabel('Above the fields').fill('We answer within two days.');
  for (const label of ['Name', 'Bought on', 'Customer', 'What happened', 'Description']) await henna.getByRole('row', { name: label }).getByRole('checkbox').check();
  await expect(henna.locator('#proof').getByText(/Say which partners people outside may find in Customer/)).toBeVisible();
  await henna.getByLabel('Which partners people outside find in Customer').fill('country = "FI"');
  const finns = Number(pelto.sql(`SELECT count(*) FROM erp.partner WHERE country = 'FI'`));
  await expect(henna.locator('#proof').getByText(`${finns}: `)).toBeVisible();
  await henna.getByRole('button', { name: 'Move Bought on down' }).click();
  await expect(henna.locator('#proof .f label').nth(1)).toHaveText(/^What happened|^Customer/);
  await henna.getByRole('button', { name: 'Review and publish' }).click();
  await expect(henna.getByText('Adds the record type Claims with parts.')).toBeVisible();
  await henna.getByLabel(/Why does this/).fill('Claims come in by telephone and are lost');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();
  await henna.goto(`${pelto.url}/setup/types/t-claim/form`);
  const address = await henna.getByRole('link', { name: /\/form\// }).getAttribute('href');

  // Outside, in a browser in which nobody is signed in; the server is away when it is sent first.
  const context = await browser.newContext();
  const page = await context.newPage();
  await page.goto(pelto.url + address);
  await page.locator('body[data-ready]').waitFor();
  await page.getByLabel('Name').fill('Torn sling');
  await page.getByLabel('What happened').fill('It tore\nat the second lift.');
  const finn = pelto.sql(`SELECT number FROM erp.partner WHERE country = 'FI' ORDER BY id LIMIT 1`);
  await page.getByRole('combobox', { name: 'Customer' }).fill(finn);
  await page.locator('.options li', { hasText: finn }).waitFor();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Add a line' }).click();
  await page.getByRole('textbox', { name: 'Description' }).fill('Sling');
  await page.route(`**${address}`, route => route.abort());
  await page.getByRole('button', { name: 'Send' }).click();
  await expect(page.getByText('Not sent: nothing can be reached just now.')).toBeVisible();
  await page.unroute(`**${address}`);
  await page.getByRole('button', { name: 'Send' }).click();
  await expect(page.getByText('Bought on is required.')).toBeVisible();

  // More than the form takes, then less. (In words: a browser needs many seconds to lay out one word of 300,000 letters.)
  await page.getByLabel('What happened').evaluate(input => { input.value = 'It tore.\n'.repeat(10_000); });
  await page.getByLabel('Bought on').fill('11/2/2026');
  await page.getByRole('button', { name: 'Send' }).click();
  await expect(page.getByText('This is more than the form takes.')).toBeVisible();
  await page.getByLabel('What happened').evaluate(input => { input.value = 'It tore.\n'.repeat(33_000); });
  await page.getByRole('button', { name: 'Send' }).click();
  await expect(page.getByText(/Not sent: it may be more than the form takes|more than can be taken at once/)).toBeVisible();
  await page.getByLabel('What happened').fill('It tore.');
  await page.getByRole('button', { name: 'Send' }).click();
  await expect(page.getByText('It is here.')).toBeVisible();
  const reference = await page.locator('b.code').textContent();
  await page.goto(`${pelto.url}/records/claim`);
  await expect(page).toHaveURL(/sign-in/);
  await context.close();

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/claim`);
  await eero.getByRole('link', { name: /Sent in/ }).click();
  await eero.getByRole('button', { name: 'Refuse', exact: true }).click();
  await expect(eero.getByText(`${reference} is refused.`)).toBeVisible();
  await eero.getByRole('button', { name: 'Undo' }).click();
  await eero.getByRole('link', { name: 'Look and accept' }).click();
  await eero.locator('body[data-ready]').waitFor();
  await expect(eero.getByRole('textbox', { name: 'Description' })).toHaveValue('Sling');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Verdict is required.')).toBeVisible();
  await eero.getByLabel('Verdict').fill('ours');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
  await expect(eero.getByText(`Came from outside. Reference ${reference}, through “Tell us what is wrong”`)).toBeVisible();
  expect(pelto.sql(`SELECT state, record_id IS NOT NULL FROM pelto.entry`)).toBe('Accepted|t');

  // Closed, it says so.
  await henna.goto(`${pelto.url}/setup/types/t-claim/form`);
  await henna.getByLabel('Closed: it takes nothing for now, and says so').check();
  await henna.getByRole('button', { name: 'Review and publish' }).click();
  await expect(henna.getByText('Closes the public form of claims.')).toBeVisible();
  await henna.getByLabel(/Why does this/).fill('Holidays');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();
  const later = await (await browser.newContext()).newPage();
  await later.goto(pelto.url + address);
  await expect(later.getByText('This form is closed at the moment.')).toBeVisible();
  await later.context().close();
});
