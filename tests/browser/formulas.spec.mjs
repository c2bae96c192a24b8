// Fields that formulas fill: written with help and proof, live at the desk as one types, listed, refilled.
import AxeBuilder from '@axe-core/playwright';
import { expect, publishByHand as publish, test, useServer } from './pelto.mjs';

const pelto = useServer();

const begin = async (henna, part, label, decimals) => {
  await henna.goto(`${pelto.url}/setup/fields/new?type=${part.split('/')[0]}&part=${part.split('/')[1]}`);
  await henna.getByLabel('Label on screens').fill(label);
  await henna.getByRole('radio', { name: 'Decimal', exact: true }).check({ force: true });
  await henna.getByLabel('After the point').fill(decimals);
  await henna.getByRole('radio', { name: 'A formula' }).check({ force: true });
  return henna.getByRole('textbox', { name: 'Formula', exact: true });
};

test('working load limit is written with names that come up, mistakes are said at their place, and the proof shows what comes of it before it is live', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  const formula = await begin(henna, 'item/header', 'Working load limit', '3');
  await expect(henna.getByLabel('Default for new records')).toBeHidden();

  // From the keyboard: a name by a part of its label, chosen by arrow and Enter.
  await formula.focus();
  await henna.keyboard.type('break');
  await expect(henna.getByRole('option', { name: /breaking_load/ })).toBeVisible();
  const axe = await new AxeBuilder({ page: henna }).setLegacyMode(true).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze();
  expect(axe.violations.map(violation => violation.id)).toEqual([]);
  await henna.keyboard.press('ArrowDown');
  await henna.keyboard.press('Enter');
  await expect(formula).toHaveValue('breaking_load');
  await henna.keyboard.type(' / IF(category = "hoists"; 4; 5');
  await expect(henna.getByText('This bracket is not closed.')).toBeVisible();
  await henna.keyboard.type(') / 9.81');
  await expect(henna.getByText('“hoists” is not among the choices. Did you mean hoist?')).toBeVisible();
  await expect(henna.locator('#formula-said mark')).toHaveText('"hoists"');
  await formula.fill('breaking_lod / IF(category = "hoist"; 4; 5) / 9.81');
  await expect(henna.getByText('There is no field “breaking_lod” here. Did you mean breaking_load?')).toBeVisible();

  // A mistake that is no error: the proof shows it on real records, and how many cannot be calculated.
  await formula.fill('breaking_load / (IF(category = "hoist"; 4; 5) - 5)');
  await expect(henna.getByText(/Breaking load, kN divided by/)).toBeVisible();
  await expect(henna.locator('.tally')).toContainText(/[1-9][0-9  ]* cannot be calculated/);
  await formula.fill('breaking_load / IF(category = "hoist"; 4; 5) / 9.81');
  await expect(henna.locator('.tally')).toContainText('0 cannot be calculated');
  const filled = pelto.sql('SELECT count(breaking_load) FROM erp.item');
  await expect(henna.locator('.tally')).toContainText(`${filled.replace(/(\d)(\d{3})$/, '$1 $2')} get a value`);
  await expect(henna.locator('.steps-of')).toContainText('IF(category = "hoist"; 4; 5)');
  await publish(henna, 'What an item may lift');

  const [id, limit] = pelto.sql(`SELECT id || ' ' || round(breaking_load / CASE WHEN category = 'hoist' THEN 4 ELSE 5 END / 9.81, 3) FROM erp.item WHERE breaking_load > 50 ORDER BY id LIMIT 1`).split(' ');
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/item/${id}`);
  await expect(eero.locator('.f', { hasText: 'Working load limit' })).toContainText(limit);
  await eero.goto(`${pelto.url}/records/item?order=-working_load_limit&filter=working_load_limit~to~3`);
  const first = pelto.sql(`SELECT number FROM erp.item WHERE round(breaking_load / CASE WHEN category = 'hoist' THEN 4 ELSE 5 END / 9.81, 3) <= 3 ORDER BY round(breaking_load / CASE WHEN category = 'hoist' THEN 4 ELSE 5 END / 9.81, 3) DESC, id LIMIT 1`);
  await expect(eero.locator('#more-rows tr').first()).toContainText(first);
});

test('on orders, legs and angle give the mode factor, and the weakest line follows as lines are typed, through lines and links', async ({ person }) => {
  for (const field of [
    { id: 'f-legs', recordType: 'sales_order', part: 'lines', code: 'legs', label: 'Legs', kind: 'integer' },
    { id: 'f-angle', recordType: 'sales_order', part: 'lines', code: 'angle', label: 'Angle', kind: 'integer' },
    { id: 'f-mode', recordType: 'sales_order', part: 'lines', code: 'mode', label: 'Mode factor', kind: 'decimal', decimals: 1, live: true, formula: 'IF(ISBLANK(legs); 1; IFS(legs = 1; 1; AND(legs = 2; angle <= 45); 1.4; legs = 2; 1; angle <= 45; 2.1; TRUE(); 1.5))' },
    { id: 'f-lifts', recordType: 'sales_order', part: 'lines', code: 'lifts', label: 'Lifts, t', kind: 'decimal', decimals: 2, live: true, formula: 'item.working_load_limit * mode' },
    { id: 'f-weakest', recordType: 'sales_order', part: 'header', code: 'weakest', label: 'Weakest line, t', kind: 'decimal', decimals: 2, live: true, formula: 'MIN(lines.lifts)' },
  ]) await pelto.publish(field);
  const limit = number => Number(pelto.sql(`SELECT round(breaking_load / CASE WHEN category = 'hoist' THEN 4 ELSE 5 END / 9.81, 3) FROM erp.item WHERE number = '${number}'`));
  const [strong, weak] = pelto.sql(`SELECT string_agg(number, ' ' ORDER BY breaking_load DESC) FROM (SELECT number, breaking_load FROM erp.item WHERE category = 'chain_sling' OR breaking_load BETWEEN 60 AND 400 ORDER BY id LIMIT 2) q`).split(' ');
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/sales_order/new`);
  await eero.locator('body[data-ready]').waitFor();
  const weakest = eero.locator('.f', { hasText: 'Weakest line' });
  const type = async (line, item) => {
    await eero.getByRole('combobox', { name: 'Item' }).nth(line).fill(item);
    await eero.locator('.options li', { hasText: item }).first().waitFor();
    await eero.keyboard.press('Enter');
  };
  if (await eero.getByRole('combobox', { name: 'Item' }).count() === 0) await eero.getByRole('button', { name: 'Add a line' }).click();
  await type(0, strong);
  await expect(weakest).toContainText(limit(strong).toFixed(2));
  await eero.getByRole('textbox', { name: 'Legs' }).first().fill('4');
  await eero.getByRole('textbox', { name: 'Angle' }).first().fill('60');
  await expect(weakest).toContainText((limit(strong) * 1.5).toFixed(2));
  await eero.getByRole('button', { name: 'Add a line' }).click();
  await type(1, weak);
  await expect(weakest).toContainText(Math.min(limit(strong) * 1.5, limit(weak)).toFixed(2));
});

test('a circle is refused with the path that closes it, a division by zero is told at the field and holds nobody up, and an unsound formula cannot go live', async ({ person }) => {
  await pelto.publish({ id: 'f-first', recordType: 'sales_order', code: 'first', label: 'First', kind: 'decimal', live: true, formula: 'net_total / (vat_percent - vat_percent)' });
  const henna = await person(pelto, 'Henna Aro');
  const formula = await begin(henna, 'sales_order/header', 'Second', '2');
  await formula.fill('first + second');
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await expect(henna.getByText('These fields depend on each other in a circle: Second reads Second.')).toBeVisible();
  await expect(formula).toHaveValue('first + second');
  await formula.fill('first + 10 ^ 40');
  await expect(henna.locator('.steps-of')).toContainText('The result is too large.');
  await expect(henna.locator('.steps-of')).toContainText('Division by zero.');

  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/sales_order/40`);
  await expect(eero.locator('.f', { hasText: 'First' }).first()).toContainText('Division by zero.');
  await eero.getByLabel('Customer’s reference').or(eero.getByLabel("Customer's reference")).fill('still saved');
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Saved.')).toBeVisible();
});

test('what is stored grows old behind its back: the page counts it, fills it again in the background, and that is undone', async ({ person }) => {
  await pelto.publish({ id: 'f-head', recordType: 'sales_order', code: 'headroom', label: 'Headroom', kind: 'decimal', decimals: 2, formula: 'customer.credit_limit - gross_total' });
  await expect.poll(() => pelto.sql('SELECT count(headroom) FROM added.sales_order')).toBe(pelto.sql('SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer WHERE p.credit_limit IS NOT NULL'));
  await expect.poll(() => pelto.sql("SELECT count(*) FROM pelto.job WHERE state = 'Running'")).toBe('0');
  pelto.sql('UPDATE erp.partner SET credit_limit = credit_limit + 50 WHERE id <= 30');
  const stale = pelto.sql('SELECT count(*) FROM erp.sales_order WHERE customer <= 30');
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/fields/f-head`);
  await expect(henna.getByText(`${stale} stored values are not what the formula gives now`)).toBeVisible();
  await henna.getByRole('button', { name: 'Fill again in the background' }).click();
  await expect(henna.getByText('Stores in Headroom what its formula gives').first()).toBeVisible();
  await expect.poll(() => pelto.sql('SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer LEFT JOIN added.sales_order a ON a.id = o.id WHERE a.headroom IS DISTINCT FROM p.credit_limit - o.gross_total')).toBe('0');
  await henna.reload();
  await henna.getByRole('button', { name: 'Undo' }).first().click();
  await expect.poll(() => pelto.sql('SELECT count(*) FROM erp.sales_order o JOIN erp.partner p ON p.id = o.customer LEFT JOIN added.sales_order a ON a.id = o.id WHERE a.headroom IS DISTINCT FROM p.credit_limit - o.gross_total')).toBe(stale);
});

test('the next examination follows from the last and the item’s class, and “due within 60 days” is a list', async ({ person }) => {
  const api = await pelto.api('administrator');
  const all = await (await api('setup/draft')).json();
  all.fields.push(
    { id: 'f-last-ex', recordType: 'item', code: 'last_examination', label: 'Last examination', kind: 'date' },
    { id: 'f-next-ex', recordType: 'item', code: 'next_examination', label: 'Next examination', kind: 'date', formula: 'EDATE(last_examination; IF(category = "hoist"; 6; 12))', live: true },
    { id: 'f-due', recordType: 'item', code: 'due', label: 'Due within 60 days', kind: 'yes_no', formula: 'next_examination - TODAY() <= 60', live: true },
    { id: 'f-huge', recordType: 'item', code: 'huge', label: 'Huge', kind: 'decimal', formula: 'POWER(10; 27) * price * 1000', live: true });
  expect((await api('setup/draft', { method: 'PUT', body: all })).status).toBe(200);
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'When is it due?' } })).status).toBe(200);
  const eero = await person(pelto, 'Henna Aro');
  const day = days => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
  const [hoist, sling] = pelto.sql("SELECT string_agg(id::text, '|' ORDER BY c DESC) FROM (SELECT min(id) AS id, category = 'hoist' AS c FROM erp.item WHERE price > 1 GROUP BY 2) x").split('|');
  for (const [id, last] of [[hoist, day(-140)], [sling, day(-200)]]) {
    await eero.goto(`${pelto.url}/records/item/${id}`);
    await eero.getByLabel('Last examination').fill(last);
    await eero.getByLabel('Last examination').blur();
    await expect(eero.getByLabel('Next examination')).toHaveText(/^\d{4}-\d\d-\d\d$/);
    await eero.keyboard.press('Control+s');
    await eero.getByText('Saved.').waitFor();
  }
  await expect(eero.getByLabel('Due within 60 days')).toHaveText('No');
  await expect(eero.getByLabel('Huge')).toContainText(/too large/);
  await eero.goto(`${pelto.url}/records/item?filter=due~is~yes`);
  await expect(eero.locator('tbody tr')).toHaveCount(1);
  await expect(eero.locator('tbody tr')).toContainText(pelto.sql(`SELECT number FROM erp.item WHERE id = ${hoist}`));
});

test('a field shown under a condition comes and goes as people type, is skipped by Tab while it is hidden, and keeps what it holds', async ({ person }) => {
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/fields/new?type=sales_order&part=header`);
  await henna.getByLabel('Label on screens').fill('Reason for the delay');
  await henna.getByLabel('Shown where this holds').fill('wanted_by < order_dat');
  await expect(henna.locator('#m-shownWhen')).toContainText('Did you mean order_date?');
  await henna.getByLabel('Shown where this holds').fill('wanted_by < order_date');
  const late = pelto.sql('SELECT count(*) FROM erp.sales_order WHERE wanted_by < order_date');
  await expect(henna.locator('#proof')).toContainText(`It holds on ${late} of 530 looked at.`);
  await henna.locator('#proof summary', { hasText: 'Step by step' }).click();
  await expect(henna.locator('#proof .steps-of')).toContainText('wanted_by < order_date');
  await henna.getByLabel(/Nothing is saved without it/).check();
  await expect(henna.locator('#proof')).toContainText('It is shown where wanted_by < order_date');
  await publish(henna, 'Only where it is late');
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/sales_order/45`);
  await expect(eero.getByLabel('Reason for the delay')).toBeHidden();
  await eero.getByLabel('Wanted by').fill('2001-01-01');
  await expect(eero.getByLabel('Reason for the delay')).toBeVisible();
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Reason for the delay is required.')).toBeVisible();
  await eero.getByLabel('Reason for the delay').fill('Ice on the sea');
  await eero.getByLabel('Wanted by').fill('');
  await expect(eero.getByLabel('Reason for the delay')).toBeHidden();
  await eero.keyboard.press('Control+s');
  await eero.getByText('Saved.').waitFor();
  expect(pelto.sql('SELECT reason_for_the_delay FROM added.sales_order WHERE id = 45')).toBe('Ice on the sea');
});

test('a column of lines is shown on the lines on which its condition holds, and goes with the last of them', async ({ person }) => {
  await pelto.publish({ id: 'f-why', recordType: 'sales_order', part: 'lines', code: 'why_so_many', label: 'Why so many', kind: 'text', length: 40, required: true, shownWhen: 'quantity > 500' });
  const eero = await person(pelto, 'Eero Lahdenmaa');
  const id = pelto.sql("SELECT o.id FROM erp.sales_order o WHERE status = 'open' AND (SELECT max(quantity) FROM erp.sales_order_lines WHERE parent = o.id) < 400 AND (SELECT count(*) FROM erp.sales_order_lines WHERE parent = o.id) >= 2 ORDER BY id DESC LIMIT 1");
  await eero.goto(`${pelto.url}/records/sales_order/${id}`);
  // Over its column, or in each card where the columns are more than the page is wide.
  const heading = eero.locator('.lines th:has-text("Why so many"), .lines td[data-heading^="Why so many"]').filter({ visible: true }).first();
  await expect(heading).toBeHidden();
  await eero.getByRole('textbox', { name: /^Quantity/ }).first().fill('501');
  await expect(heading).toBeVisible();
  await expect(eero.getByRole('textbox', { name: /^Why so many/ })).toHaveCount(1);
  await eero.keyboard.press('Control+s');
  await expect(eero.getByText('Why so many is required.')).toBeVisible();
  await eero.getByRole('textbox', { name: /^Why so many/ }).fill('A bridge');
  await eero.keyboard.press('Alt+n');
  await expect(eero.getByRole('textbox', { name: /^Why so many/ })).toHaveCount(1);
  await eero.getByRole('button', { name: 'Remove the line' }).last().click();
  await eero.keyboard.press('Control+s');
  await eero.getByText('Saved.').waitFor();
  expect(pelto.sql(`SELECT string_agg(a.why_so_many, ',') FROM added.sales_order_lines a JOIN erp.sales_order_lines l ON l.id = a.id WHERE l.parent = ${id}`)).toBe('A bridge');
  await eero.getByRole('textbox', { name: /^Quantity/ }).first().fill('2');
  await expect(heading).toBeHidden();
});
