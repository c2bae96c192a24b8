// Placing: the administrator arranges the real screen for an audience, sees it as others, publishes; each group of people gets its own.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const arrange = (layer = 'site', more = '') => `${pelto.url}/setup/arrange?type=sales_order&layer=${layer}&record=300${more}`;
const part = (page, id) => page.locator(`[data-canvas] [data-select="${id}"]`);
const done = async (page, text) => expect(page.locator('[data-said]')).toContainText(text);

// By the words of what one looks for, wherever one is.
async function goTo(page, words) {
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Find or do' }).fill(words);
  await page.getByRole('option', { name: words }).first().waitFor();
  await page.keyboard.press('Enter');
  await page.waitForURL(/setup/);
}

async function newLayer(page, audience, name) {
  await page.getByText('New layer').click();
  await page.getByLabel('For', { exact: true }).selectOption({ label: audience });
  await page.getByLabel('Name').fill(name);
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByRole('alert')).toHaveText('Say why the layer is there.');
  await page.getByLabel('For', { exact: true }).selectOption({ label: audience });
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Why').fill('Their work');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.locator('.layer.on')).toContainText(name);
}

test('with the keyboard alone: a front page for the order desk, a hidden group kept for one person, a section under its condition, words for Norway', async ({ person }) => {
  const kaisa = await person(pelto, 'Kaisa Purjeranta');
  await kaisa.goto(`${pelto.url}/records/sales_order/300`);
  await kaisa.getByLabel('Customer’s reference').or(kaisa.getByLabel('Customer\'s reference')).fill('Site 7');
  const sigrid = await person(pelto, 'Sigrid Skarvik');
  await sigrid.goto(`${pelto.url}/records/sales_order/300`);

  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(arrange());
  await expect(part(henna, 'sales_order.customer')).toHaveAttribute('aria-label', 'Customer');

  // The campaign group goes, for everyone: reached by arrows, taken off by a key.
  await part(henna, 'sales_order.number').focus();
  for (let i = 0; i < 40 && !await part(henna, 'sales_order.main.campaign').evaluate(one => one === document.activeElement); i++) await henna.keyboard.press('ArrowRight');
  await henna.keyboard.press('Delete');
  await done(henna, 'Hid Campaign');
  await expect(part(henna, 'sales_order.main.campaign')).toHaveCount(0);

  // What nobody could do without is refused, with the reason, and stays.
  await part(henna, 'sales_order.customer').focus();
  await henna.keyboard.press('Delete');
  await expect(henna.getByText('Customer cannot be hidden: it is required').first()).toBeVisible();
  await expect(part(henna, 'sales_order.customer')).toBeVisible();
  await expect(henna.locator('[data-said]')).not.toContainText('Hid');
  await expect(henna.locator('.says').getByText('Hid Customer')).toHaveCount(0);

  // A section with guidance, under a condition.
  await part(henna, 'sales_order.main.order').focus();
  await henna.keyboard.press('s');
  await done(henna, 'Put the section New section');
  await henna.getByLabel('Label here').fill('Rigging');
  await henna.getByLabel('Shown').selectOption({ label: 'only where' });
  await henna.locator('#set-when').fill('carrier = "road"');
  await henna.locator('#set-when').press('Enter');
  await done(henna, 'Settings of');
  await expect(henna.getByRole('heading', { name: 'Rigging' }).first()).toBeVisible();
  await henna.locator('[data-canvas] section[data-section-label=Rigging]').focus();
  await henna.keyboard.press('g');
  await done(henna, 'Put guidance');
  await henna.getByLabel('Guidance', { exact: true }).fill('<p>Read the angle off the <b>plan</b>.</p><script>alert(1)</script>');
  await henna.getByRole('button', { name: 'Set', exact: true }).press('Enter');
  await expect(henna.locator('[data-canvas] .guidance')).toHaveText('Read the angle off the plan.');

  // For the order desk: incoterm from the shipping page to the front, found on the shelf by its code.
  await newLayer(henna, 'Role Order desk', 'Order desk');
  await part(henna, 'sales_order.payment_terms').focus();
  await henna.keyboard.press('/');
  await henna.keyboard.type('incoterm');
  await henna.locator('[data-shelf] li:not([hidden]) button').first().focus();
  await henna.keyboard.press('Enter');
  await done(henna, 'Put Incoterm once more here after Payment terms.');
  await expect(henna.locator('[data-said]')).toContainText('moves');
  await henna.keyboard.press('/');
  await henna.keyboard.press('Control+a');
  await henna.keyboard.type('unloading');
  await henna.locator('[data-shelf] li:not([hidden]) button').first().focus();
  await henna.keyboard.press('Enter');
  await done(henna, 'Put Unloading place once more');
  await expect(henna.getByText(/Its widest value, of \d+ letters/)).toBeVisible();
  for (let i = 0; i < 3; i++) {
    await henna.keyboard.press('-');
    await done(henna, `made Unloading place ${3 - i} of 12 wide`.replace('made', 'Made'));
  }
  await expect(henna.locator('[data-said]')).toContainText('Its widest value');
  await henna.keyboard.press('Control+z');
  await done(henna, 'Undone');
  await henna.keyboard.press('Control+y');
  await done(henna, 'Did it again');

  // One person keeps the campaign; Norway has its own word and order, cut and put by keys.
  await newLayer(henna, 'Only Eero Lahdenmaa', 'Eero');
  await henna.locator('[data-shelf] button', { hasText: 'hidden section' }).focus();
  await henna.keyboard.press('Enter');
  await expect(part(henna, 'sales_order.main.campaign')).toBeVisible();
  await newLayer(henna, 'Company Touvisalmi Norway', 'Norway');
  await part(henna, 'sales_order.reference').focus();
  await henna.keyboard.press('Control+x');
  await part(henna, 'sales_order.number').focus();
  await henna.keyboard.press('Control+v');
  await done(henna, 'after Number');
  await henna.getByLabel('Label here').fill('Mark');
  await henna.getByText('In other languages').press('Enter');
  await henna.locator('#set-texts').fill('nb: Merke');
  await henna.getByRole('button', { name: 'Set', exact: true }).press('Enter');
  await expect(henna.getByText('Norway called it “Mark”.')).toBeVisible();

  // Seen as three people before it is live.
  const seen = async name => {
    await henna.goto(`${pelto.url}/setup/see?person=${name}&type=sales_order&record=300`);
    return henna.locator('[data-seen]');
  };
  await expect((await seen('eero.lahdenmaa')).getByRole('heading', { name: 'Campaign' })).toBeVisible();
  await expect((await seen('kaisa.purjeranta')).getByRole('heading', { name: 'Campaign' })).toHaveCount(0);
  await expect((await seen('sigrid.skarvik')).locator('.f').nth(1)).toContainText('Merke');
  await expect((await seen('vieno.kallioaho')).locator('#page-0').getByText('Incoterm')).toHaveCount(0);

  // Live while all of them have it open: offered, and nothing typed is lost.
  await henna.goto(`${pelto.url}/setup/draft`);
  await henna.getByLabel(/Why does this/).fill('Each their screen');
  await henna.getByRole('button', { name: /^Publish/ }).click();
  await expect(kaisa.getByText(/Release 2 is live/)).toBeVisible();
  await kaisa.getByRole('button', { name: 'Show them' }).click();
  await expect(kaisa.locator('#page-0').getByLabel('Incoterm')).toBeVisible();
  await expect(kaisa.getByLabel('Customer\'s reference')).toHaveValue('Site 7');
  await expect(kaisa.getByRole('heading', { name: 'Campaign' })).toHaveCount(0);
  await sigrid.getByRole('button', { name: 'Show them' }).click();
  await expect(sigrid.getByLabel('Merke')).toBeVisible();

  await kaisa.keyboard.press('Control+s');
  await expect(kaisa.getByText('Saved.', { exact: true })).toBeVisible();
  const api = await pelto.api('administrator');
  const card = await (await api('setup/draft')).json();
  expect(card.layers.map(layer => layer.audience).sort()).toEqual(['company:no', 'everyone', 'role:order_desk', 'user:eero.lahdenmaa']);

  // The ERP's next version, found by its name: what it does to each layer is told first, then seen as somebody, then live while all work.
  await kaisa.getByLabel('Customer\'s reference').fill('Site 8');
  await goTo(henna, 'ERP version');
  await expect(henna.getByText('Warehouse moves from the page Shipping to the page Order, section Order.')).toBeVisible();
  await expect(henna.getByRole('heading', { name: 'Norway for company Touvisalmi Norway' })).toContainText('follow');
  await expect(henna.getByRole('heading', { name: /^Order desk/ })).toContainText('2 stay as they are');
  await henna.getByRole('button', { name: 'Put 4.3 in the draft' }).focus();
  await henna.keyboard.press('Enter');
  await expect(henna.getByText('Rigging suite is updated from 4.2 to 4.3.')).toBeVisible();
  await expect((await seen('sigrid.skarvik')).locator('.f').nth(1)).toContainText('Merke');
  await henna.goto(`${pelto.url}/setup/draft`);
  await henna.getByLabel(/Why does this/).fill('The vendor\'s next version');
  await henna.keyboard.press('Tab');
  await henna.keyboard.press('Enter');
  await expect(kaisa.getByText(/Release 3 is live/)).toBeVisible();

  // The form of the version before is saved as it stands, though the code of what was typed is another now; then everything is in its place.
  await kaisa.keyboard.press('Control+s');
  await expect(kaisa.getByText('Saved.', { exact: true })).toBeVisible();
  await expect(kaisa.locator('#page-0').getByLabel('Incoterm')).toBeVisible();
  await expect(kaisa.locator('#page-0').getByRole('combobox', { name: 'Warehouse' })).toBeVisible();
  await expect(kaisa.getByLabel('Customer\'s reference')).toHaveValue('Site 8');
  await expect(kaisa.getByRole('heading', { name: 'Campaign' })).toHaveCount(0);
  expect(pelto.sql('SELECT reference FROM erp.sales_order WHERE id = 300')).toBe('Site 8');
  await kaisa.getByRole('tab', { name: 'Shipping' }).focus();
  await kaisa.keyboard.press('Enter');
  await expect(kaisa.getByRole('heading', { name: 'Transport' })).toBeVisible();

  // Why do I see this?
  await kaisa.goto(`${pelto.url}/records/sales_order/300`);
  await kaisa.keyboard.press('Alt+o');
  await kaisa.locator('#page-0').getByRole('button', { name: /^Incoterm: built in/ }).focus();
  await kaisa.keyboard.press('Enter');
  await expect(kaisa.getByRole('dialog', { name: 'Origin of Incoterm' })).toContainText('Order desk put it once more here after Payment terms.');

  // And back, which loses nothing either: Norway's word stands where it stood.
  await goTo(henna, 'ERP version');
  await henna.getByRole('button', { name: 'Put 4.2 in the draft' }).press('Enter');
  await henna.getByLabel(/Why does this/).fill('Not yet');
  await henna.getByRole('button', { name: /^Publish/ }).press('Enter');
  await expect(henna.getByText('Release 4 is live').first()).toBeVisible();
  await sigrid.goto(`${pelto.url}/records/sales_order/300`);
  await expect(sigrid.getByLabel('Merke')).toHaveValue('Site 8');
  await expect(sigrid.locator('#page-0').getByRole('combobox', { name: 'Warehouse' })).toHaveCount(0);
});

test('a field at two places is one value; a condition switched while typing shows at once, keeps what was typed and says what will not be saved', async ({ person }) => {
  const api = await pelto.api('administrator');
  const draft = await (await api('setup/draft')).json();
  draft.layers = [{ id: 'site', label: 'Site', audience: 'everyone', operations: [
    { op: 'put', part: 'p-sec', screen: 'sales_order', label: 'Rigging', after: 'sales_order.main.order', when: 'carrier = "road"', new: { what: 'section' } },
    { op: 'put', part: 'p-text', screen: 'sales_order', after: 'p-sec', new: { what: 'guidance', text: 'Read the angle off the <b>plan</b>.' } },
    { op: 'put', part: 'sales_order.campaign', after: 'p-text' },
    { op: 'hide', part: 'sales_order.campaign', when: 'NOT(carrier = "road")' },
    { op: 'hide', part: 'sales_order.incoterm', when: 'NOT(carrier = "road")' },
    { op: 'put', part: 'p-place', screen: 'sales_order', after: 'sales_order.payment_terms', width: 4, new: { what: 'again', field: 'sales_order.unloading_place' } }] }];
  expect((await api('setup/draft', { method: 'PUT', body: draft })).ok).toBe(true);
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'Two places' } })).ok).toBe(true);

  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/301`);
  const front = page.locator('#page-0').getByLabel('Unloading place');
  await front.fill('Quay 3');
  await page.getByRole('tab', { name: 'Shipping' }).click();
  await expect(page.locator('#page-1').getByLabel('Unloading place')).toHaveValue('Quay 3');
  await page.locator('#page-1').getByLabel('Unloading place').fill('Quay 4');
  await page.locator('#page-1').getByLabel('Carrier').selectOption('road');
  await page.getByRole('tab', { name: 'Order' }).click();
  await expect(front).toHaveValue('Quay 4');
  await expect(page.getByText('Read the angle off the plan.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Campaign', exact: true }).fill('Autumn');
  await page.getByRole('tab', { name: 'Shipping' }).click();
  await page.locator('#page-1').getByLabel('Carrier').focus();
  await page.locator('#page-1').getByLabel('Carrier').selectOption('van');
  await expect(page.getByText('Campaign is not on the screen as things stand: what you typed there is not saved.')).toBeVisible();
  await expect(page.locator('#page-1').getByLabel('Carrier')).toBeFocused();
  await page.locator('#page-1').getByLabel('Carrier').selectOption('road');
  await page.getByRole('tab', { name: 'Order' }).click();
  await expect(page.getByRole('textbox', { name: 'Campaign', exact: true })).toHaveValue('Autumn');
  await page.getByRole('tab', { name: 'Shipping' }).click();
  await page.locator('#page-1').getByLabel('Carrier').selectOption('van');
  await expect(page.getByText('Read the angle off the plan.')).toHaveCount(0);
  await page.getByRole('button', { name: /^Save/ }).click();
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible();
  await expect(front).toHaveValue('Quay 4');
  expect(pelto.sql('SELECT campaign IS NULL FROM erp.sales_order WHERE id = 301')).toBe('t');

  // What a document takes over from the one before is kept, though a condition keeps it off the screen.
  const quotation = pelto.sql("SELECT min(id) FROM erp.quotation WHERE status = 'open'");
  pelto.sql(`UPDATE erp.quotation SET incoterm = 'DAP' WHERE id = ${quotation}`);
  await page.goto(`${pelto.url}/records/sales_order/new?from=quotation/${quotation}`);
  await page.getByRole('tab', { name: 'Shipping' }).click();
  await expect(page.locator('#page-1').getByLabel('Incoterm')).toHaveCount(0);
  await page.getByRole('button', { name: /^Save/ }).click();
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible();
  expect(pelto.sql('SELECT incoterm FROM erp.sales_order ORDER BY id DESC LIMIT 1')).toBe('DAP');
});

test('a scratch field is put in, read by a condition and by another beside it, and is gone on leaving; the record is not touched', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro', { viewport: { width: 1440, height: 900 } });
  await henna.goto(arrange());
  await part(henna, 'sales_order.gross_total').focus();
  await henna.keyboard.press('c');
  await done(henna, 'Put the scratch field Scratch here after Total');
  await henna.getByLabel('Label here').fill('Wished discount');
  await henna.locator('#set-code').fill('wish');
  await henna.locator('#set-kind').selectOption('percent');
  await henna.getByRole('button', { name: 'Set', exact: true }).press('Enter');
  await done(henna, 'Settings of');
  await henna.locator('[data-canvas] .scratch').first().focus();
  await henna.keyboard.press('c');
  await done(henna, 'Put the scratch field Scratch here after Wished discount');
  await henna.getByLabel('Label here').fill('Would come to');
  await henna.locator('#set-code').fill('would');
  await henna.locator('#set-formula').fill('ROUND(net_total * (1 - :wish); 2)');
  await henna.getByRole('button', { name: 'Set', exact: true }).press('Enter');
  await done(henna, 'Settings of');
  await part(henna, 'sales_order.salesperson').focus();
  await expect(henna.locator('#part h2')).toHaveText('Salesperson');
  await henna.getByLabel('Shown').selectOption({ label: 'only where' });
  await henna.locator('#set-when').fill('NOT(:wish > 20%)');
  await henna.locator('#set-when').press('Enter');
  await done(henna, 'Settings of Salesperson');
  await henna.getByRole('link', { name: 'Review and publish' }).click();
  await henna.getByLabel(/Why does this/).fill('Bargaining');
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/Release \d+ is live/).first().waitFor();

  const kaisa = await person(pelto, 'Kaisa Purjeranta');
  await kaisa.goto(`${pelto.url}/records/sales_order/305`);
  const net = Number(pelto.sql('SELECT net_total FROM erp.sales_order WHERE id = 305'));
  await kaisa.getByLabel('Wished discount').fill('10');
  await expect(kaisa.locator('[data-output="scratch~would"]')).toHaveText(new RegExp((Math.round(net * 90) / 100).toFixed(2).replace('.', '\\.').slice(-6)));
  await kaisa.getByLabel('Wished discount').fill('a lot');
  await kaisa.keyboard.press('Tab');
  await expect(kaisa.locator('#scratch-wish-message')).toBeVisible();
  await kaisa.getByLabel('Wished discount').fill('30');
  await expect(kaisa.getByLabel('Salesperson')).toHaveCount(0);
  await expect(kaisa.getByLabel('Wished discount')).toHaveValue('30');

  // Nothing of the record changed, so one leaves without being asked, and comes back to an empty field.
  await kaisa.goto(`${pelto.url}/records/sales_order`);
  await kaisa.goBack();
  await kaisa.reload();
  await expect(kaisa.getByLabel('Wished discount')).toHaveValue('');
  await expect(kaisa.getByText('What you typed')).toHaveCount(0);
  expect(Number(pelto.sql('SELECT net_total FROM erp.sales_order WHERE id = 305'))).toBe(net);
});

test('with the pointer: dragged from the shelf and over the screen, an occupied place answered with another; what the canvas shows is what people get', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro', { viewport: { width: 1440, height: 900 } });
  await henna.goto(arrange('site'));
  const box = await part(henna, 'sales_order.wanted_by').boundingBox();
  await henna.locator('[data-find-shelf]').fill('carrier');
  await henna.locator('[data-shelf] li:not([hidden]) button').first().dragTo(part(henna, 'sales_order.wanted_by'), { targetPosition: { x: box.width - 4, y: 20 } });
  await done(henna, 'Put Carrier once more here after Wanted by. Status moves to the next row');
  const top = async id => (await part(henna, id).boundingBox()).y;
  expect(await top('sales_order.status')).toBeGreaterThan(await top('sales_order.wanted_by'));
  await henna.getByRole('button', { name: /instead, which moves nothing/ }).click();
  await done(henna, 'Put Carrier after Customer\'s reference. Status moves one row up');
  await part(henna, 'sales_order.salesperson').dragTo(part(henna, 'sales_order.number'), { targetPosition: { x: 4, y: 20 } });
  await done(henna, 'Put Salesperson');

  // A row begins where a key says so.
  await part(henna, 'sales_order.currency').focus();
  await henna.keyboard.press('n');
  await done(henna, 'Let Currency begin a row');
  expect(await part(henna, 'sales_order.currency').evaluate(one => Math.round(one.getBoundingClientRect().left - one.parentElement.getBoundingClientRect().left))).toBe(0);

  // Position for position: the canvas against the form that somebody without further layers gets of the draft.
  const places = locator => locator.evaluateAll(all => all.filter(one => one.getClientRects().length > 0).map(one => {
    const grid = one.parentElement.getBoundingClientRect();
    const at = one.getBoundingClientRect();
    return `${one.dataset.place ?? one.dataset.extra}@${Math.round((at.left - grid.left) / grid.width * 12)}+${Math.round(at.width / grid.width * 12)}`;
  }));
  const types = pelto.sql("SELECT string_agg(table_name, ' ') FROM information_schema.tables t WHERE table_schema = 'erp' AND NOT EXISTS (SELECT FROM information_schema.columns c WHERE c.table_schema = 'erp' AND c.table_name = t.table_name AND c.column_name = 'parent')").split(' ');
  expect(types.length).toBeGreaterThan(15);
  for (const type of types) {
    await henna.goto(`${pelto.url}/setup/arrange?type=${type}&layer=site`);
    await henna.locator('[data-canvas] [data-select]').first().waitFor();
    const canvas = await places(henna.locator('[data-canvas] .f'));
    await henna.goto(`${pelto.url}/setup/see?person=henna.aro&type=${type}`);
    expect(await places(henna.locator('[data-seen] .f'))).toEqual(canvas);
  }
});

test('the turns of Tab in Arrange, and their play-through, are where Tab goes on the record; the number of lines is the record’s; what is refused is not said to be done', async ({ person }) => {
  const order = Number(pelto.sql('SELECT parent FROM erp.sales_order_lines GROUP BY 1 HAVING count(*) > 3 ORDER BY 1 LIMIT 1'));
  const api = await pelto.api('administrator');
  const draft = await (await api('setup/draft')).json();
  const before = draft.layers ?? [];
  draft.layers = [...before.filter(layer => layer.id !== 'site'), { id: 'site', label: 'Site', audience: 'everyone', operations: [{ op: 'tab', part: 'sales_order.reference', after: 'sales_order.customer' }, { op: 'tab', part: 'sales_order.currency', off: true }, { op: 'tab', part: 'sales_order.lines.price', after: 'sales_order.lines.item' }] }];
  expect((await api('setup/draft', { method: 'PUT', body: draft })).ok).toBe(true);
  const henna = await person(pelto, 'Henna Aro', { viewport: { width: 1440, height: 900 } });
  await henna.goto(`${pelto.url}/setup/arrange?type=sales_order&layer=site&record=${order}`);
  const turns = async () => Object.fromEntries((await henna.locator('[data-canvas] .turn').evaluateAll(all => all.map(turn => [turn.parentElement.dataset.select, turn.textContent])).then(all => all.filter(([, turn]) => turn !== 'skip'))).map(([id, turn]) => [id, Number(turn)]));
  await expect.poll(async () => (await turns())['sales_order.customer']).toBe(1);
  const shown = await turns();
  expect(shown['sales_order.reference']).toBe(2);
  expect(shown['sales_order.currency']).toBeUndefined();
  expect(shown['sales_order.number']).toBeUndefined();

  // The number of lines is the record's, though two are enough to see how they look.
  const count = Number(pelto.sql(`SELECT count(*) FROM erp.sales_order_lines WHERE parent = ${order}`));
  await expect(henna.locator('[data-canvas] [data-line-count]').first()).toHaveText(String(count));
  await expect(henna.locator('[data-canvas] tr[data-line]')).toHaveCount(2);

  // What cannot be is said, is not in the draft, and there is nothing of it to undo.
  const layer = async () => (await (await api('setup/draft')).json()).layers.find(one => one.id === 'site').operations.length;
  await henna.locator('[data-canvas] [data-select="sales_order.customer"]').focus();
  await henna.keyboard.press('Delete');
  await expect(henna.locator('[data-said]')).toContainText('Not done: ');
  expect(await layer()).toBe(3);
  await henna.keyboard.press('Control+z');
  await expect(henna.locator('[data-said]')).toHaveText('There is nothing to undo since you came here.');
  await henna.locator('#part summary', { hasText: 'In other languages' }).click();
  await henna.locator('#set-texts').fill('nb: Kunden\nAsiakas');
  await henna.getByRole('button', { name: 'Set', exact: true }).click();
  await expect(henna.locator('[data-said]')).toContainText('Not done: “Asiakas” does not begin with its language');
  await expect(henna.locator('#set-texts')).toHaveValue('nb: Kunden\nAsiakas');
  expect(await layer()).toBe(3);
  await henna.locator('[data-canvas] [data-select="sales_order.customer"]').focus();
  await henna.keyboard.press('t');
  await expect(henna.locator('[data-said]')).toContainText('That is where Tab goes on this page:', { timeout: 30_000 });

  // On the record itself.
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'Tab' } })).ok).toBe(true);
  const desk = await person(pelto, 'Henna Aro', { viewport: { width: 1440, height: 900 } });
  await desk.goto(`${pelto.url}/records/sales_order/${order}`);
  await desk.locator('[data-place="sales_order.customer"] input:not([type=hidden])').focus();
  const been = ['sales_order.customer'];
  while (been.length < Object.keys(shown).length) {
    await desk.keyboard.press('Tab');
    const place = await desk.evaluate(() => {
      const cell = document.activeElement.closest('td[data-heading]');
      return cell ? cell.closest('table').querySelector('thead tr').children[cell.cellIndex].dataset.place : document.activeElement.closest('.f[data-place]')?.dataset.place;
    });
    if (place && place !== been.at(-1)) been.push(place);
    if (been.length > 2 && place === been[0]) break;
  }
  const wanted = Object.entries(shown).sort(([, one], [, other]) => one - other).map(([id]) => id);
  const firstLine = wanted.findIndex(id => id.startsWith('sales_order.lines.'));
  const lineStops = wanted.filter(id => id.startsWith('sales_order.lines.')).length;
  expect(been.slice(0, firstLine + lineStops)).toEqual(wanted.slice(0, firstLine + lineStops));
});
