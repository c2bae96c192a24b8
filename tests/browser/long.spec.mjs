// Long documents: lines far down are read at first and get their inputs where somebody comes; nothing of them is lost on the way.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const LINES = 240;
const row = (page, at) => page.locator('tr[data-line]').nth(at - 1);
const quantity = (page, at) => row(page, at).getByRole('textbox', { name: 'Quantity' });

async function interfaceOf() {
  const ask = await pelto.api('administrator');
  const send = (method, path, body) => ask(path, { method, body });
  const good = async answer => {
    if (!answer.ok) throw new Error(await answer.text());
    return answer.json();
  };
  return { send, get: async path => good(await send('GET', path)), post: async (path, body) => good(await send('POST', path, body)) };
}

async function orderOf(api, count) {
  const items = (await api.get('records/item?take=40')).records.map(item => item.id);
  const lines = Array.from({ length: count }, (_, i) => ({ item: items[i % items.length], quantity: 1 + i % 7, price: 10 + i, description: `Line ${i + 1}` }));
  return api.post('records/sales_order', { values: { customer: 177 }, lines: { lines } });
}

test('a line far down is read, woken by scrolling, by a click and by Tab, typed in and saved; all others stay as they are', async ({ person }) => {
  const api = await interfaceOf();
  const order = await orderOf(api, LINES);
  const before = (await api.get(`records/sales_order/${order.id}`)).lines.lines;
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order/${order.id}`);
  await expect(page.locator('[data-line-count]')).toHaveText(String(LINES));
  await expect(row(page, LINES)).toContainText(`Line ${LINES}`);
  const drawn = await page.locator('tr[data-line] [name$=".quantity"]').count();
  expect(drawn).toBeGreaterThan(10);
  expect(drawn).toBeLessThan(LINES / 2);
  await expect(quantity(page, 200)).toHaveCount(0);

  // By scrolling; then by a click in the very cell.
  await row(page, 120).scrollIntoViewIfNeeded();
  await expect(quantity(page, 120)).toHaveValue('1.00');
  await page.evaluate(() => window.scrollTo(0, 0));
  await row(page, 200).locator('td').nth(3).dispatchEvent('pointerdown');
  await expect(quantity(page, 200)).toBeFocused();
  await expect(row(page, 200).locator('[data-position]')).toHaveText('200');
  await page.keyboard.press('Control+a');
  await page.keyboard.type('70');
  await expect(row(page, 200).locator('output').first()).toHaveText('14 630.00');

  // What is calculated follows in lines that are still asleep, and Tab leads into them.
  const asleep = page.locator('tr[data-asleep]').first();
  await asleep.focus();
  await expect(page.locator('tr[data-line] :focus')).toHaveCount(1);
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Saved.')).toBeVisible();
  const after = (await api.get(`records/sales_order/${order.id}`)).lines.lines;
  expect(after.filter((line, i) => JSON.stringify(line) !== JSON.stringify(before[i])).map(line => [line.description, line.quantity])).toEqual([['Line 200', 70]]);
});

test('lines that are asleep are moved with, kept in a form that is refused and drawn anew, and woken under a newer release', async ({ person }) => {
  const api = await interfaceOf();
  const order = await orderOf(api, LINES);
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order/${order.id}`);
  await row(page, 1).getByRole('button', { name: 'Remove the line' }).click();
  await expect(page.locator('[data-line-count]')).toHaveText(String(LINES - 1));
  await row(page, 150).focus();
  await quantity(page, 150).fill('many');
  await page.keyboard.press('Control+s');
  await expect(page.getByRole('alert')).toContainText('One thing needs a look.');
  await expect(quantity(page, 150)).toHaveValue('many');
  await expect(page.locator('tr[data-asleep]').last()).toContainText(`Line ${LINES}`);

  // The rest of the page is of an older release by then.
  await pelto.publish({ recordType: 'sales_order', part: 'lines', code: 'colour', label: 'Colour', kind: 'text', length: 20 });
  await row(page, 220).focus();
  await expect(quantity(page, 220)).toBeVisible();
  await expect(page.getByRole('columnheader', { name: 'Colour' })).toBeVisible();
  await expect(quantity(page, 150)).toHaveValue('many');
  await quantity(page, 150).fill('5');
  await row(page, 220).getByRole('textbox', { name: 'Colour' }).fill('violet');
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Saved.')).toBeVisible();
  const { lines } = (await api.get(`records/sales_order/${order.id}`)).lines;
  expect(lines.length).toBe(LINES - 1);
  expect(lines.filter(line => line.colour).map(line => [line.description, line.colour])).toEqual([['Line 221', 'violet']]);
  expect(lines[149]).toMatchObject({ description: 'Line 151', quantity: 5 });
});

test('a document that follows a long one takes over all its lines, seen or not', async ({ person }) => {
  const api = await interfaceOf();
  const order = await orderOf(api, LINES);
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/delivery/new?from=sales_order/${order.id}`);
  await expect(page.locator('[data-line-count]').first()).toHaveText(String(LINES));
  await page.getByLabel('Warehouse').first().fill('Main');
  await page.locator('.options li').first().click();
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Saved.')).toBeVisible();
  const delivery = await api.get(`records/delivery/${page.url().match(/delivery\/(\d+)/)[1]}`);
  const [lines] = Object.values(delivery.lines);
  expect(lines.map(line => line.description)).toEqual(Array.from({ length: LINES }, (_, i) => `Line ${i + 1}`));
});

test('a record holds two thousand lines, and says so', async ({ person }) => {
  const api = await interfaceOf();
  const order = await orderOf(api, 2000);
  const more = await api.send('PATCH', `records/sales_order/${order.id}`, { lines: { lines: Array.from({ length: 2001 }, () => ({ quantity: 1 })) } });
  expect(more.status).toBe(422);
  expect((await more.json()).errors).toEqual([{ pointer: '#/lines/lines', detail: expect.stringContaining('at most') }]);
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order/${order.id}`);
  await expect(page.getByText('One record holds at most 2000 lines.')).toBeAttached();
  await page.keyboard.press('Alt+n');
  await expect(page.locator('[data-line-count]')).toHaveText('2000');
});
