// Lists arranged for an audience, and what people arrange for themselves: by keys and by the pointer, kept at once, and back to standard by one key.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const columns = page => page.locator('#rows th[data-column]');

// Reads do not wait by themselves: after a link that was followed, the page may still be the one before.
const heads = async page => {
  await columns(page).first().waitFor();
  return (await columns(page).allInnerTexts()).map(text => text.replace(/[↑↓]/g, '').trim());
};
const head = (page, name) => columns(page).filter({ hasText: name }).locator('a, [tabindex]').first();
const part = (page, id) => page.locator(`[data-canvas] [data-select="${id}"]`);

test('a list for the order desk, and the list inside a customer, arranged by keys and published', async ({ person }) => {
  await pelto.publish({ id: 'f-city', recordType: 'sales_order', code: 'their_city', label: 'Their city', kind: 'seen', path: 'customer.city' });
  await pelto.publish({ id: 'f-twice', recordType: 'sales_order', code: 'twice', label: 'Twice', kind: 'decimal', decimals: 2, formula: 'net_total * 2', live: true });
  const api = await pelto.api('administrator');
  const draft = await (await api('setup/draft')).json();
  draft.layers = [...(draft.layers ?? []), { id: 'a-desk', label: 'Order desk', comment: 'Their work', audience: 'role:order_desk', operations: [] }];
  expect((await api('setup/draft', { method: 'PUT', body: draft })).ok).toBe(true);

  const henna = await person(pelto, 'Henna Aro', { viewport: { width: 1440, height: 900 } });
  await henna.goto(`${pelto.url}/setup/arrange?type=sales_order&layer=a-desk`);
  await henna.locator('select[name=of]').selectOption({ label: 'list' });
  await part(henna, 'list:sales_order.number').waitFor();
  await part(henna, 'list:sales_order.status').focus();
  await henna.keyboard.press('Alt+ArrowLeft');
  await expect(henna.locator('[data-said]')).toContainText('Put Status after Order date');
  await part(henna, 'list:sales_order.payment_terms').focus();
  await henna.keyboard.press('Delete');
  await expect(part(henna, 'list:sales_order.payment_terms')).toHaveCount(0);

  // From the shelf, found by words: built in, and what is seen through a link, which becomes a field in the same draft.
  await part(henna, 'list:sales_order.customer').focus();
  await henna.keyboard.press('/');
  await henna.keyboard.type('credit');
  await henna.locator('[data-shelf] li:not([hidden]) button').first().press('Enter');
  await expect(henna.locator('[data-canvas] th').filter({ hasText: 'Credit limit' })).toContainText('Credit limit');
  await expect(henna.locator('[data-canvas] td').filter({ hasText: 'after publishing' }).first()).toBeVisible();
  await part(henna, 'list:sales_order.wanted_by').focus();
  await expect(henna.locator('#part h2')).toHaveText('Wanted by');
  await henna.getByLabel('Rows begin').selectOption({ label: 'in the order of this column' });
  await henna.getByRole('button', { name: 'Set', exact: true }).press('Enter');
  await expect(henna.locator('[data-canvas] th[aria-sort=ascending]')).toContainText('Wanted by');

  // The list of orders on a partner's screen.
  await henna.goto(`${pelto.url}/setup/arrange?type=partner&layer=a-desk&of=in:sales_order.customer`);
  await part(henna, 'list:sales_order.customer>sales_order.order_date').focus();
  await henna.keyboard.press('Delete');
  await expect(henna.locator('[data-said]')).toContainText('Hid Order date');
  await henna.getByRole('link', { name: 'Review and publish' }).click();
  await expect(henna.getByText('Order desk, in the list of sales orders: puts Status after Order date.')).toBeVisible();
  await expect(henna.getByText('Order desk, in the list of sales orders by Customer: hides Order date.')).toBeVisible();
  await henna.getByRole('link', { name: /in the list of sales orders: sorts by Wanted by/ }).click();
  await expect(henna.locator('#part h2')).toHaveText('Wanted by');
  await publishByHandFrom(henna, 'Lists for the desk');

  const kaisa = await person(pelto, 'Kaisa Purjeranta');
  await kaisa.goto(`${pelto.url}/records/sales_order`);
  const theirs = await heads(kaisa);
  expect(theirs.slice(0, 6)).toEqual(['Number', 'Customer', 'Credit limit', 'Order date', 'Status', 'Wanted by']);
  expect(theirs).not.toContain('Payment terms');
  expect(theirs).toContain('Twice');
  const dates = await kaisa.locator('#rows tbody tr td:nth-child(6)').allInnerTexts();
  expect(dates.filter(Boolean)).toEqual([...dates.filter(Boolean)].sort());
  await kaisa.goto(`${pelto.url}/records/partner/${pelto.sql('SELECT customer FROM erp.sales_order GROUP BY customer ORDER BY count(*) DESC LIMIT 1')}`);
  await kaisa.getByText('Sales orders by Customer').or(kaisa.locator('summary').filter({ hasText: 'Sales orders' })).first().click();
  await expect(kaisa.locator('.rows.inside th').first()).toHaveText('Number');
  expect(await kaisa.locator('.rows.inside th').allInnerTexts()).not.toContain('Order date');

  const guest = await person(pelto, 'Vieno Kallioaho');
  await guest.goto(`${pelto.url}/records/sales_order`);
  expect((await heads(guest)).slice(0, 5)).toEqual(['Number', 'Customer', 'Order date', 'Wanted by', 'Status']);
});

async function publishByHandFrom(page, why) {
  await page.getByRole('link', { name: 'Review and publish' }).click();
  await page.getByLabel(/Why does this/).fill(why);
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await page.getByText(/Release \d+ is live/).first().waitFor();
}

test('for oneself: columns by keys and dragged, sections folded, the screen shaped, and back to standard by one key; nobody else notices', async ({ person }) => {
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/item`);
  const before = await heads(eero);
  await head(eero, 'Category').focus();
  await eero.keyboard.press('Alt+ArrowLeft');
  await expect(eero.getByText('Category is after Number for you.')).toBeVisible();
  await expect(head(eero, 'Category')).toBeFocused();
  await head(eero, 'Weight').focus();
  await eero.keyboard.press('Alt+Delete');
  await expect(eero.getByText('is hidden from you.')).toBeVisible();
  await head(eero, 'Name').focus();
  await eero.keyboard.press('Alt+Minus');
  await expect(eero.getByText(/Name is \d+ of 12 wide for you/)).toBeVisible();
  await eero.reload();
  expect((await heads(eero)).slice(0, 3)).toEqual(['Number', 'Category', 'Name']);
  expect((await heads(eero)).join()).not.toContain('Weight');

  // Dragged, and undone.
  await eero.locator('#rows th').filter({ hasText: 'Unit' }).dragTo(eero.locator('#rows th').filter({ hasText: 'Number' }), { targetPosition: { x: 3, y: 8 } });
  await expect(eero.getByText('Unit is first for you.')).toBeVisible();
  expect((await heads(eero))[0]).toBe('Unit');
  await eero.getByRole('button', { name: 'Undo' }).click();
  await expect(eero.locator('#rows th').first()).toContainText('Number');

  // A column from the shelf: only what may be read is there.
  await eero.getByRole('link', { name: 'Columns' }).click();
  await part(eero, 'list:item.name').focus();
  await eero.keyboard.press('/');
  await eero.keyboard.type('origin');
  await eero.locator('[data-shelf] li:not([hidden]) button').first().press('Enter');
  await expect(part(eero, 'list:item.origin')).toBeVisible();
  await eero.getByRole('link', { name: 'Back to work' }).click();
  expect(await heads(eero)).toContain('Country of origin');

  // On a record: a section folded stays folded, what is hidden keeps its value, and a label of one's own.
  await eero.goto(`${pelto.url}/records/sales_order/210`);
  await eero.getByLabel('Customer\'s reference').fill('half typed');
  await eero.getByRole('button', { name: 'Totals' }).press('Enter');
  await expect(eero.getByLabel('VAT, %')).toBeHidden();
  await expect(eero.getByLabel('Customer\'s reference')).toHaveValue('half typed');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.', { exact: true })).toBeVisible();
  await expect(eero.getByRole('button', { name: 'Totals' })).toHaveAttribute('aria-expanded', 'false');
  await eero.getByRole('link', { name: 'Arrange this screen for yourself' }).click();
  await part(eero, 'sales_order.salesperson').focus();
  await eero.keyboard.press('Delete');
  await expect(eero.getByText('Hid Salesperson').first()).toBeVisible();
  await part(eero, 'sales_order.customer').focus();
  await eero.keyboard.press('Delete');
  await expect(eero.getByText('Customer cannot be hidden').first()).toBeVisible();
  // What is chosen and typed while an answer is on its way stays: here the undoing takes its time.
  await eero.route('**/account/arrange*', async route => {
    if (route.request().url().includes('handler=Again')) await new Promise(done => setTimeout(done, 1500));
    await route.continue();
  });
  const undone = eero.waitForResponse(answer => answer.url().includes('handler=Again'));
  await eero.keyboard.press('Control+z');
  await part(eero, 'sales_order.reference').focus();
  await expect(eero.locator('#part h2')).toHaveText('Customer\'s reference');
  await eero.getByLabel('Label here').fill('Their mark');
  await (await undone).finished();
  await expect(eero.getByLabel('Label here')).toBeFocused();
  await eero.getByRole('button', { name: 'Set', exact: true }).press('Enter');
  await expect(eero.getByText('Your own arrangement called it “Their mark”.')).toBeVisible();
  await eero.getByRole('link', { name: 'Back to work' }).click();
  await expect(eero.getByLabel('Their mark')).toHaveValue('half typed');
  await expect(eero.getByLabel('Salesperson')).toHaveCount(0);
  await eero.getByLabel('Their mark').fill('once more');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.', { exact: true })).toBeVisible();
  expect(pelto.sql('SELECT salesperson IS NOT NULL FROM erp.sales_order WHERE id = 210')).toBe('t');

  // Whoever asks to see as him sees it so; nobody else does.
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/see?person=eero.lahdenmaa&type=sales_order&record=210&of=live`);
  await expect(henna.locator('[data-seen]').getByText('Their mark')).toBeVisible();
  await henna.goto(`${pelto.url}/records/sales_order/210`);
  await expect(henna.getByLabel('Customer\'s reference')).toHaveValue('once more');

  // What is not theirs to say is refused, whatever is sent.
  const token = await eero.locator('[data-sign-out] [name=__RequestVerificationToken]').inputValue();
  for (const operation of [{ op: 'lock', part: 'sales_order.customer' }, { op: 'show', part: 'sales_order.main.campaign' }, { op: 'put', part: 'p-1', screen: 'sales_order', new: { what: 'page' }, label: 'x' }]) {
    const answer = await eero.request.post(`${pelto.url}/account/arrange?type=sales_order&handler=Say`, { form: { operation: JSON.stringify(operation), __RequestVerificationToken: token } });
    expect(answer.status()).toBe(400);
  }
  await eero.goto(`${pelto.url}/records/sales_order/210`);
  await eero.keyboard.press('Alt+0');
  await expect(eero.getByText('Back to standard: you get what your colleagues get.')).toBeVisible();
  await expect(eero.getByLabel('Customer\'s reference')).toHaveValue('once more');
  await expect(eero.getByRole('button', { name: 'Totals' })).toHaveAttribute('aria-expanded', 'true');
  await eero.goto(`${pelto.url}/records/item`);
  await eero.keyboard.press('Alt+0');
  await expect(eero.getByText('Back to standard: you get what')).toBeVisible();
  await expect.poll(() => heads(eero)).toEqual(before);
  expect(pelto.sql('SELECT count(*) FROM pelto.personal_layer')).toBe('0');
});

test('people of a role that may arrange put layers in the draft, change nothing else, and publish nothing', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/people`);
  await henna.getByLabel('Let', { exact: true }).selectOption({ label: 'Role Order desk' });
  await henna.getByLabel('do this').selectOption({ label: 'arrange for others' });
  await henna.getByRole('button', { name: 'Give it' }).click();
  await expect(henna.getByText('The right is given.')).toBeVisible();
  await henna.goto(`${pelto.url}/setup/arrange?type=sales_order`);
  await henna.getByRole('button', { name: 'Keep people from arranging it for themselves' }).click();
  await expect(henna.locator('[data-said]')).toContainText('Kept people from arranging');
  await publishByHandFrom(henna, 'The desk arranges');

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await expect(eero.getByRole('link', { name: 'Arrange', exact: true })).toBeVisible();
  await eero.goto(`${pelto.url}/setup/arrange?type=sales_order&layer=a-desk`);
  await part(eero, 'sales_order.wanted_by').focus();
  await eero.keyboard.press('Alt+ArrowLeft');
  await expect(eero.locator('[data-said]')).toContainText('Put Wanted by after Customer');
  await expect(eero.getByText('Somebody else publishes the draft.')).toBeVisible();
  const token = await eero.locator('[data-sign-out] [name=__RequestVerificationToken]').inputValue();
  const post = (address, form) => eero.request.post(`${pelto.url}${address}`, { form: { ...form, __RequestVerificationToken: token } });
  expect((await post('/setup/people?handler=Give', { to: 'role:guest', work: 'arrange' })).url()).toContain('/account/refused');
  expect((await post('/setup/arrange?type=sales_order&layer=a-desk&handler=Do', { operation: JSON.stringify({ op: 'put', part: 'customer.credit_limit', after: 'sales_order.number' }) })).status()).toBe(403);
  for (const closed of ['/setup/draft', '/setup/fields', '/setup/see?person=henna.aro&type=sales_order', '/setup/update']) expect((await eero.request.get(pelto.url + closed)).url()).toContain('/account/refused');

  // What he arranged waits in the draft of whoever publishes; meanwhile his own screen is as it was, and not his to arrange for himself.
  await henna.goto(`${pelto.url}/setup/draft`);
  await expect(henna.getByText(/Order desk: puts Wanted by after Customer/)).toBeVisible();
  await expect(henna.getByText('Eero Lahdenmaa,')).toBeVisible();
  await eero.goto(`${pelto.url}/records/sales_order/211`);
  await expect(eero.getByRole('link', { name: 'Arrange this screen for yourself' })).toHaveCount(0);
  const vieno = await person(pelto, 'Vieno Kallioaho');
  expect((await vieno.request.get(`${pelto.url}/setup/arrange`)).url()).toContain('/account/refused');
});
