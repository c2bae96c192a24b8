// Records at work: lists, forms, lines, entries that are never lost.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('lists are searched, sorted and read on; the back button goes back', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/partner`);
  await page.getByRole('searchbox').fill('boatyard');
  await expect(page.getByRole('link', { name: 'P-0177' })).toBeVisible();
  await expect(page).toHaveURL(/search=boatyard/);
  await page.getByRole('link', { name: 'City' }).click();
  await expect(page.getByRole('columnheader', { name: 'City' })).toHaveAttribute('aria-sort', 'ascending');
  await page.goto(`${pelto.url}/records/partner`);
  const rows = page.locator('#rows tbody tr:not(.more)');
  await expect(rows).toHaveCount(50);
  await page.getByRole('button', { name: 'Show more' }).click();
  await expect(rows).toHaveCount(100);
  await page.getByRole('searchbox').focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.waitForURL(/partner\/\d+/);
  await page.goBack();
  await expect(page).toHaveURL(/records\/partner$/);
  await page.goto(`${pelto.url}/records/partner?search=zzzz`);
  await expect(page.getByText('Nothing is found for “zzzz”.')).toBeVisible();
});

test('amounts and totals follow while one types; lines are added, moved and removed from the keyboard', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order/300`);
  const total = page.locator('[data-output="header.net_total"]');
  await expect(total).toHaveText('461.71');
  await page.getByRole('textbox', { name: 'Quantity' }).first().fill('4');
  await expect(total).toHaveText('469.01');
  await expect(page.locator('[data-output="header.gross_total"]')).toHaveText('588.61');

  await page.getByRole('textbox', { name: 'Quantity' }).first().focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(page.locator('tr[data-line] [data-pick]').nth(1)).toHaveValue('F06-6');
  await page.keyboard.press('Alt+Backspace');
  await expect(total).toHaveText('454.41');
  await page.keyboard.press('Enter');
  await expect(total).toHaveText('469.01');
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Saved.')).toBeVisible();
  await expect(page.locator('tr[data-line] [data-pick]').first()).toHaveValue('F03-16');
});

test('what is wrong is said at its field, all at once, and nothing typed is lost', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order/new`);
  await page.getByLabel('Order date').fill('tomorrow');
  await page.getByLabel('Wanted by').fill('2026-02-30');
  await page.getByLabel('Salesperson').fill('nobody at all');
  await page.getByLabel("Customer's reference").fill('Stays');
  await page.getByRole('tab', { name: 'Shipping' }).click();
  await page.getByLabel('Unloading place').fill('x'.repeat(70));
  await page.keyboard.press('Control+s');
  await expect(page.getByRole('alert')).toContainText('5 things need a look');
  await expect(page.getByText('At most 60 characters fit; this has 70.')).toBeVisible();
  await page.getByRole('tab', { name: /Order.*4 to look at/ }).click();
  await expect(page.getByText('“tomorrow” is not a date.')).toBeVisible();
  await expect(page.getByText('“2026-02-30” is not a date.')).toBeVisible();
  await expect(page.getByText('There is no employee “nobody at all”.')).toBeVisible();
  await expect(page.getByText('Customer is required.')).toBeVisible();
  await expect(page.getByLabel('Order date')).toHaveValue('tomorrow');
  await expect(page.getByLabel('Salesperson')).toHaveValue('nobody at all');
  await expect(page.getByLabel("Customer's reference")).toHaveValue('Stays');
  await page.getByRole('tab', { name: /Shipping/ }).click();
  await expect(page.getByText('At most 60 characters fit; this has 70.')).toBeVisible();
  await expect(page.getByRole('tab', { name: /Shipping/ })).toContainText('1 to look at');
});

test('leaving with unsaved entries warns, and a reload offers them back', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/250`);
  await page.getByLabel("Customer's reference").fill('Half an idea');
  await page.keyboard.press('Alt+n');
  await page.keyboard.type('SHB-25');
  await page.getByRole('option', { name: /Bow shackle 25/ }).waitFor();
  await page.keyboard.press('Enter');
  await page.waitForTimeout(400);

  const asked = page.waitForEvent('dialog');
  page.reload().catch(() => {});
  const dialog = await asked;
  expect(dialog.type()).toBe('beforeunload');
  await dialog.accept();
  await page.getByText(/You have entries here from/).waitFor();
  await expect(page.getByLabel("Customer's reference")).not.toHaveValue('Half an idea');
  await page.getByRole('button', { name: 'Restore them' }).click();
  await expect(page.getByLabel("Customer's reference")).toHaveValue('Half an idea');
  await expect(page.getByRole('combobox', { name: 'Item' }).last()).toHaveValue('SHB-25');
  await page.getByRole('textbox', { name: 'Price' }).last().fill('20');
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Saved.')).toBeVisible();
  await page.reload();
  await expect(page.getByText(/You have entries here/)).toHaveCount(0);
});

test('two people, one field: the second sees both values and chooses', async ({ person }) => {
  const eero = await person(pelto, 'Eero Lahdenmaa');
  const kaisa = await person(pelto, 'Kaisa Purjeranta');
  for (const page of [eero, kaisa]) await page.goto(`${pelto.url}/records/sales_order/251`);
  await eero.getByLabel("Customer's reference").fill("Eero's");
  await kaisa.getByLabel("Customer's reference").fill("Kaisa's");
  await kaisa.getByLabel('Wanted by').fill('2026-12-24');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
  await kaisa.keyboard.press('Control+s');
  await expect(kaisa.getByText('Somebody else saved this record meanwhile')).toBeVisible();
  await expect(kaisa.getByText("Eero's", { exact: true })).toBeVisible();
  await kaisa.getByRole('button', { name: 'Take theirs' }).click();
  await kaisa.keyboard.press('Control+s');
  await expect(kaisa.getByText('Saved.')).toBeVisible();
  await expect(kaisa.getByLabel("Customer's reference")).toHaveValue("Eero's");
  await expect(kaisa.getByLabel('Wanted by')).toHaveValue('2026-12-24');
});

test('a deleted order can be brought back; a customer with orders stays', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order/252`);
  const title = await page.title();
  await page.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText(/is deleted/)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.waitForURL(/sales_order\/252/);
  expect(await page.title()).toBe(title);
  await page.goto(`${pelto.url}/records/partner/177`);
  await page.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText(/^P-0177 stays: .*\d+ sales orders \(Customer\), \d+ deliveries \(Customer\).* still point to it\.$/)).toBeVisible();
});

test('a guest reads and has nothing to press', async ({ person }) => {
  const page = await person(pelto, 'Vieno Kallioaho');
  await page.goto(`${pelto.url}/records/sales_order/300`);
  await expect(page.getByRole('button', { name: /Save|Delete|Add a line|A field here/ })).toHaveCount(0);
  await expect(page.locator('main input:not([type=hidden]), main select')).toHaveCount(0);
});

test('a session outlives a restart of the server, and a save while it is down loses nothing', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order/253`);
  await page.getByLabel("Customer's reference").fill('Through thick and thin');
  await pelto.kill();
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Pelto cannot be reached just now')).toBeVisible();
  await pelto.serve();
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Saved.')).toBeVisible();
  await expect(page.getByLabel("Customer's reference")).toHaveValue('Through thick and thin');
});
