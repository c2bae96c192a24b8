// Saved queries: written with what can be read, tried on a record, filling order lines, and stopped when they do not end.
import AxeBuilder from '@axe-core/playwright';
import { expect, publishByHand as publish, test, useServer } from './pelto.mjs';

const pelto = useServer();

const violations = async page => (await new AxeBuilder({ page }).setLegacyMode(true).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze()).violations.map(violation => violation.id);

const question = 'SELECT l.price, o.number FROM sales_order_lines l JOIN sales_order o ON o.id = l.parent WHERE o.customer = :customer AND l.item = :item ORDER BY o.order_date DESC, o.id DESC';

test('the last price that this customer paid for this item comes to each line by a query that was tried on a real order', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/queries`);
  await henna.getByRole('link', { name: 'Ask one' }).click();
  await henna.getByLabel('Name in the library').fill('Last price');
  await henna.getByLabel('Written as SQL').check({ force: true });

  // Mistakes are said at the question; nothing typed is lost.
  await henna.getByLabel('SQL', { exact: true }).fill('SELECT prize FROM sales_order_lines');
  await expect(henna.locator('#m-sql')).toContainText(/column "prize" does not exist/);
  await henna.getByLabel('SQL', { exact: true }).fill('DELETE FROM partner');
  await expect(henna.locator('#m-sql')).toContainText('A query begins with SELECT or WITH: it only reads.');
  await henna.getByLabel('SQL', { exact: true }).fill('SELECT name FROM erp.partner');
  await expect(henna.locator('#m-sql')).toContainText('erp.partner cannot be read by queries.');
  await henna.getByLabel('SQL', { exact: true }).fill(question);
  await expect(henna.getByText('It reads Customer of sales orders')).toBeVisible();
  await expect(henna.getByLabel('Kind of customer')).toHaveValue('link');

  const [order, price, from] = pelto.sql(`SELECT o.number || '|' || l.price || '|' || (SELECT p.number FROM erp.sales_order_lines x JOIN erp.sales_order p ON p.id = x.parent WHERE p.customer = o.customer AND x.item = l.item ORDER BY p.order_date DESC, p.id DESC LIMIT 1) FROM erp.sales_order o JOIN erp.sales_order_lines l ON l.parent = o.id WHERE l.position = 0 ORDER BY o.order_date DESC, o.id DESC LIMIT 1`).split('|');
  await henna.getByLabel('Of', { exact: true }).selectOption('sales_order/lines');
  await henna.getByLabel('Number', { exact: true }).fill(order);
  await henna.getByLabel('Value of customer').fill('customer');
  await henna.getByLabel('Value of item').fill('item');
  await henna.getByRole('button', { name: 'Ask the database' }).click();
  await expect(henna.locator('#query-tried')).toContainText(from);
  await expect(henna.locator('#query-tried')).toContainText(/ ms; the planner estimates/);
  expect(await violations(henna)).toEqual([]);
  await henna.setViewportSize({ width: 390, height: 844 });
  expect(await violations(henna)).toEqual([]);
  expect(await henna.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await henna.setViewportSize({ width: 1280, height: 800 });
  await publish(henna, 'What did they pay?');

  await henna.goto(`${pelto.url}/setup/fields/new?type=sales_order&part=lines`);
  await henna.getByLabel('Label on screens').fill('Last price');
  await henna.getByRole('radio', { name: 'Decimal', exact: true }).check({ force: true });
  await henna.getByRole('radio', { name: 'A query' }).check({ force: true });
  await henna.getByLabel('Query', { exact: true }).selectOption({ label: 'Last price' });
  await expect(henna.locator('#m-with')).toContainText('Say what the parameter customer is.');
  await henna.getByRole('textbox', { name: ':customer is' }).fill('customer');
  await henna.getByRole('textbox', { name: ':item is' }).fill('item');
  await expect(henna.locator('#m-with')).toBeHidden();
  await expect(henna.locator('#proof')).toContainText('The database is asked when Customer or Item changes');
  expect(await violations(henna)).toEqual([]);
  await publish(henna, 'For the order desk');

  const eero = await person(pelto, 'Eero Lahdenmaa');
  const [customer, item] = pelto.sql(`SELECT p.number || '|' || i.number FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer JOIN erp.sales_order_lines l ON l.parent = o.id JOIN erp.item i ON i.id = l.item WHERE o.number = '${order}' AND l.position = 0`).split('|');
  await eero.goto(`${pelto.url}/records/sales_order/new`);
  await eero.locator('input[data-pick=partner]').first().fill(customer);
  await eero.getByRole('option', { name: new RegExp(customer) }).first().waitFor();
  await eero.keyboard.press('Enter');
  await eero.getByRole('button', { name: /Add a line/ }).click();
  await eero.locator('input[data-pick=item]').first().fill(item);
  await eero.getByRole('option', { name: new RegExp(item) }).first().waitFor();
  await eero.keyboard.press('Enter');
  await expect(eero.getByLabel('Last price')).toHaveValue(price);
  await eero.keyboard.press('Control+s');
  await eero.getByText('Saved.').waitFor();
  await expect(eero.getByLabel('Last price')).toHaveValue(price);
  await henna.goto(`${pelto.url}/setup/queries`);
  await expect(henna.getByRole('row', { name: /Last price/ })).toContainText('customer, item');
});

test('a query offers what was written for this customer before, and something else can be typed', async ({ person }) => {
  const api = await pelto.api('administrator');
  const all = await (await api('setup/draft')).json();
  (all.queries ??= []).push({ id: 'q-places', label: 'Places', sql: 'SELECT DISTINCT unloading_place AS place FROM sales_order WHERE customer = :customer AND unloading_place IS NOT NULL', parameters: [{ name: 'customer', kind: 'link' }] });
  all.fields.push({ id: 'f-gate', recordType: 'sales_order', code: 'gate_at', label: 'Gate at', kind: 'text', length: 60, query: { id: 'q-places', when: 'offer', with: { customer: 'customer' } } });
  expect((await api('setup/draft', { method: 'PUT', body: all })).status).toBe(200);
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'Offered' } })).status).toBe(200);
  const [customer, place] = pelto.sql("SELECT p.number || '|' || o.unloading_place FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer WHERE o.unloading_place IS NOT NULL ORDER BY o.id LIMIT 1").split('|');
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/sales_order/new`);
  await eero.locator('input[data-pick=partner]').first().fill(customer);
  await eero.getByRole('option', { name: new RegExp(customer) }).first().waitFor();
  await eero.keyboard.press('Enter');
  await eero.getByLabel('Gate at').focus();
  await expect(eero.locator(`datalist option[value="${place}"]`)).toHaveCount(1);
  await eero.getByLabel('Gate at').fill('Elsewhere');
  await eero.keyboard.press('Control+s');
  await eero.getByText('Saved.').waitFor();
  await expect(eero.getByLabel('Gate at')).toHaveValue('Elsewhere');
});

test('a query is put together from a record type, a condition, values and an order; mistakes are said where they stand, and who knows SQL goes on from what it became', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/queries/new`);
  await henna.getByLabel('Name in the library').fill('Open orders of a customer');
  await henna.getByLabel('It reads').selectOption('sales_order/header');
  await henna.getByLabel('Where', { exact: true }).pressSequentially('custo');
  await expect(henna.getByRole('option', { name: /customer/ }).first()).toBeVisible();
  await henna.keyboard.press('ArrowDown');
  await henna.keyboard.press('Enter');
  await henna.keyboard.type(' = :customer AND');
  await expect(henna.locator('#m-where')).toContainText('is not expected here');
  await henna.getByLabel('Where', { exact: true }).fill('AND(customer = :customer; staus = "open")');
  await expect(henna.locator('#m-where')).toContainText('Did you mean status?');
  await henna.getByLabel('Where', { exact: true }).fill('AND(customer = :customer; status = "open")');
  await expect(henna.locator('#m-where')).toBeHidden();
  await expect(henna.locator('#m-values')).toContainText('Say what it gives of each row');
  await henna.getByLabel('Value 1, a field or a formula').fill('number');
  await henna.getByLabel('Value 2, a field or a formula').fill('gross_total * 2');
  await henna.getByLabel('Name of value 2').fill('twice');
  await expect(henna.getByLabel('Value 3, a field or a formula')).toBeVisible();
  await henna.getByLabel('In the order of').fill('order_date');
  await henna.getByLabel('from', { exact: true }).selectOption('true');
  await expect(henna.getByLabel('Kind of customer').locator('option:checked')).toHaveText('Link, as compared');
  await expect(henna.locator('#query-found')).toContainText('twice numeric');

  const [order, newest, twice, count, total] = pelto.sql("SELECT o.number || '|' || n.number || '|' || trim_scale(n.gross_total * 2) || '|' || c.count || '|' || trim_scale(c.sum) FROM erp.sales_order o JOIN LATERAL (SELECT * FROM erp.sales_order WHERE customer = o.customer AND status = 'open' ORDER BY order_date DESC, id DESC LIMIT 1) n ON true JOIN LATERAL (SELECT count(*), sum(gross_total) FROM erp.sales_order WHERE customer = o.customer AND status = 'open') c ON true ORDER BY o.id LIMIT 1").split('|');
  await henna.getByLabel('Of', { exact: true }).selectOption('sales_order/header');
  await henna.getByLabel('Number', { exact: true }).fill(order);
  await henna.getByRole('button', { name: 'Ask the database' }).click();
  await expect(henna.locator('#query-tried tbody tr').first()).toContainText(newest);
  await expect(henna.locator('#query-tried tbody tr').first()).toContainText(twice);
  await henna.getByLabel('and takes').selectOption({ label: 'how many there are' });
  await expect(henna.getByLabel('Value 1, a field or a formula')).toBeHidden();
  await henna.getByRole('button', { name: 'Ask the database' }).click();
  await expect(henna.locator('#query-tried tbody')).toHaveText(count);
  await henna.getByLabel('and takes').selectOption({ label: 'the total of a value' });
  await henna.getByLabel('Value 1, a field or a formula').fill('gross_total');
  await henna.getByRole('button', { name: 'Ask the database' }).click();
  await expect(henna.locator('#query-tried tbody')).toContainText(total);
  expect(await violations(henna)).toEqual([]);
  await henna.setViewportSize({ width: 390, height: 844 });
  expect(await violations(henna)).toEqual([]);
  expect(await henna.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await henna.setViewportSize({ width: 1280, height: 800 });
  await henna.keyboard.press('Control+s');
  await expect(henna.getByText('It is in the draft.')).toBeVisible();
  await henna.reload();
  await expect(henna.getByLabel('Where', { exact: true })).toHaveValue('AND(customer = :customer; status = "open")');
  await expect(henna.getByLabel('and takes')).toHaveValue('Sum');

  // What it became is SQL like any other.
  await henna.getByLabel('Written as SQL').check({ force: true });
  await expect(henna.getByLabel('SQL', { exact: true })).toHaveValue(/SELECT .*sum\(v\)/s);
  await expect(henna.locator('#query-found')).toContainText('gross_total numeric');
});

test('a query that never ends is stopped, tried by the administrator and on the form, and a save goes on', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/queries/new`);
  await henna.getByLabel('Name in the library').fill('Endless');
  await henna.getByLabel('Written as SQL').check({ force: true });
  await henna.getByLabel('SQL', { exact: true }).fill('SELECT count(*) AS n FROM generate_series(1, 1000000000000) AS n WHERE n % 7 = :customer');
  await henna.getByLabel('Value of customer').fill('3');
  await henna.getByRole('button', { name: 'Ask the database' }).click();
  await expect(henna.getByRole('alert')).toContainText('It was stopped: a query may run for 2 seconds, and this one did not come to an end.');
  await publish(henna, 'Should not be, and holds nobody up');
  await henna.goto(`${pelto.url}/setup/fields/new?type=sales_order&part=header`);
  await henna.getByLabel('Label on screens').fill('Endless');
  await henna.getByRole('radio', { name: 'Integer', exact: true }).check({ force: true });
  await henna.getByRole('radio', { name: 'A query' }).check({ force: true });
  await henna.getByLabel('Query', { exact: true }).selectOption({ label: 'Endless' });
  await henna.getByRole('textbox', { name: ':customer is' }).fill('customer');
  await publish(henna, 'Should not be, and holds nobody up');

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/sales_order/new`);
  await eero.locator('input[data-pick=partner]').first().fill('P-0001');
  await eero.getByRole('option', { name: /P-0001/ }).first().waitFor();
  await eero.keyboard.press('Enter');
  await expect(eero.locator('.f', { hasText: 'Endless' })).toContainText('Endless: It was stopped');
  await eero.keyboard.press('Control+s');
  await eero.getByText('Saved.').waitFor();

  // The save did not wait for it: the field says that it is asked beside, and in the end that there was no answer.
  await expect(eero.locator('.f', { hasText: 'Endless' })).toContainText(/takes longer than a save may wait: it is asked in the background|gave no answer when it was asked in the background/);
  await expect.poll(async () => {
    await eero.reload();
    return eero.locator('.f', { hasText: 'Endless' }).textContent();
  }, { timeout: 20_000 }).toContain('gave no answer when it was asked in the background');

  // A save that asks it waits for less than the query may run.
  const api = await pelto.api('administrator');
  const id = Number(eero.url().match(/\d+(?=[?#]|$)/)[0]);
  const save = async values => { const from = performance.now(); expect((await api(`records/sales_order/${id}`, { method: 'PATCH', body: { values } })).ok).toBe(true); return performance.now() - from; };
  const [plain, asked] = [await save({ reference: 'a' }), await save({ customer: 2 })];
  expect(asked - plain).toBeLessThan(1500);
  expect(pelto.sql(`SELECT origins::jsonb -> (SELECT jsonb_object_keys(origins::jsonb) LIMIT 1) ->> 'from' FROM added.sales_order WHERE id = ${id}`)).toMatch(/^(beside|unanswered)\//);
});

test('what is typed while an answer is on its way stays, and so does a click right after typing', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/queries/new`);
  await henna.getByLabel('Written as SQL').check({ force: true });
  await henna.getByLabel('SQL', { exact: true }).fill('SELECT number FROM sales_order WHERE customer = :customer');
  const value = henna.getByLabel('Value of customer');
  await value.waitFor();
  await henna.route('**/*handler=Look', async route => {
    await new Promise(done => setTimeout(done, 1500));
    await route.continue();
  });
  const looked = henna.waitForResponse(/handler=Look/);
  await henna.getByLabel('SQL', { exact: true }).fill('SELECT number, status FROM sales_order WHERE customer = :customer');
  await henna.waitForTimeout(600);
  await value.fill('17');
  await value.press('7');
  await value.press('ArrowLeft');
  await looked;
  await expect(henna.locator('#query-found')).toContainText('status');
  await expect(value).toHaveValue('177');
  await expect(value).toBeFocused();
  await value.press('5');
  await expect(value).toHaveValue('1757');
  await value.fill('177');
  await henna.getByRole('button', { name: 'Ask the database' }).click();
  await expect(henna.locator('#query-tried')).toContainText('Asked with');

  // While the question makes no sense, what was said of its parameters waits.
  await henna.unroute('**/*handler=Look');
  await henna.getByLabel('SQL', { exact: true }).fill('SELEC');
  await expect(value).toHaveCount(0);
  await henna.getByLabel('SQL', { exact: true }).fill('SELECT number FROM sales_order WHERE customer = :customer');
  await expect(value).toHaveValue('177');
});
