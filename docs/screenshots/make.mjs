// Makes the pictures in this folder, from the demo data: ./pelto reset, ./pelto run, then PELTO_TOKEN=$(./pelto token administrator) node docs/screenshots/make.mjs
import { chromium } from '@playwright/test';
import { join } from 'node:path';
import { chromiumPath } from '../../tests/browser/chromium.mjs';

const url = `http://127.0.0.1:${process.env.PELTO_PORT ?? 5080}`;
const browser = await chromium.launch({ executablePath: chromiumPath, args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--disable-background-networking'] });

const as = async (name, viewport = { width: 1280, height: 800 }) => {
  const page = await (await browser.newContext({ viewport })).newPage();
  await page.goto(`${url}/account/sign-in`);
  if (name === null) return page;
  await page.getByRole('button', { name }).click();
  await page.waitForURL(/records/);
  return page;
};
const shoot = async (page, name) => {
  await page.waitForTimeout(500);
  await page.screenshot({ path: join(import.meta.dirname, `${name}.png`) });
};

const henna = await as('Henna Aro');
const eero = await as('Eero Lahdenmaa');

// The usual fields of a rigging wholesaler go live first.
const define = async (label, kind, part, after, more = async () => {}) => {
  await henna.goto(`${url}/setup/fields/new?type=sales_order&part=${part}&after=${after}`);
  await henna.getByLabel('Label on screens').fill(label);
  await henna.getByRole('radio', { name: kind, exact: true }).check({ force: true });
  await more();
  await henna.waitForTimeout(500);
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();
};
const publish = async comment => {
  await henna.goto(`${url}/setup/draft`);
  await henna.getByLabel(/Why does this/).fill(comment);
  await henna.getByRole('button', { name: 'Publish', exact: true }).click();
  await henna.getByText(/is live/).first().waitFor();
};
await define('Legs', 'Integer', 'header', 'sales_order.reference');
await define('Leg angle, °', 'Integer', 'header', 'sales_order.reference');
await define('Colour', 'Choice', 'lines', 'sales_order.lines.description', () => henna.getByLabel('Choices, one per line').fill('Violet\nGreen\nYellow\nGrey\nRed'));
await publish('Slings with several legs are ordered by leg count and angle; colours tell working loads apart');

await eero.goto(`${url}/records/sales_order/300`);
await eero.getByLabel('Legs').fill('4');
await eero.getByLabel('Leg angle, °').fill('45');
await eero.getByLabel('Colour').first().selectOption('Green');
await eero.keyboard.press('Control+s');
await eero.getByText('Saved.').waitFor();
await eero.waitForTimeout(6200);
await shoot(eero, 'record');
await eero.goto(`${url}/records/sales_order?search=Boatyard`);
await shoot(eero, 'list');

await eero.goto(`${url}/records/sales_order/300`);
await eero.getByLabel("Customer's reference").fill('Slipway crane');
await eero.keyboard.press('Alt+n');
await eero.keyboard.type('SHB-22');
await eero.locator('.options li').first().waitFor();
await eero.keyboard.press('Enter');
await eero.getByRole('textbox', { name: 'Quantity' }).last().fill('16');
await eero.getByRole('textbox', { name: 'Price' }).last().fill('31.90');

// A formula, with its proof: nothing of it is saved.
await henna.goto(`${url}/setup/fields/new?type=item&part=header`);
await henna.getByLabel('Label on screens').fill('Working load limit, t');
await henna.getByRole('radio', { name: 'Decimal', exact: true }).check({ force: true });
await henna.getByRole('radio', { name: 'A formula' }).check({ force: true });
await henna.getByRole('textbox', { name: 'Formula', exact: true }).fill('breaking_load / IF(category = "hoist"; 4; 5) / 9.81');
await henna.getByText(/get a value/).waitFor();
await henna.getByRole('heading', { name: 'Kind' }).scrollIntoViewIfNeeded();
await henna.evaluate(() => window.scrollTo({ top: 300 }));
await shoot(henna, 'formula');
henna.once('dialog', dialog => dialog.accept());

await henna.goto(`${url}/records/sales_order/300`);
await henna.keyboard.press('Alt+a');
await henna.getByRole('button', { name: 'A field here: after Payment terms' }).click();
await henna.getByLabel('Label on screens').fill('Certificate copies');
await henna.getByRole('radio', { name: 'Integer', exact: true }).check({ force: true });
await henna.getByLabel('Default').fill('1');
await henna.getByLabel('Try a value').fill('two');
await shoot(henna, 'field');
await henna.getByRole('button', { name: 'Review and publish' }).click();
await henna.getByText('Adds Certificate copies').first().waitFor();
await henna.getByLabel(/Why does this/).fill('Inspection bodies ask for copies');
await shoot(henna, 'draft');
await henna.goto(`${url}/setup/fields?type=sales_order`);
await shoot(henna, 'fields');
await publish('Inspection bodies ask for copies');
await eero.getByRole('button', { name: 'Show them' }).waitFor();
await shoot(eero, 'live');
await henna.goto(`${url}/setup/releases`);

// Definitions in full, on the item: a set of fields, a list of choices, Origins, the register.
const makes = [['Before use', 'formatted_text'], ['List price', 'money', { currencies: ['EUR', 'NOK'] }], ['Duty', 'percent'], ['Least breaking force', 'quantity', { units: ['B47', 'NEW'] }], ['Counted at', 'date_time'], ['Core', 'choice', { choiceList: 'l-cores' }], ['Suits', 'choices', { choices: [{ code: 'sea', label: 'Sea' }, { code: 'forest', label: 'Forest' }, { code: 'yard', label: 'Yard' }], mayAdd: true }], ['Maker phone', 'phone'], ['GTIN', 'identifier', { scheme: 'gtin' }], ['Locker', 'secret']];
const token = process.env.PELTO_TOKEN;
const api = async (method, path, body) => (await fetch(`${url}/api/v1/${path}`, { method, headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' }, body: body && JSON.stringify(body) })).json();
const draft = await api('GET', 'setup/draft');
draft.choiceLists.push({ id: 'l-cores', label: 'Cores', mayAdd: true, choices: [{ code: 'iwrc', label: 'Wire rope core', colour: 'slate' }, { code: 'fibre', label: 'Fibre core', colour: 'moss' }, { code: 'strand', label: 'Strand core', colour: 'fjord' }, { code: 'hemp', label: 'Hemp', retired: true }, { code: 'fc', label: 'FC', mergedInto: 'fibre' }] });
for (const [label, kind, more = {}] of makes) draft.fields.push({ recordType: 'item', code: label.toLowerCase().replaceAll(' ', '_'), label, kind, ...more });
await api('PUT', 'setup/draft', draft);
await api('POST', 'setup/publish', { comment: 'What the catalogue needs of every rope' });
await api('PATCH', 'records/item/1', { values: { before_use: '<h3>Look at it</h3><ul><li>No <b>broken wires</b>, no kinks</li><li>Seizings tight</li></ul>', list_price: { amount: 1234.5, currency: 'EUR' }, duty: 0.025, least_breaking_force: { amount: 22.8, unit: 'B47' }, counted_at: '2026-11-25T12:30:00Z', core: 'iwrc', suits: ['sea', 'yard'], maker_phone: '+358412345678', gtin: '9521234567882', locker: '4711' } });
await henna.goto(`${url}/records/item/1`);
await shoot(henna, 'kinds');
await henna.keyboard.press('Alt+o');
await henna.getByRole('button', { name: /^Duty: added/ }).click();
await henna.getByRole('dialog').waitFor();
await shoot(henna, 'origins');
henna.once('dialog', dialog => dialog.accept());
await henna.goto(`${url}/setup/register`);
await shoot(henna, 'register');

// Links: what a visit offers.
await henna.goto(`${url}/setup/fields/new?type=visit`);
await henna.getByLabel('Label on screens').fill('Asset to look at');
await henna.getByRole('radio', { name: 'Link', exact: true }).check({ force: true });
await henna.getByLabel('Points to', { exact: true }).selectOption('Assets on loan');
await henna.getByLabel('Offers only those for which this holds').fill('AND(customer = record.customer; ISBLANK(returned_on))');
await henna.getByRole('heading', { name: 'What it offers' }).waitFor();
await henna.locator('#Offers').scrollIntoViewIfNeeded();
await henna.getByRole('button', { name: 'Review and publish' }).click();
await henna.getByText('Adds Asset to look at').first().waitFor();
await publish('Visits say what is looked at');
eero.once('dialog', dialog => dialog.accept());
await eero.goto(`${url}/records/sales_invoice/1`);
await shoot(eero, 'chain');

// A record type of the site's own, with a public form: made, filled outside, decided on at the desk.
const more = await api('GET', 'setup/draft');
more.recordTypes.push({ id: 't-plan', code: 'rigging_plan', label: 'Rigging plan', plural: 'Rigging plans', numbering: { prefix: 'RP-', withYear: true }, lines: [{ code: 'lifts', label: 'Lift', plural: 'Lifts' }], read: ['*'], write: ['order_desk'], publicForm: { address: 'rigging-request-7k2m9q4x', title: 'Ask us for a rigging plan', text: 'Tell us what is to be lifted, and where. We answer within two working days.', fields: [{ field: 'name' }, { field: 'wanted_on' }, { field: 'customer', released: 'country = "FI"' }, { field: 'needs' }, { field: 'lifts.description' }, { field: 'lifts.mass' }] } });
more.fields.push(
  { recordType: 'rigging_plan', code: 'customer', label: 'Customer', kind: 'link', target: 'partner' }, { recordType: 'rigging_plan', code: 'wanted_on', label: 'Wanted on', kind: 'date', required: true }, { recordType: 'rigging_plan', code: 'riggers', label: 'Riggers', kind: 'links', target: 'employee', finds: ['title'] },
  { recordType: 'rigging_plan', code: 'needs', label: 'What is needed', kind: 'choices', choices: [{ code: 'crane', label: 'A crane' }, { code: 'crew', label: 'A crew' }, { code: 'slings', label: 'Slings' }] }, { recordType: 'rigging_plan', part: 'lifts', code: 'mass', label: 'Weight', kind: 'decimal' });
await api('PUT', 'setup/draft', more);
await api('POST', 'setup/publish', { comment: 'Plans are asked for outside' });
await henna.goto(`${url}/setup/types/t-plan/form`);
await shoot(henna, 'public-form');
const outside = await (await browser.newContext({ locale: 'fi-FI' })).newPage();
await outside.goto(`${url}/form/rigging-request-7k2m9q4x`);
await outside.getByLabel('Name').fill('Quay crane');
await outside.getByLabel('Wanted on').fill('30.1.2027');
await outside.getByRole('combobox', { name: 'Customer' }).fill('selkäs');
await outside.locator('.options li[data-id]').first().waitFor();
await outside.keyboard.press('Enter');
await outside.getByLabel('A crew').check();
await outside.getByRole('button', { name: 'Add a line' }).click();
await outside.getByRole('textbox', { name: 'Description' }).fill('Jib');
await outside.getByRole('button', { name: 'Send' }).click();
await outside.getByText('It is here.').waitFor();

// A saved query that fills order lines, and the map of all that fills what.
const filled = await api('GET', 'setup/draft');
(filled.queries ??= []).push({ id: 'q-last', label: 'Last price paid', about: 'What this customer last paid for this item', built: { recordType: 'sales_order', part: 'lines', where: 'AND(customer = :customer; item = :item)', values: [{ formula: 'price' }, { formula: 'number' }, { name: 'paid_on', formula: 'order_date' }], order: 'order_date', descending: true } });
filled.fields.push(
  { recordType: 'sales_order', part: 'lines', code: 'last_price', label: 'Last price', kind: 'decimal', decimals: 2, query: { id: 'q-last', column: 'price', with: { customer: 'customer', item: 'item' } } },
  { id: 'f-weakest', recordType: 'sales_order', code: 'weakest', label: 'Weakest line, kN', kind: 'decimal', decimals: 2, formula: 'MIN(lines.item.breaking_load) / 5', live: true },
  { recordType: 'sales_order', code: 'room', label: 'Room for credit', kind: 'decimal', decimals: 2, formula: 'customer.credit_limit - gross_total', live: true });
await api('PUT', 'setup/draft', filled);
await api('POST', 'setup/publish', { comment: 'What did they pay?' });
await henna.goto(`${url}/setup/queries/q-last`);
await henna.getByLabel('Number', { exact: true }).fill('SO-10482');
await henna.getByRole('button', { name: 'Ask the database' }).click();
await henna.locator('#query-tried table').waitFor();
await shoot(henna, 'query');
await henna.goto(`${url}/setup/map?type=sales_order`);
await henna.locator('[data-node="f-weakest"]').focus();
await shoot(henna, 'map');

// Layers: an order arranged for the order desk, and as somebody of the warehouse gets it.
const laid = await api('GET', 'setup/draft');
laid.layers = [...(laid.layers ?? []), { id: 'a-no', label: 'Norway', comment: 'Their own words', audience: 'company:no', operations: [{ op: 'relabel', part: 'sales_order.reference', label: 'Mark', texts: { nb: 'Merke' } }] }, { id: 'a-desk', label: 'Order desk', comment: 'All that is asked on the telephone, on the front page', audience: 'role:order_desk', operations: [{ op: 'hide', part: 'sales_order.main.campaign' }] }];
laid.layers[0].operations.push({ op: 'put', part: 'p-rigging', screen: 'sales_order', label: 'Rigging', after: 'sales_order.main.order', when: 'NOT(ISBLANK(legs))', new: { what: 'section' } }, { op: 'put', part: 'p-guide', screen: 'sales_order', after: 'p-rigging', new: { what: 'guidance', text: '<p>Read leg count and angle off the <b>rigging plan</b>, not off the customer’s sketch.</p>' } }, ...['legs', 'leg_angle', 'weakest'].map(code => ({ op: 'put', part: laid.fields.find(field => field.code === code)?.id, after: 'p-guide' })).filter(operation => operation.part).reverse());
await api('PUT', 'setup/draft', laid);
await henna.goto(`${url}/setup/arrange?type=sales_order&layer=a-desk&record=300`);
await henna.locator('[data-select="sales_order.payment_terms"]').click();
await henna.locator('[data-find-shelf]').fill('incoterm');
await henna.locator('[data-shelf] li:not([hidden]) button').first().press('Enter');
await henna.getByText(/Put Incoterm once more/).first().waitFor();
await henna.locator('[data-find-shelf]').fill('');
await shoot(henna, 'arrange');
await henna.goto(`${url}/setup/see?person=arne.steinsund&type=sales_order&record=300`);
await shoot(henna, 'see');

// The ERP's next version, and what would become of all that.
await henna.goto(`${url}/setup/update`);
await shoot(henna, 'update');

// Who may see what, in the draft.
const guarded = await api('GET', 'setup/draft');
guarded.guards = [{ on: 'partner.credit_limit', comment: 'Accounting decides it' }, { on: 'item.cost', comment: 'What we pay' }];
guarded.grants = [{ id: 'g-sets', to: ['role:accounting'], on: ['partner.credit_limit'], level: 'write', comment: 'They set it' }, { id: 'g-reads', to: ['role:sales_manager'], on: ['partner.credit_limit'], level: 'read' }, { id: 'g-knows', to: ['role:order_desk'], on: ['partner.credit_limit'], level: 'masked', comment: 'To ask accounting about it' }];
await api('PUT', 'setup/draft', guarded);
await henna.goto(`${url}/setup/access?type=partner&show=differs&field=partner.credit_limit&role=order_desk`);
await shoot(henna, 'access');

const kaisa = await as('Kaisa Purjeranta', { width: 390, height: 844 });
await kaisa.goto(`${url}/records/sales_order/300`);
await shoot(kaisa, 'record-narrow');
await browser.close();
