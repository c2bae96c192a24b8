// Links between records: defined, picked, followed back, and held.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('a link is defined and tried, picked at the desk, followed from its target, and holds that back from being deleted', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/fields/new?type=sales_order`);
  await henna.getByLabel('Label on screens').fill('Inspection body');
  await henna.getByRole('radio', { name: 'Link', exact: true }).check({ force: true });
  await expect(henna.getByLabel('Default')).toBeHidden();
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await expect(henna.getByText('Choose the record type that it points to.')).toBeVisible();
  await henna.getByLabel('Points to', { exact: true }).selectOption('Partners');
  await henna.getByLabel('Try a value').fill('P-0177');
  await expect(henna.getByText('Finds Selkäsaari Boatyard (P-0177).')).toBeVisible();
  await henna.getByRole('button', { name: 'Country', exact: true }).click();
  await expect(henna.getByText('Where one chooses, Country stands beside number and name.')).toBeVisible();
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
  await expect(eero.locator('.options li', { hasText: 'P-0177' })).toContainText('Finland');
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

test('the administrator places the lists of what points here on a screen: they stand there with their count, are opened in place, and make another', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/records/partner/177`);
  await henna.getByRole('link', { name: 'Place these lists' }).click();
  await henna.getByLabel('Where assets on loan by On loan to stands').selectOption({ label: 'after Partner' });
  await henna.getByLabel('Where calls by Partner stands').selectOption('on no screen');
  await henna.getByRole('button', { name: 'Review and publish' }).click();
  await expect(henna.getByText('On the screen of partners, the list of assets on loan by On loan to stands after Partner.')).toBeVisible();
  await expect(henna.getByText('On the screen of partners, the list of calls by Partner stands on no screen.')).toBeVisible();
  await henna.getByLabel(/Why does this/).fill('The workshop looks at loans first');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();

  const eero = await person(pelto, 'Eero Lahdenmaa');
  const [id, loans] = pelto.sql('SELECT customer, count(*) FROM erp.asset GROUP BY customer ORDER BY 2 DESC, 1 LIMIT 1').split('|');
  await eero.goto(`${pelto.url}/records/partner/${id}`);
  const list = eero.getByRole('region', { name: 'Assets on loan by On loan to' });
  await expect(list.locator('.pill')).toHaveText(loans);
  await expect(eero.getByRole('region', { name: 'What points here' }).getByText('Calls')).toHaveCount(0);
  await list.locator('summary').click();
  await expect(list.locator('tbody tr')).toHaveCount(Math.min(10, Number(loans)));
  await eero.getByRole('textbox', { name: 'Street' }).first().fill('Quay 7');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
  await expect(list.locator('.pill')).toHaveText(loans);
  await list.getByRole('link', { name: 'New asset on loan' }).click();
  await expect(eero.getByRole('combobox', { name: 'On loan to' })).toHaveValue(new RegExp(pelto.sql(`SELECT number FROM erp.partner WHERE id = ${id}`)));
  await eero.goto(`${pelto.url}/records/partner/new`);
  await expect(eero.getByRole('region', { name: 'Assets on loan by On loan to' })).toHaveCount(0);
});

test('a field points to several records: chosen, typed and moved by keys, in their order; what is refused stays; each of them lists the order', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/fields/new?type=sales_order`);
  await henna.getByLabel('Label on screens').fill('Riggers');
  await henna.getByRole('radio', { name: 'Several links', exact: true }).check({ force: true });
  await henna.getByLabel('Points to', { exact: true }).selectOption('Employees');
  await henna.getByRole('button', { name: 'Review and publish' }).click();
  await henna.getByLabel(/Why does this/).fill('Who goes out is known before the order is packed');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/sales_order/15`);
  const add = eero.getByRole('combobox', { name: 'Add to Riggers' });
  const tags = eero.locator('[data-tags="header.riggers"] .tag');
  for (const number of ['E-003', 'E-001']) {
    await add.fill(number);
    await eero.locator('.options li', { hasText: number }).waitFor();
    await eero.keyboard.press('Enter');
  }
  await expect(tags).toHaveText([/E-003/, /E-001/]);
  await tags.nth(1).getByRole('button').focus();
  await eero.keyboard.press('Alt+ArrowUp');
  await expect(tags).toHaveText([/E-001/, /E-003/]);
  await add.fill('nobody');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('There is no employee “nobody”.')).toBeVisible();
  await expect(tags).toHaveText([/E-001/, /E-003/]);
  await add.fill('E-007');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
  await expect(tags).toHaveText([/E-001/, /E-003/, /E-007/]);
  expect(pelto.sql(`SELECT string_agg(e.number, ' ' ORDER BY position) FROM linked.sales_order__riggers l JOIN erp.employee e ON e.id = l.target WHERE owner = 15`)).toBe('E-001 E-003 E-007');
  await eero.goto(`${pelto.url}/records/employee/${pelto.sql(`SELECT id FROM erp.employee WHERE number = 'E-007'`)}`);
  await eero.getByRole('region', { name: 'What points here' }).getByText('by Riggers').click();
  await expect(eero.getByRole('region', { name: 'What points here' }).getByRole('link', { name: pelto.sql('SELECT number FROM erp.sales_order WHERE id = 15') })).toBeVisible();

  const desk = await pelto.api('order_desk');
  const changed = await desk('records/sales_order/15', { method: 'PATCH', body: { values: { riggers: ['E-007', 1] } } });
  expect((await changed.json()).values.riggers).toHaveLength(2);
  const refused = await desk('records/sales_order/15', { method: 'PATCH', body: { values: { riggers: ['E-999'] } } });
  expect(refused.status).toBe(422);
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
  await henna.getByLabel('Prefix').fill('RP-');
  await henna.getByLabel('With the year').check();
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
  await eero.getByRole('link', { name: 'Add the first one' }).click();
  await eero.locator('body[data-ready]').waitFor();
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

test('links offer what goes with the record: a visit picks an order and a loaned hoist of its customer, the order is looked at and nothing typed is lost, and a plan is made from inside an order', async ({ person }) => {
  const [customer, name] = pelto.sql(`SELECT p.number, p.name FROM erp.asset a JOIN erp.partner p ON p.id = a.customer WHERE returned_on IS NULL AND EXISTS (SELECT FROM erp.sales_order WHERE customer = p.id) GROUP BY p.id HAVING count(*) > 1 ORDER BY p.id LIMIT 1`).split('|');
  const [orders, loans] = pelto.sql(`SELECT (SELECT count(*) FROM erp.sales_order o WHERE o.customer = p.id), (SELECT count(*) FROM erp.asset a WHERE a.customer = p.id AND returned_on IS NULL) FROM erp.partner p WHERE number = '${customer}'`).split('|').map(Number);
  const henna = await person(pelto, 'Henna Aro');
  const link = async (type, label, target, offers) => {
    await henna.goto(`${pelto.url}/setup/fields/new?type=${type}`);
    await henna.getByLabel('Label on screens').fill(label);
    await henna.getByRole('radio', { name: 'Link', exact: true }).check({ force: true });
    await henna.getByLabel('Points to', { exact: true }).selectOption(target);
    if (offers) await henna.getByLabel('Offers only those for which this holds').fill(offers);
    else await henna.getByRole('button', { name: 'customer = record.customer' }).click();
    await henna.locator('#Help').focus();
  };
  await link('visit', 'About order', 'Sales orders');
  await expect(henna.getByRole('row', { name: /^VI-/ }).first()).toContainText(/\d+: SO-|nothing/);
  await henna.getByLabel('Offers only those for which this holds').fill('custmer = record.customer');
  await expect(henna.getByText('There is no field “custmer” here. Did you mean customer?')).toBeVisible();
  await henna.getByLabel('Offers only those for which this holds').fill('customer = record.customer');
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();
  await link('visit', 'Hoist', 'Assets on loan', 'AND(customer = record.customer; ISBLANK(returned_on))');
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();
  await henna.goto(`${pelto.url}/setup/fields/new?type=visit`);
  await henna.getByLabel('Label on screens').fill('Their city');
  await henna.getByRole('radio', { name: 'Seen through a link' }).check({ force: true });
  await henna.getByLabel('Through which link, and what').fill('customer.city');
  await expect(henna.getByText('It shows City of Customer, as it is now: nothing is stored, nothing gets out of date.')).toBeVisible();
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();
  await henna.goto(`${pelto.url}/setup/fields/new?type=rigging_plan`);
  await henna.getByLabel('Label on screens').fill('Customer');
  await henna.getByRole('radio', { name: 'Link', exact: true }).check({ force: true });
  await henna.getByLabel('Points to', { exact: true }).selectOption('Partners');
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();
  await link('sales_order', 'Lift plan', 'Rigging plans');
  await henna.getByRole('button', { name: 'Review and publish' }).click();
  await henna.getByLabel(/Why does this/).fill('Visits are planned with what they are about');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();

  // An empty customer offers nothing, and says so.
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/visit/new`);
  const options = eero.locator('.options li[data-id]:visible');
  await eero.locator('body[data-ready]').waitFor();
  await eero.getByRole('combobox', { name: 'Hoist' }).press('ArrowDown');
  await expect(eero.getByText('Fill Customer first: what can be chosen here depends on it.')).toBeVisible();
  await eero.keyboard.press('Escape');
  await eero.getByLabel('Subject').fill('Yearly look');
  await eero.getByRole('combobox', { name: 'Customer' }).fill(customer);
  await options.first().waitFor();
  await eero.keyboard.press('Enter');
  await expect(eero.getByLabel('Their city')).toHaveText(pelto.sql(`SELECT city FROM erp.partner WHERE number = '${customer}'`));
  await eero.getByRole('combobox', { name: 'Visitor' }).fill('Kaisa');
  await options.first().waitFor();
  await eero.keyboard.press('Enter');
  await eero.getByRole('combobox', { name: 'Hoist' }).press('ArrowDown');
  await expect(options).toHaveCount(Math.min(loans, 12));
  await eero.keyboard.press('Enter');

  // The wider window has the list's columns and its order; a row is chosen with the keys alone.
  await eero.getByRole('combobox', { name: 'About order' }).press('F4');
  const inside = eero.frameLocator('iframe');
  await expect(inside.locator('#rows tbody tr')).toHaveCount(Math.min(orders, 50));
  await inside.getByRole('link', { name: 'Order date' }).click();
  await expect(inside.locator('th[aria-sort=ascending]')).toContainText('Order date');
  await inside.locator('#search').focus();
  await eero.keyboard.press('ArrowDown');
  await eero.keyboard.press('Enter');
  await expect(eero.locator('iframe')).toHaveCount(0);
  const order = await eero.getByRole('combobox', { name: 'About order' }).inputValue();
  expect(order).toBe(pelto.sql(`SELECT o.number FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer WHERE p.number = '${customer}' ORDER BY order_date, o.id LIMIT 1`));

  // One key goes there; going back finds all that was typed.
  await eero.getByRole('combobox', { name: 'About order' }).press('Alt+g');
  await expect(eero.locator('.strip b')).toHaveText(order);
  await eero.goBack();
  await expect(eero.getByLabel('Subject')).toHaveValue('Yearly look');
  await expect(eero.getByRole('combobox', { name: 'About order' })).toHaveValue(order);
  await expect(eero.getByRole('combobox', { name: 'About order' })).toBeFocused();
  await expect(eero.getByText('You have entries here')).toHaveCount(0);
  await eero.getByRole('combobox', { name: 'Customer' }).hover();
  await expect(eero.getByRole('tooltip')).toContainText(name);
  await eero.keyboard.press('Escape');

  // Another customer: what was chosen does not go with it, and that is said rather than taken away.
  await eero.getByRole('combobox', { name: 'Customer' }).fill('P-0001');
  await options.first().waitFor();
  await eero.keyboard.press('Enter');
  await expect(eero.getByText(`${order} does not go with Customer as filled in here. Choose another, or change that.`)).toBeVisible();
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Not saved yet.')).toBeVisible();
  await expect(eero.getByRole('combobox', { name: 'About order' })).toHaveValue(order);
  await eero.getByRole('combobox', { name: 'Customer' }).fill(customer);
  await options.first().waitFor();
  await eero.keyboard.press('Enter');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();

  // A plan made from inside the order begins with the order's customer, and stands in the order at once.
  await eero.getByRole('link', { name: `Go to ${order}` }).click();
  await eero.waitForURL(/sales_order/);
  await eero.locator('body[data-ready]').waitFor({ state: 'attached' });
  await eero.getByRole('combobox', { name: 'Lift plan' }).fill('Slipway mast');
  await eero.locator('.options li[data-make]').waitFor();
  await eero.locator('.options li[data-make]').click();
  await expect(inside.getByRole('combobox', { name: 'Customer' })).toHaveValue(new RegExp(customer));
  await expect(inside.getByLabel('Name')).toHaveValue('Slipway mast');
  await inside.getByRole('button', { name: 'Save' }).click();
  await expect(eero.locator('iframe')).toHaveCount(0);
  await expect(eero.getByRole('combobox', { name: 'Lift plan' })).toHaveValue(/^Slipway mast \(RP-/);
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
  await eero.getByRole('link', { name: /^Go to Slipway mast/ }).click();
  await eero.getByRole('region', { name: 'What points here' }).getByText('by Lift plan').click();
  await expect(eero.getByRole('region', { name: 'What points here' }).getByRole('link', { name: order })).toBeVisible();
  await eero.getByRole('button', { name: 'Delete' }).click();
  await expect(eero.getByText(/stays: 1 sales order \(Lift plan\) still points to it\./)).toBeVisible();
});

test('everything is found by words from the keyboard: records, screens, commands and fields, and nothing typed is lost on the way', async ({ person }) => {
  const eero = await person(pelto, 'Eero Lahdenmaa');
  const find = async (page, text, option) => {
    await page.locator('body[data-person]').waitFor();
    await expect(async () => {
      await page.keyboard.press('Control+k');
      await expect(page.locator('#find-text')).toBeFocused({ timeout: 500 });
    }).toPass();
    await page.locator('#find-text').fill(text);
    await expect(page.locator('#find-list [aria-selected=true]')).toContainText(option);
    await page.keyboard.press('Enter');
  };
  await find(eero, 'selkasaari boat', 'Selkäsaari Boatyard');
  await expect(eero.locator('.strip b')).toHaveText('P-0177');
  await find(eero, 'new visit', 'New visit');
  await eero.locator('body[data-ready]').waitFor();
  await eero.getByLabel('Subject').fill('Half typed');
  await find(eero, 'P-0001', 'P-0001');
  await expect(eero.locator('.strip b')).toHaveText('P-0001');
  await eero.goBack();
  await expect(eero.getByLabel('Subject')).toHaveValue('Half typed');
  await eero.keyboard.press('Control+k');
  await eero.locator('#find-text').fill('releases');
  await expect(eero.getByText('Nothing is found for “releases”.')).toBeVisible();
  await eero.keyboard.press('Escape');

  const henna = await person(pelto, 'Henna Aro');
  await find(henna, 'inspection body', 'Inspection body');
  await expect(henna.getByLabel('Label on screens')).toHaveValue('Inspection body');
  await find(henna, 'releases', 'Releases');
  await expect(henna).toHaveURL(/setup\/releases/);
});
