// Nothing typed is lost: every kind of input, in the header and in lines, through everything that draws the form anew.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const order = '/records/sales_order/300';
const dot = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64');

// How each kind is defined, and what somebody does in its input. Most are typed in a way that Pelto itself would write otherwise.
const choices = [{ code: 'steel', label: 'Steel' }, { code: 'fibre', label: 'Fibre' }];
const type = text => (page, id) => page.locator(id).fill(text);
const choose = text => async (page, id) => {
  await page.locator(id).fill(text);
  await page.locator(`#${await page.locator(id).getAttribute('aria-controls')} li[data-id]`).first().waitFor();
  await page.locator(id).press('Enter');
};
const tag = (text, half) => async (page, id) => {
  await choose(text)(page, `${id}-add`);
  await page.locator(`${id}-add`).fill(half);
};
const bring = (name, buffer) => async (page, id) => {
  await page.locator(id).setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
  await page.locator(`.file:has(${id})`).getByRole('link', { name }).waitFor();
};
const kinds = {
  text: [{}, type('As typed')],
  long_text: [{}, type('One\nTwo')],
  formatted_text: [{}, async (page, id) => {
    await page.locator(id).click();
    await page.keyboard.type('Keep ');
    await page.keyboard.press('Control+b');
    await page.keyboard.type('dry');
  }],
  integer: [{}, type('0042')],
  decimal: [{ decimals: 3 }, type('01.5')],
  money: [{ currencies: ['EUR', 'NOK'] }, async (page, id) => {
    await page.locator(id).fill('7.5');
    await page.locator(`.amount:has(${id}) select`).selectOption('NOK');
  }],
  percent: [{}, type('012.5')],
  quantity: [{ units: ['KGM', 'TNE'] }, async (page, id) => {
    await page.locator(id).fill('01.5');
    await page.locator(`.amount:has(${id}) select`).selectOption('TNE');
  }],
  date: [{}, type('2026-02-3')],
  time: [{}, type('1430')],
  date_time: [{}, type('2026-11-25 1430')],
  yes_no: [{}, (page, id) => page.locator(id).selectOption('no')],
  choice: [{ choices }, (page, id) => page.locator(id).selectOption('fibre')],
  choices: [{ choices }, tag('Steel', 'fib')],
  file: [{}, bring('sheet.txt', Buffer.from('text'))],
  image: [{}, bring('photo.png', dot)],
  web_address: [{}, type('example.org/rope')],
  email: [{}, type('sales@example.org')],
  phone: [{}, type('041 2345678')],
  identifier: [{ scheme: 'iban' }, type('fi2112345600000785')],
  secret: [{}, type('sesame')],
  link: [{ target: 'partner' }, type('P-0177')],
  links: [{ target: 'employee' }, tag('Kaisa', 'Nobody')],
};
const more = {
  // The same kinds as they are drawn otherwise, and what is filled but typed over.
  adding: [{ kind: 'choice', choices, mayAdd: true }, choose('Fibre')],
  filled: [{ kind: 'text', length: 60, formula: 'set below', fills: 'untouched' }, type('By hand')],
};
const partOf = at => at === 'header' ? 't' : 'l';
const every = () => ['header', 'lines'].flatMap(at => Object.entries({ ...kinds, ...more }).map(([name, [definition, act]]) => ({ at, code: `${partOf(at)}_${name}`, definition: { kind: name, ...definition }, act })));

test.beforeAll(async () => {
  const api = await pelto.api('administrator');
  const all = await (await api('setup/draft')).json();
  const schema = await (await api('setup/schema')).text();
  for (const kind of Object.keys(kinds)) expect(schema).toContain(`"${kind}"`);
  for (const { at, code, definition } of every()) {
    const { formula, ...rest } = definition;
    all.fields.push({ recordType: 'sales_order', part: at, code, label: `My ${code}`, ...rest, ...(formula && { formula: at === 'header' ? 'customer.city' : 'item.name & "!"' }) });
  }
  all.fields.push({ recordType: 'sales_order', code: 'stamp', label: 'Stamp', kind: 'text', length: 20, unique: true });
  all.fields.push({ recordType: 'sales_order', code: 'switch', label: 'Switch', kind: 'integer' });
  all.layers = [{ id: 'site', label: 'Site', audience: 'everyone', operations: [{ op: 'hide', part: 'sales_order.incoterm', when: 'switch = 2' }] }];
  const kept = await api('setup/draft', { method: 'PUT', body: all });
  if (!kept.ok) throw new Error(await kept.text());
  const live = await api('setup/publish', { method: 'POST', body: { comment: 'All kinds' } });
  if (!live.ok) throw new Error(await live.text());
  const other = await api('records/sales_order/301', { method: 'PATCH', body: { values: { stamp: 'TAKEN' } } });
  if (!other.ok) throw new Error(await other.text());
});

// All that stands in the inputs, as people see it and as it would be sent.
const standing = (page, without = '') => page.evaluate(skip => {
  const all = {};
  for (const input of document.querySelectorAll('#record [id*="-t_"], #record [id*="-l_"]')) {
    if (!input.matches('input, select, textarea, [contenteditable], [data-tags]') || input.closest('[data-blank]') || (skip && input.id.includes(skip))) continue;
    const box = input.closest('[data-tags], [data-file], [data-editor], .pick, .amount, .secret') ?? input;
    const controls = [box, ...box.querySelectorAll('input, select, textarea')].filter(control => control.matches('input:not([type=file]), select, textarea'));
    all[input.id] = JSON.stringify([...controls.map(control => control.value), box.querySelector('[contenteditable]')?.innerHTML ?? '', box.querySelector('[data-file-now]')?.textContent.trim() ?? '', [...box.querySelectorAll('.tag')].map(one => one.textContent.replaceAll(/\s+|×/g, ""))]);
  }
  return all;
}, without);

const settled = page => page.locator('body:not([data-trying])').waitFor({ state: 'attached' });
const refusal = (page, label) => page.locator(`[data-label="${label}"] .message`);
const showRelease = async (page, code) => {
  await pelto.publish({ recordType: 'sales_order', code, label: `Live ${code}`, kind: 'text', length: 20 });
  await page.getByRole('button', { name: 'Show them' }).last().click();
  await page.getByLabel(`Live ${code}`).waitFor();
};

test('what is typed in any kind of input, in the header and in lines, outlasts all that draws the form anew', async ({ person }) => {
  test.setTimeout(400_000);
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(pelto.url + order);
  const before = await standing(page);
  const line = await page.locator('tr[data-line]').first().getAttribute('data-line');
  for (const { at, code, act } of every()) await act(page, at === 'header' ? `#header-${code}` : `#lines-${line}-${code}`);
  await page.getByLabel('Order date').fill('tomorrow');
  await page.getByLabel('Stamp').fill('TAKEN');
  await settled(page);
  const typed = await standing(page);
  for (const { at, code } of every()) {
    const id = at === 'header' ? `header-${code}` : `lines-${line}-${code}`;
    expect(typed[id] ?? typed[`${id}-add`], id).not.toBe(before[id] ?? before[`${id}-add`]);
  }
  const holds = async what => {
    await settled(page);
    expect(await standing(page), what).toEqual(typed);
  };
  const refuses = async () => {
    await expect(refusal(page, 'Order date')).toContainText('is not a date');
    await expect(refusal(page, 'Stamp')).toContainText('has this stamp already');
    await expect(refusal(page, 'My t_links')).toContainText('There is no employee “Nobody”');
  };

  await page.keyboard.press('Control+s');
  await page.getByText('Not saved yet.').waitFor();
  await holds('a refused save');
  await refuses();
  await showRelease(page, 'second');
  await holds('a release');
  await refuses();
  await page.getByLabel('Switch').fill('2');
  await expect(page.getByLabel('Incoterm')).toHaveCount(0);
  await holds('a condition');
  await refuses();

  // Somebody else saves the same field, and another.
  const api = await pelto.api('administrator');
  expect((await api('records/sales_order/300', { method: 'PATCH', body: { values: { t_text: 'Theirs', t_integer: 7 } } })).ok).toBe(true);
  await page.getByLabel('Order date').fill('2026-02-01');
  await page.getByLabel('Stamp').fill('FREE');
  await page.locator('#header-t_links-add').fill('');
  await page.locator('#header-t_choices-add').fill('');
  await page.locator(`#lines-${line}-l_links-add`).fill('');
  await page.locator(`#lines-${line}-l_choices-add`).fill('');
  await settled(page);
  Object.assign(typed, await standing(page));
  await expect(page.locator('[data-wrong]')).toHaveText('All of that is corrected: save again.');
  await expect(page.getByText('to look at')).toBeHidden();
  await page.keyboard.press('Control+s');
  await page.getByText('Somebody else saved this record meanwhile').waitFor();
  await holds('another person’s save');
  await expect(refusal(page, 'My t_text')).toContainText('Theirs');

  // A release is shown on a slow line, while somebody types on and adds a line.
  await page.route('**/*handler=Draw', async route => {
    await new Promise(done => setTimeout(done, 1500));
    await route.continue();
  });
  const showing = showRelease(page, 'third');
  await page.getByRole('button', { name: 'Show them' }).last().waitFor();
  await page.waitForTimeout(300);
  await page.locator('#header-t_text').fill('Typed while it was drawn');
  const ids = Object.keys(await standing(page)).length;
  await page.keyboard.press('Alt+n');
  await page.keyboard.type('SHB-25');
  await showing;
  Object.assign(typed, { 'header-t_text': JSON.stringify(['Typed while it was drawn', '', '', []]) });
  await settled(page);
  const now = await standing(page);
  expect(now).toMatchObject(typed);
  expect(Object.keys(now).length).toBeGreaterThan(ids);
  await expect(page.locator('tr[data-line]').last().locator('[data-pick]').first()).toHaveValue(/SHB-25/);
  await expect(refusal(page, 'My t_text')).toContainText('Theirs');
  await page.unroute('**/*handler=Draw');

  // A line that was removed can be brought back after the form was drawn anew, with what was typed there.
  await page.getByRole('textbox', { name: 'Quantity', exact: true }).first().press('Alt+Backspace');
  await page.getByRole('button', { name: 'Undo' }).waitFor();
  await page.getByLabel('Switch').fill('3');
  await page.getByLabel('Incoterm').waitFor({ state: 'attached' });
  await page.getByRole('button', { name: 'Undo' }).click();
  await settled(page);
  expect(await standing(page)).toMatchObject(typed);

  // Answers that come in another order than they were asked for.
  let slow = true;
  await page.route('**/*handler=Try', async route => {
    if (slow) {
      slow = false;
      await new Promise(done => setTimeout(done, 2000));
    }
    await route.continue();
  });
  await page.getByRole('textbox', { name: 'Quantity', exact: true }).first().fill('4');
  await page.waitForTimeout(400);
  await page.getByRole('textbox', { name: 'Quantity', exact: true }).first().fill('5');
  await settled(page);
  await page.unroute('**/*handler=Try');
  const total = await page.locator('[data-output="header.net_total"]').innerText();
  const before5 = await standing(page);

  // There and back, and a reload: all but secrets, which are asked for again.
  await page.locator('#header-customer').press('Alt+g');
  await page.waitForURL(/partner/);
  await page.goBack();
  await page.getByText(/secrets are not kept in the browser/).waitFor();
  await settled(page);
  const but = all => Object.fromEntries(Object.entries(all).filter(([id]) => !id.includes('_secret')));
  expect(but(await standing(page)), 'there and back').toEqual(but(before5));
  await expect(page.locator('[data-output="header.net_total"]')).toHaveText(total);
  page.once('dialog', dialog => dialog.accept());
  await page.reload();
  await page.getByRole('button', { name: 'Restore them' }).click();
  await page.getByRole('button', { name: 'Restore them' }).waitFor({ state: 'detached' });
  await settled(page);
  expect(but(await standing(page)), 'a reload').toEqual(but(before5));

  await page.locator('#header-t_secret').fill('sesame');
  await page.keyboard.press('Control+s');
  await page.getByText('Saved.').waitFor();
  const { values } = await (await api('records/sales_order/300')).json();
  expect(values).toMatchObject({ t_text: 'Typed while it was drawn', t_integer: 42, t_decimal: 1.5, t_money: { amount: 7.5, currency: 'NOK' }, t_quantity: { amount: 1.5, unit: 'TNE' }, t_date: '2026-02-03', t_choice: 'fibre', t_choices: ['steel'], t_yes_no: false, t_adding: 'fibre', t_filled: 'By hand', stamp: 'FREE' });
});

test('what is filled and locked on the screen is read as before, while one types and after a refusal', async ({ person }) => {
  const api = await pelto.api('administrator');
  const filled = ['text', 'integer', 'decimal', 'money', 'percent', 'quantity', 'date', 'time', 'date_time', 'yes_no', 'choice', 'choices', 'web_address', 'email', 'phone', 'identifier', 'link', 'long_text'];
  const all = await (await api('setup/draft')).json();
  for (const kind of filled) all.fields.push({ id: `f-locked-${kind}`, recordType: 'sales_order', code: `locked_${kind}`, label: `Locked ${kind}`, kind, ...kinds[kind][0], formula: `t_${kind}`, fills: 'untouched' });
  all.layers[0].operations.push(...filled.map(kind => ({ op: 'lock', part: `f-locked-${kind}` })));
  const kept = await api('setup/draft', { method: 'PUT', body: all });
  expect(kept.ok, await kept.text()).toBe(true);
  const live = await api('setup/publish', { method: 'POST', body: { comment: 'Locked' } });
  expect(live.ok, await live.text()).toBe(true);
  const values = { t_text: 'A', t_long_text: 'B', t_integer: 12345, t_decimal: 1.5, t_money: { amount: 7.5, currency: 'NOK' }, t_percent: 12.5, t_quantity: { amount: 1.5, unit: 'TNE' }, t_date: '2026-02-03', t_time: '14:30', t_date_time: '2026-11-25T14:30:00Z', t_yes_no: true, t_choice: 'fibre', t_choices: ['steel', 'fibre'], t_web_address: 'https://example.org/', t_email: 'sales@example.org', t_phone: '+358412345678', t_identifier: 'FI2112345600000785', t_link: 177 };
  const put = await api('records/sales_order/320', { method: 'PATCH', body: { values } });
  expect(put.ok, await put.text()).toBe(true);
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/320`);
  const read = () => page.locator('output[id*="-locked_"]').evaluateAll(outputs => Object.fromEntries(outputs.map(output => [output.id, output.innerText.replace(/\s+/g, ' ').trim()])));
  const before = await read();
  expect(Object.keys(before).length).toBe(filled.length);
  expect(Object.values(before)).not.toContain('');
  await page.getByLabel('Order date').fill('tomorrow');
  await settled(page);
  expect(await read()).toEqual(before);
  await page.keyboard.press('Control+s');
  await page.getByText('Not saved yet.').waitFor();
  await page.getByLabel("Customer's reference").fill('x');
  await settled(page);
  expect(await read()).toEqual(before);
});

test('a release that is shown to somebody who typed nothing leaves nothing unsaved', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/316`);
  await showRelease(page, 'fourth');
  await settled(page);
  await page.reload();
  await page.locator('body[data-ready]').waitFor({ state: 'attached' });
  await settled(page);
  await expect(page.getByText('You have entries here')).toHaveCount(0);
});

test('a field that a release takes away says what was typed there', async ({ person }) => {
  await pelto.publish({ id: 'f-short', recordType: 'sales_order', code: 'short', label: 'Short-lived', kind: 'text', length: 20 });
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/310`);
  await page.getByLabel('Short-lived').fill('Half an idea');
  const api = await pelto.api('administrator');
  const draft = await (await api('setup/draft')).json();
  draft.fields.find(field => field.id === 'f-short').retired = true;
  await api('setup/draft', { method: 'PUT', body: draft });
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'Not any more' } })).ok).toBe(true);
  await page.getByRole('button', { name: 'Show them' }).click();
  await page.getByText('Short-lived is no longer on this screen. You typed there: Half an idea').waitFor();
  await expect(page.getByText('needs a look')).toHaveCount(0);
});

test('what the browser itself refuses stays said until it is mended: a picture that is none', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/311`);
  await page.locator('#header-t_image').setInputFiles({ name: 'photo.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg/>') });
  const said = refusal(page, 'My t_image');
  await expect(said).toContainText('“photo.svg” is not a picture');
  await page.getByLabel("Customer's reference").fill('Something else');
  await settled(page);
  await expect(said).toContainText('“photo.svg” is not a picture');
  await page.getByLabel('Switch').fill('2');
  await expect(page.getByLabel('Incoterm')).toHaveCount(0);
  await expect(said).toContainText('“photo.svg” is not a picture');
  await bring('photo.png', dot)(page, '#header-t_image');
  await expect(said).toBeHidden();
});

test('a refusal that only a save can tell stays until what it is about is changed', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  const id = pelto.sql("SELECT s.id FROM erp.sales_order s WHERE s.status = 'open' AND NOT EXISTS (SELECT FROM erp.delivery d WHERE d.order = s.id) LIMIT 1");
  await page.goto(`${pelto.url}/records/sales_order/${id}`);
  await page.getByRole('link', { name: /delivery/i }).first().click();
  await page.waitForURL(/delivery\/new/);
  const quantity = page.locator('tr[data-line]').first().getByRole('textbox', { name: /Quantity/ }).first();
  await quantity.fill('9999');
  await page.keyboard.press('Control+s');
  const said = page.locator('tr[data-line]').first().locator('.message:not([hidden])');
  await expect(said).toContainText('still open');
  await page.getByLabel('Parcels').fill('3');
  await settled(page);
  await expect(said).toContainText('still open');
  await quantity.fill('1');
  await expect(said).toHaveCount(0);
});

test('Alt B fills again at once, before the note beside the input stands, and says so', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/312`);
  const input = page.locator('#header-t_filled');
  const [customer, city] = pelto.sql("SELECT number || '|' || city FROM erp.partner WHERE role = 'customer' AND city > '' AND city <> (SELECT p.city FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer WHERE o.id = 312) LIMIT 1").split('|');
  await choose(customer)(page, '#header-customer');
  await expect(input).toHaveValue(city);
  await input.fill('Elsewhere');
  await input.press('Alt+b');
  await expect(page.getByText('Filled again.')).toBeVisible();
  await expect(input).toHaveValue(city);
  await page.getByLabel("Customer's reference").press('Alt+b');
  await expect(page.getByText('Nothing fills this input: it stays as it is.')).toBeVisible();
});

test('who saves on another page of the form stays there, and so does whoever is sent the address', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/313`);
  await page.getByRole('tab', { name: 'Shipping' }).click();
  await page.getByLabel('Unloading place').fill('Quay 7');
  await page.keyboard.press('Control+s');
  await page.getByText('Saved.').waitFor();
  await expect(page.getByRole('tab', { name: 'Shipping' })).toHaveAttribute('aria-selected', 'true');
  await expect(page.getByLabel('Unloading place')).toHaveValue('Quay 7');
  const address = page.url();
  await page.goto(`${pelto.url}/records/sales_order`);
  await page.goto(address);
  await expect(page.getByLabel('Unloading place')).toBeVisible();
});

test('who types on while a save is on its way finds it on the saved page, in a new line as well', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  const id = pelto.sql("SELECT max(id) FROM erp.sales_order WHERE status = 'open'");
  await page.goto(`${pelto.url}/records/sales_order/${id}`);
  await page.keyboard.press('Alt+n');
  await page.keyboard.type('SHB-25');
  await page.getByRole('option', { name: /Bow shackle 25/ }).waitFor();
  await page.keyboard.press('Enter');
  await settled(page);
  await page.route(new RegExp(`sales_order/${id}$`), async route => {
    if (route.request().method() === 'POST') await new Promise(done => setTimeout(done, 1500));
    await route.continue();
  });
  await page.keyboard.press('Control+s');
  await page.getByLabel("Customer's reference").fill('Typed on');
  await page.locator('tr[data-line]').last().getByRole('textbox', { name: 'Quantity', exact: true }).fill('12');
  await page.getByText('What you typed while it was saved is here, and not saved yet.').waitFor();
  await expect(page.getByLabel("Customer's reference")).toHaveValue('Typed on');
  await expect(page.locator('tr[data-line]').last().getByRole('textbox', { name: 'Quantity', exact: true })).toHaveValue('12');
  expect(pelto.sql(`SELECT reference FROM erp.sales_order WHERE id = ${id}`)).not.toBe('Typed on');
  await page.keyboard.press('Control+s');
  await page.getByText('Saved.').waitFor();
  await expect(page.getByText('not saved yet')).toHaveCount(0);
  expect(pelto.sql(`SELECT reference || ' ' || (SELECT quantity FROM erp.sales_order_lines WHERE parent = ${id} ORDER BY position DESC LIMIT 1) FROM erp.sales_order WHERE id = ${id}`)).toMatch(/^Typed on 12/);
});

test('a number that could be two is asked about, and a unit typed beside the number counts, in forms and in filters', async ({ person }) => {
  const page = await person(pelto, 'Kaisa Purjeranta');
  await page.goto(`${pelto.url}/records/sales_order/315`);
  await page.locator('#header-t_decimal').fill('12,500');
  await page.locator('#header-t_money').fill('12 NOK');
  await page.locator('#header-t_quantity').fill('1.5 t');
  await page.getByLabel("Customer's reference").focus();
  await expect(refusal(page, 'My t_decimal')).toContainText('can mean 12\u00a0500 or 12.5. Write 12500 or 12.5.');
  await expect(page.locator('#header-t_quantity')).toHaveValue('1.5');
  await expect(page.locator('.amount:has(#header-t_quantity) select')).toHaveValue('TNE');
  await expect(page.locator('.amount:has(#header-t_money) select')).toHaveValue('NOK');
  await page.locator('#header-t_decimal').fill('12.5');
  await page.keyboard.press('Control+s');
  await page.getByText('Saved.').waitFor();
  const api = await pelto.api('administrator');
  const { values } = await (await api('records/sales_order/315')).json();
  expect(values).toMatchObject({ t_decimal: 12.5, t_money: { amount: 12, currency: 'NOK' }, t_quantity: { amount: 1.5, unit: 'TNE' } });
  const { records } = await (await api(`records/sales_order?filter=${encodeURIComponent('t_quantity~is~1500 kgs')}`)).json();
  expect(records.map(record => record.id)).toContain(315);
  expect((await api('records/sales_order/315', { method: 'PATCH', body: { values: { t_quantity: '2 tonnes', t_decimal: '1,5' } } })).ok).toBe(true);
  expect((await (await api('records/sales_order/315')).json()).values).toMatchObject({ t_decimal: 1.5, t_quantity: { amount: 2, unit: 'TNE' } });
  const asked = await api('records/sales_order/315', { method: 'PATCH', body: { values: { t_decimal: '1,500' } } });
  expect(asked.status).toBe(422);
  expect(await asked.text()).toContain('can mean');
});

test('what is clicked, pressed and typed before the scripts of a page are there is done once they are', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  const scripts = /\/(js|lib)\/(?!early)[\w.]+\.js/;
  const early = async (address, act) => {
    let come;
    const there = new Promise(done => { come = done; });
    await page.route(scripts, async route => {
      await there;
      await route.continue();
    });
    await page.evaluate(to => { location.href = to; }, `${pelto.url}${address}`);
    await page.waitForURL(`**${address}`, { waitUntil: 'commit' });
    await page.locator('#work .section').first().waitFor();
    await act();
    expect(await page.evaluate(() => document.readyState)).not.toBe('complete');
    come();
    await page.locator('body[data-ready]').waitFor();
    await page.unroute(scripts, { behavior: 'wait' });
  };
  await early('/records/partner/177', () => page.getByText('by Customer').first().click());
  await expect(page.getByRole('link', { name: /The same as a list/ }).first()).toBeVisible();
  await early('/records/partner/178', () => page.keyboard.press('Control+k'));
  await expect(page.locator('#find-text')).toBeFocused();
  await early('/records/partner/179', () => page.getByRole('button', { name: /^Origins/ }).click());
  await expect(page.getByRole('button', { name: /^Origins/ })).toHaveAttribute('aria-pressed', 'true');
  await early('/records/sales_order/316', async () => {
    await page.getByLabel("Customer's reference").fill('Typed early');
    await page.keyboard.press('Control+s');
  });
  await expect(page.getByText('Saved.')).toBeVisible();
  expect(pelto.sql('SELECT reference FROM erp.sales_order WHERE id = 316')).toBe('Typed early');
});
