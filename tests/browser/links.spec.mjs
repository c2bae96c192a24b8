// Links between records: defined, picked, followed back, and held.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('a link is defined and tried, picked at the desk, followed from its target, and holds that back from being deleted', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/fields/new?type=sales_order`);
  await henna.getByLabel('Label on screens').fill('Inspection body');
  await henna.getByRole('radio', { name: 'Link', exact: true }).check({ force: true });
  await expect(henna.getByLabel('Starting value')).toBeHidden();
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await expect(henna.getByText('Choose the record type that it points to.')).toBeVisible();
  await henna.getByLabel('Points to', { exact: true }).selectOption('Partners');
  await henna.getByLabel('Try a value').fill('P-0177');
  await expect(henna.getByText('Finds Selkäsaari Boatyard (P-0177).')).toBeVisible();
  await henna.getByRole('button', { name: 'Review and publish' }).click();
  await expect(henna.getByText(/^Adds Inspection body \(link to partners\) to sales orders/)).toBeVisible();
  await henna.getByLabel(/Why does this/).fill('Who examines what we deliver');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/sales_order/12`);
  await eero.getByRole('combobox', { name: 'Inspection body' }).fill('nobody of that name');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('There is no partner “nobody of that name”. Choose from the list that opens while you type.')).toBeVisible();
  await eero.getByRole('combobox', { name: 'Inspection body' }).fill('boatyard selk');
  await eero.locator('.options li', { hasText: 'P-0177' }).waitFor();
  await eero.keyboard.press('Enter');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();

  // The other direction: opened in place, then as a list that keeps the filter in its address.
  await eero.getByRole('link', { name: 'Go to Selkäsaari Boatyard (P-0177)' }).first().focus();
  await eero.goto(`${pelto.url}/records/partner/177`);
  const pointing = eero.getByRole('region', { name: 'What points here' });
  await pointing.getByText('by Inspection body').click();
  const number = pelto.sql('SELECT number FROM erp.sales_order WHERE id = 12');
  await expect(pointing.getByRole('link', { name: number })).toBeVisible();
  await eero.getByRole('button', { name: 'Delete' }).click();
  await expect(eero.getByText(/P-0177 stays: \d+ sales orders \(Customer\) and 1 sales order \(Inspection body\) still point to it\./)).toBeVisible();
  await pointing.getByText('by Inspection body').click();
  await pointing.getByRole('link', { name: /The same as a list/ }).click();
  await expect(eero.getByText('Inspection body is Selkäsaari Boatyard (P-0177)')).toBeVisible();
  await expect(eero.locator('#more-rows tr')).toHaveCount(1);
});

test('a list is filtered by what a record points to, by header and by line, typed as people call it', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order`);
  await page.getByText('Filter', { exact: true }).click();
  await page.getByLabel('Look in').selectOption('Order line: Item');
  await page.getByRole('combobox', { name: 'Value' }).fill('SHB-22');
  await page.locator('.options li', { hasText: 'SHB-22' }).first().waitFor();
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Add the filter' }).click();
  await expect(page.getByText(/^Order line: Item is .*\(SHB-22\)/)).toBeVisible();
  expect(String(await page.locator('#more-rows tr:not(.more)').count())).toBe(pelto.sql("SELECT least(50, count(DISTINCT parent)) FROM erp.sales_order_lines l JOIN erp.item i ON i.id = l.item WHERE i.number = 'SHB-22'"));
  await page.getByText('Filter', { exact: true }).click();
  await page.getByLabel('Look in').selectOption('Customer');
  await page.getByRole('combobox', { name: 'Value' }).fill('no such customer');
  await page.getByRole('button', { name: 'Add the filter' }).click();
  await expect(page.getByText('There is no partner “no such customer”. Choose from the list that opens while you type.')).toBeVisible();
});
