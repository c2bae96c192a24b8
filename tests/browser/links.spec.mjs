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
  await expect(eero.getByText(/P-0177 stays: .*\d+ sales orders \(Customer\), .*1 sales order \(Inspection body\).* still point to it\./)).toBeVisible();
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

test('in one draft a record type with numbers and lines is made and orders link to it; the desk makes a plan, and what points to it holds it', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/types`);
  await henna.getByRole('link', { name: 'Make one' }).click();
  await henna.getByLabel('One of them', { exact: true }).fill('Rigging plan');
  await henna.getByRole('button', { name: 'Put in the draft', exact: true }).click();
  await expect(henna.locator('#m-plural')).toHaveText('Say what people call many of them.');
  await henna.getByLabel('Many of them', { exact: true }).fill('Rigging plans');
  await henna.getByLabel('Stands before').fill('RP-');
  await henna.getByLabel('The year stands in it').check();
  await expect(henna.getByText('The first number is RP-year-0001.')).toBeVisible();
  await henna.getByLabel('One of them, lines 1').fill('Lift');
  await henna.getByLabel('Many of them, lines 1').fill('Lifts');
  await henna.getByRole('button', { name: 'Put in the draft and add a field' }).click();

  await henna.getByLabel('Label on screens').fill('Lifted mass');
  await henna.locator('#Part').selectOption('Rigging plan, lifts');
  await henna.getByRole('radio', { name: 'Integer', exact: true }).check({ force: true });
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();
  await henna.goto(`${pelto.url}/setup/fields/new?type=sales_order`);
  await henna.getByLabel('Label on screens').fill('Plan');
  await henna.getByRole('radio', { name: 'Link', exact: true }).check({ force: true });
  await henna.getByLabel('Points to', { exact: true }).selectOption('Rigging plans');
  await henna.getByRole('button', { name: 'Review and publish' }).click();
  for (const sentence of ['Adds the record type Rigging plans with lifts.', /^Adds Lifted mass \(integer\) to lifts/, /^Adds Plan \(link to rigging plans\) to sales orders/]) await expect(henna.getByText(sentence)).toBeVisible();
  await henna.getByLabel(/Why does this/).fill('Lifts are planned before the order is packed');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.getByRole('link', { name: /^Rigging plans/ }).click();
  await eero.getByRole('link', { name: 'Enter the first one' }).click();
  await eero.getByLabel('Name').fill('Slipway crane');
  await eero.keyboard.press('Alt+n');
  await eero.getByRole('textbox', { name: 'Description' }).last().fill('Jib');
  await eero.getByRole('textbox', { name: 'Lifted mass' }).last().fill('800');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
  const number = `RP-${new Date().getFullYear()}-0001`;
  await expect(eero.locator('.strip b')).toHaveText(number);
  const plan = eero.url().replace(/\?.*/, '');

  await eero.goto(`${pelto.url}/records/sales_order/14`);
  await eero.getByRole('combobox', { name: 'Plan' }).fill('slipway');
  await eero.locator('.options li', { hasText: number }).waitFor();
  await eero.keyboard.press('Enter');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
  await eero.goto(plan);
  await eero.getByRole('region', { name: 'What points here' }).getByText('by Plan').click();
  await expect(eero.getByRole('region', { name: 'What points here' }).getByRole('link', { name: pelto.sql('SELECT number FROM erp.sales_order WHERE id = 14') })).toBeVisible();
  await eero.getByRole('button', { name: 'Delete' }).click();
  await expect(eero.getByText(`${number} stays: 1 sales order (Plan) still points to it.`)).toBeVisible();

  // To programs it is there at once.
  const desk = await pelto.api('order_desk');
  const made = await desk('records/rigging_plan', { method: 'POST', body: { values: { name: 'Boat hall' }, lines: { lifts: [{ description: 'Beam', lifted_mass: 1200 }] } } });
  expect(made.status).toBe(201);
  expect((await made.json()).values.number).toBe(`RP-${new Date().getFullYear()}-0002`);
  expect(JSON.stringify(await (await fetch(`${pelto.url}/api/v1/openapi.json`, { headers: { Authorization: `Bearer ${pelto.tokens.order_desk}` } })).json())).toContain('/records/rigging_plan');
});
