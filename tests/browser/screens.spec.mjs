// Every screen: WCAG 2.2 AA by axe-core, valid HTML by html-validate (the HTML living standard), nothing cut off at 1280 and at 390 wide.
import AxeBuilder from '@axe-core/playwright';
import { HtmlValidate } from 'html-validate';
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

// The longest file: its tests share the workers, each with a server of its own.
test.describe.configure({ mode: 'parallel' });

const screens = {
  'list of orders': '/records/sales_order',
  'empty list': '/records/item?search=nothing+of+this+kind',
  'order': '/records/sales_order/300',
  'new order': '/records/sales_order/new',
  'delivery to be made': '/records/delivery/new?from=sales_order/300',
  'closed invoice': '/records/sales_invoice/1',
  'list to choose from': '/records/partner?inside=yes',
  'record made in place': '/records/partner/new?inside=yes',
  'item': '/records/item/1',
  'partner': '/records/partner/177',
  'fields': '/setup/fields?type=sales_order',
  'new field': '/setup/fields/new?type=sales_order',
  'live field': '/setup/fields/f-live',
  'item of all kinds': '/records/item/2',
  'list with a filter': '/records/item?filter=price~between~1~20&IsAsked=true&In=price&Test=Between',
  'list in groups': '/records/sales_order?group=order_date:month&group=currency',
  'choice lists': '/setup/lists',
  'choice list': '/setup/lists/l-makes',
  'new list': '/setup/lists/new',
  'a usual set': '/setup/fields/set?type=item',
  'lists of what points here': '/setup/pointing?type=partner',
  shortcuts: '/setup/shortcuts',
  'record types': '/setup/types',
  'record type': '/setup/types/t-plan',
  'new record type': '/setup/types/new',
  'public form, set up': '/setup/types/t-plan/form',
  'sent in': '/records/plan/entries',
  'new record of the site': '/records/plan/new',
  'register': '/setup/register',
  'field seen through a link': '/setup/fields/f-seen',
  'field filled by a formula, live': '/setup/fields/f-room',
  'field filled by a formula, kept': '/setup/fields/f-kept',
  'field filled by a query': '/setup/fields/f-lastp',
  'queries': '/setup/queries',
  'query': '/setup/queries/q-last',
  'arranging': '/setup/arrange?type=sales_order&layer=a-desk&part=p-guide',
  'seen as somebody': '/setup/see?person=kaisa.purjeranta&type=sales_order&record=300',
  'arranging a list': '/setup/arrange?type=sales_order&layer=a-desk&of=list',
  'arranging a list within a record': '/setup/arrange?type=partner&of=in:sales_order.customer',
  'arranging a screen for oneself': '/account/arrange?type=sales_order',
  'arranging a list for oneself': '/account/arrange?type=sales_order&of=list',
  'access': '/setup/access?type=partner&field=partner.credit_limit&role=order_desk',
  'a grant': '/setup/access?type=partner&grant=g-sees',
  'why somebody has access': '/setup/access/why?type=partner&field=partner.credit_limit&person=eero.lahdenmaa&record=P-0005',
  'what a person may': '/setup/access/person?person=liisa.vesaranta',
  'map': '/setup/map',
  'map of one field, as a list': '/setup/map?follow=f-room&view=list',
  'jobs': '/setup/jobs',
  'removed fields': '/setup/removed',
  'settings': '/account/settings',
  'refused': '/account/refused',
  'audit': '/setup/audit',
  'audit, nothing found': '/setup/audit?find=nobody+did+this&since=soon',
  'people': '/setup/people',
  'a new person': '/setup/people/new',
  'signing in': '/account/security',
  'an invitation': '/account/welcome/0000',
  'draft': '/setup/draft',
  'releases': '/setup/releases',
  'versions of the ERP': '/setup/update',
  'missing': '/records/sales_order/999999',
};

test.beforeAll(async () => {
  await pelto.publish({ id: 'f-live', recordType: 'sales_order', code: 'gate', label: 'Gate', kind: 'choice', choices: [{ code: 'north', label: 'North' }], help: 'Where the lorry waits' });
  await pelto.publish({ id: 'f-line', recordType: 'sales_order', part: 'lines', code: 'examined', label: 'Next examination', kind: 'date' });
  const api = await pelto.api('administrator');
  const all = await (await api('setup/draft')).json();
  all.recordTypes.push({ id: 't-plan', code: 'plan', label: 'Plan', plural: 'Plans', numbering: { prefix: 'P-', withYear: true }, lines: [{ code: 'lifts', label: 'Lift', plural: 'Lifts' }], read: ['*'], write: ['order_desk'], publicForm: { address: 'plans-for-tests-1', title: 'Ask for a plan', text: 'We answer soon.', fields: [{ field: 'name' }, { field: 'holder', released: 'TRUE()' }, { field: 'needs' }, { field: 'lifts.description' }] } });
  all.fields.push({ recordType: 'plan', code: 'holder', label: 'Holder', kind: 'link', target: 'partner', help: 'Who asks' }, { recordType: 'plan', code: 'needs', label: 'Needs', kind: 'choices', choices: [{ code: 'crane', label: 'A crane' }, { code: 'crew', label: 'A crew' }] });
  all.choiceLists.push({ id: 'l-makes', label: 'Makes', mayAdd: true, choices: [{ code: 'steel', label: 'Steel', colour: 'slate' }, { code: 'old', label: 'Old', retired: true }, { code: 'fibre', label: 'Fibre', colour: 'moss' }] });
  const kinds = { long_text: {}, formatted_text: {}, money: { currencies: ['EUR', 'NOK'] }, percent: {}, quantity: { units: ['KGM', 'TNE'] }, time: {}, date_time: {}, choice: { choiceList: 'l-makes' }, choices: { choiceList: 'l-makes' }, file: {}, image: {}, web_address: {}, email: {}, phone: {}, identifier: { scheme: 'iban' }, secret: {}, links: { target: 'employee' } };
  for (const [kind, more] of Object.entries(kinds)) all.fields.push({ recordType: 'item', code: `k_${kind}`, label: `Kind ${kind.replace('_', ' ')}`, kind, help: 'What to fill in', ...more });
  all.fields.push({ id: 'f-seen', recordType: 'item', code: 'their_city', label: 'Their city', kind: 'seen', path: 'vendor.city' });
  all.fields.push({ id: 'f-room', recordType: 'sales_order', code: 'room', label: 'Room', kind: 'decimal', decimals: 2, formula: 'customer.credit_limit / (net_total - 100) * SUM(lines.quantity)', live: true }, { id: 'f-kept', recordType: 'sales_order', code: 'doubled', label: 'Doubled', kind: 'decimal', decimals: 2, formula: 'net_total * 2' });
  all.queries.push({ id: 'q-last', label: 'Last price', sql: 'SELECT l.price, o.number FROM sales_order_lines l JOIN sales_order o ON o.id = l.parent WHERE o.customer = :customer ORDER BY o.id DESC', parameters: [{ name: 'customer', kind: 'link' }] });
  all.fields.push({ id: 'f-lastp', recordType: 'sales_order', part: 'lines', code: 'last_price', label: 'Last price', kind: 'decimal', decimals: 2, query: { id: 'q-last', column: 'price', with: { customer: 'customer' } } });
  all.fields.push({ id: 'f-to', recordType: 'sales_order', code: 'to_city', label: 'To', kind: 'text', length: 60, formula: 'customer.city', fills: 'untouched' });
  all.layers = [...(all.layers ?? []), { id: 'a-desk', label: 'Order desk', comment: 'Their work', audience: 'role:order_desk', operations: [{ op: 'put', part: 'p-again', screen: 'sales_order', after: 'sales_order.payment_terms', new: { what: 'again', field: 'sales_order.incoterm' } }, { op: 'put', part: 'p-guide', screen: 'sales_order', after: 'p-again', new: { what: 'guidance', text: '<p>Mind the <b>angle</b></p>' } }, { op: 'put', part: 'p-print', screen: 'sales_order', label: 'Print', after: 'sales_order.main.totals', new: { what: 'button', does: 'print' } }, { op: 'tab', part: 'sales_order.company', off: true }] }];
  all.guards = [{ on: 'partner.vat_number', comment: 'For accounting' }];
  all.grants = [{ id: 'g-sees', to: ['role:order_desk', 'user:liisa.vesaranta'], on: ['partner.vat_number'], level: 'masked', when: 'country = "FI"', comment: 'To know that it is there' }, { id: 'g-late', does: 'withhold', to: ['role:guest'], on: ['type:payment'], may: ['read'], when: 'amount > 10000' }];
  await api('setup/draft', { method: 'PUT', body: all });
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'All kinds' } })).ok).toBe(true);
  await api('records/item/2', { method: 'PATCH', body: { values: { k_formatted_text: '<h3>Care</h3><p>Keep <b>dry</b></p>', k_choices: ['steel', 'fibre'], k_choice: 'steel', k_secret: 'x', k_links: [1, 2], k_money: { amount: 5, currency: 'NOK' } } } });
  const draft = await (await api('setup/draft')).json();
  draft.fields.push({ recordType: 'item', code: 'grade', label: 'Grade', kind: 'integer', defaultValue: 8 });
  await api('setup/draft', { method: 'PUT', body: draft });
});

// Pages are of one frame, so axe-core need not open a second page to put frames together; only what fails is described.
const check = async (page, where) => {
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'], preload: false });
  const { violations } = await axe.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze();
  expect(violations.map(violation => `${where}: ${violation.id}: ${violation.nodes.map(node => node.target.join(' ')).join('; ')}`)).toEqual([]);
};

// As the server sends it: browsers mend what is wrong, each in its own way.
const markup = new HtmlValidate({ extends: ['html-validate:standard'] });
const checkMarkup = async (answer, where) => {
  const { results } = await markup.validateString(await answer.text());
  expect.soft(results.flatMap(result => result.messages).map(message => `${where}: line ${message.line}: ${message.ruleId}: ${message.message}`)).toEqual([]);
};

// People call things by their labels: codes stand where one writes them, or where they are asked for.
const codesIn = page => page.evaluate(() => {
  const places = 'code, pre, kbd, textarea, option, script, style, template, [data-code], .code';
  const asked = /^Programs read|has the code/;
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  const found = new Set();
  while (walker.nextNode()) {
    const within = walker.currentNode.parentElement;
    if (asked.test(walker.currentNode.data) || within.closest(places) || !within.checkVisibility({ visibilityProperty: true })) continue;
    for (const [code] of walker.currentNode.data.matchAll(/\b[a-z]+(?:\.[a-z]+)*_[a-z_.]+\b/g)) found.add(`${code} in: ${walker.currentNode.data.trim().slice(0, 90)}`);
  }
  return [...found];
});

for (const [width, height] of [[1280, 800], [390, 844]]) {
  test(`every screen at ${width} wide`, async ({ person, browser }) => {
    test.setTimeout(400_000);
    const page = await person(pelto, 'Henna Aro', { viewport: { width, height } });
    page.removeAllListeners('console');
    for (const [name, path] of Object.entries(screens)) {
      const answer = await page.goto(pelto.url + path);
      if (width > 1000) await checkMarkup(answer, name);
      if (width > 1000) expect.soft(await codesIn(page), name).toEqual([]);
      await page.waitForTimeout(150);
      await check(page, name);
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
      expect(`${name}: ${wide} px too wide`).toBe(`${name}: 0 px too wide`);
    }
    const strangers = await browser.newContext({ viewport: { width, height } });
    const door = await strangers.newPage();
    await checkMarkup(await door.goto(`${pelto.url}/account/sign-in`), 'sign-in');
    await check(door, 'sign-in');
    await checkMarkup(await door.goto(`${pelto.url}/form/plans-for-tests-1`), 'public form');
    await door.getByRole('button', { name: 'Add a line' }).click();
    await check(door, 'public form');
    if (width > 1000) await door.getByRole('button', { name: 'Send' }).click();
    if (width > 1000) await door.getByText('It is here.').waitFor();
    await check(door, 'public form, sent');
    await strangers.close();
  });
}

test('states of screens that come and go: messages, keys, spots, a list that opens', async ({ person }) => {
  const page = await person(pelto, 'Henna Aro');
  await page.goto(`${pelto.url}/records/sales_order/new`);
  await page.getByLabel('Order date').fill('soon');
  await page.keyboard.press('Control+s');
  await page.getByRole('alert').waitFor();
  await check(page, 'messages');
  await page.keyboard.press('Alt+a');
  await check(page, 'spots');
  await page.keyboard.press('Escape');
  await page.getByRole('combobox', { name: 'Customer' }).fill('boat');
  await page.locator('.options li').first().waitFor();
  await check(page, 'open list');
  await page.keyboard.press('Enter');
  await page.getByRole('combobox', { name: 'Customer' }).hover();
  await page.getByRole('tooltip').waitFor();
  await check(page, 'card of a link');
  await page.keyboard.press('Escape');
  await page.getByRole('combobox', { name: 'Customer' }).press('F4');
  await page.frameLocator('iframe').locator('#rows').waitFor();
  await check(page, 'list to choose from, within a form');
  await page.getByRole('button', { name: 'Close' }).click();
  await page.keyboard.press('Control+k');
  await page.locator('#find-text').fill('new');
  await page.locator('#find-list [aria-selected=true]').waitFor();
  await check(page, 'find or do');
  await page.keyboard.press('Escape');
  await page.locator('[data-keys]').click();
  await expect(page.getByRole('dialog')).toBeVisible();
  await check(page, 'keys');
});

test('from sign-in to a saved order with the keyboard alone, focus always in sight', async ({ person }) => {
  const page = await person(pelto, 'Eero Lahdenmaa');
  await page.goto(`${pelto.url}/records/sales_order`);
  await page.keyboard.press('Alt+n');
  await page.waitForURL(/new$/);
  for (let i = 0; i < 60 && !(await page.evaluate(() => document.activeElement.id === 'header-customer-text' || document.activeElement.id === 'header-customer')); i++) {
    await page.keyboard.press('Tab');
    const outlined = await page.evaluate(() => getComputedStyle(document.activeElement).outlineStyle !== 'none' || document.activeElement === document.body);
    expect(outlined).toBe(true);
  }
  await page.keyboard.type('P-0005');
  await page.locator('.options li').first().waitFor();
  await page.keyboard.press('Enter');
  await page.keyboard.press('Alt+n');
  await page.keyboard.type('SHB-22');
  await page.locator('.options li', { hasText: 'SHB-22' }).waitFor();
  await page.keyboard.press('Enter');
  for (const _ of ['Description', 'Quantity', 'Unit', 'Price']) await page.keyboard.press('Tab');
  await page.keyboard.type('31.90');
  await page.keyboard.press('Control+s');
  await expect(page.getByText('Saved.')).toBeVisible();
});

test('origins on, a card open: names, contrast and size, with the pointer and from the keyboard', async ({ person }) => {
  for (const viewport of [{ width: 1280, height: 800 }, { width: 390, height: 844 }]) {
    const page = await person(pelto, 'Henna Aro', { viewport });
    await page.goto(`${pelto.url}/records/sales_order/300`);
    await page.keyboard.press('Alt+o');
    await page.getByRole('button', { name: /^Gate: added/ }).focus();
    await page.keyboard.press('Enter');
    const card = page.getByRole('dialog', { name: 'Origin of Gate' });
    await expect(card).toContainText('added.sales_order, column gate');
    await check(page, 'origins');
    await page.keyboard.press('Escape');
    await expect(card).toBeHidden();
    await expect(page.getByRole('button', { name: /^Gate: added/ })).toBeFocused();
  }
});
