// Values that are carried over: from a link's target, from the document before; typed over, filled again.
import AxeBuilder from '@axe-core/playwright';
import { expect, publishByHand as publish, test, useServer } from './pelto.mjs';

const pelto = useServer();

const define = async (henna, part, label, choices) => {
  await henna.goto(`${pelto.url}/setup/fields/new?type=${part.split('/')[0]}&part=${part.split('/')[1]}`);
  await henna.getByLabel('Label on screens').fill(label);
  await henna.getByRole('radio', { name: 'Choice', exact: true }).check({ force: true });
  await henna.getByLabel('Choices, one per line').fill(choices);
};

const choose = async (page, target, number) => {
  await page.locator(`input[data-pick=${target}]`).first().fill(number);
  await page.getByRole('option', { name: new RegExp(number) }).first().waitFor();
  await page.keyboard.press('Enter');
};

// The page of a saved record says its id; what it was opened with goes from the address once its scripts are there.
const savedAs = async (page, type) => {
  await page.waitForURL(new RegExp(`/records/${type}/\\d+`));
  return page.url().match(new RegExp(`/${type}/(\\d+)`))[1];
};

test('the customer’s certificate wishes come to the order, can be typed over and brought back by a key, and go along to delivery and invoice', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  const choices = 'none = No certificate\nc22 = EN 10204 2.2\nc31 = EN 10204 3.1';
  await define(henna, 'partner/header', 'Certificates', choices);
  await publish(henna, 'What customers want');
  await define(henna, 'sales_order/header', 'Certificates', choices);
  await henna.getByText('The same field elsewhere, and printing').click();
  for (const where of ['Delivery', 'Sales invoice']) await henna.getByLabel(`Also on ${where}`, { exact: true }).check();
  await henna.getByLabel(/Carried along/).check();
  await henna.getByRole('radio', { name: 'A formula' }).check({ force: true });
  await henna.getByRole('textbox', { name: 'Formula', exact: true }).fill('customer.certificates');
  await henna.getByRole('radio', { name: /Carried over when/ }).check();
  await expect(henna.locator('#proof')).toContainText('It is filled when Customer is chosen, and stays as it was then.');
  await publish(henna, 'Carried to all that follows');

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/partner/1`);
  await eero.getByLabel('Certificates').selectOption('c31');
  await eero.keyboard.press('Control+s');
  await eero.getByText('Saved.').waitFor();

  // Chosen by the keyboard: terms and wishes come along, an item brings its name and price.
  await eero.goto(`${pelto.url}/records/sales_order/new`);
  await choose(eero, 'partner', 'P-0001');
  await expect(eero.getByLabel('Certificates')).toHaveValue('c31');
  await expect(eero.locator('.f', { hasText: 'Certificates' }).locator('[data-note]')).toContainText('From Customer.');
  await eero.getByRole('button', { name: /Add a line/ }).click();
  await choose(eero, 'item', 'SHB-22');
  const [name, price] = pelto.sql("SELECT name || '|' || price FROM erp.item WHERE number = 'SHB-22'").split('|');
  await expect(eero.getByLabel('Description')).toHaveValue(name);
  await expect(eero.getByLabel('Price')).toHaveValue(price);

  // Typed over: another quantity leaves it, the note says so, Alt B brings it back.
  await eero.getByLabel('Price').fill('30');
  await eero.getByLabel('Quantity').fill('4');
  await expect(eero.getByLabel('Amount')).toHaveText('120.00');
  await eero.getByLabel('Price').focus();
  await expect(eero.getByText(`Typed over by Eero Lahdenmaa. Otherwise ${price}.`)).toBeVisible();
  const axe = await new AxeBuilder({ page: eero }).setLegacyMode(true).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze();
  expect(axe.violations.map(violation => violation.id)).toEqual([]);
  await eero.keyboard.press('Alt+b');
  await expect(eero.getByLabel('Price')).toHaveValue(price);
  await eero.getByLabel('Certificates').selectOption('c22');
  await eero.keyboard.press('Control+s');
  await eero.getByText('Saved.').waitFor();
  const order = await savedAs(eero, 'sales_order');
  expect(pelto.sql(`SELECT certificates || ' ' || (origins::jsonb -> (SELECT key FROM jsonb_each(origins::jsonb) WHERE key LIKE 'f-%') ->> 'by') FROM added.sales_order WHERE id = ${order}`)).toBe('c22 Eero Lahdenmaa');

  // The next documents take what stands on the one before, not what the customer says.
  const kaisa = await person(pelto, 'Eero Lahdenmaa');
  await kaisa.goto(`${pelto.url}/records/sales_order/${order}`);
  await expect(kaisa.locator('.f', { hasText: 'Certificates' }).locator('[data-note]')).toContainText(/Typed over by Eero Lahdenmaa, .*Otherwise EN 10204 3.1./);
  await kaisa.goto(`${pelto.url}/records/delivery/new?from=sales_order/${order}`);
  await expect(kaisa.getByLabel('Certificates')).toHaveValue('c22');
  await choose(kaisa, 'warehouse', 'W-01');
  await kaisa.keyboard.press('Control+s');
  await kaisa.getByText('Saved.').waitFor();
  await expect(kaisa.locator('.f', { hasText: 'Certificates' }).locator('[data-note]')).toContainText(/From Sales order, /);
  const delivery = await savedAs(kaisa, 'delivery');
  await kaisa.goto(`${pelto.url}/records/sales_invoice/new?from=delivery/${delivery}`);
  await expect(kaisa.getByLabel('Certificates')).toHaveValue('c22');
});
