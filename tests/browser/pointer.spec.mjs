// The story of placing once more, with the pointer alone where a pointer can do it: arranged by dragging and clicking, seen as three people, published while they work, the ERP's next version applied, and asked why.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const part = (page, id) => page.locator(`[data-canvas] [data-select="${id}"]`);
const done = async (page, text) => expect(page.locator('[data-said]')).toContainText(text);
const chosen = (page, name) => expect(page.locator('#part h2')).toHaveText(name);

async function layer(page, audience, name) {
  await page.getByText('New layer').click();
  await page.getByLabel('For', { exact: true }).selectOption({ label: audience });
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Why').fill('Their work');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.locator('.layer.on')).toContainText(name);
  await page.locator('body[data-ready]').waitFor({ state: 'attached' });
}

async function shelf(page, words) {
  await page.locator('[data-find-shelf]').fill(words);
  return page.locator('[data-shelf] li:not([hidden]) button').first();
}

async function publish(page, why) {
  await page.getByLabel(/Why does this/).fill(why);
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await page.getByText(/Release \d+ is live/).first().waitFor();
}

test('the story with the pointer', async ({ person }) => {
  test.setTimeout(180_000);
  const order = `${pelto.url}/records/sales_order/300`;
  const people = {};
  for (const name of ['Kaisa Purjeranta', 'Sigrid Skarvik', 'Arne Steinsund']) {
    people[name] = await person(pelto, name);
    await people[name].goto(order);
  }
  const [kaisa, sigrid, arne] = Object.values(people);
  await kaisa.getByLabel('Customer\'s reference').fill('Site 7');

  const henna = await person(pelto, 'Henna Aro', { viewport: { width: 1440, height: 900 } });
  await henna.goto(`${pelto.url}/setup/arrange?type=sales_order&record=300`);
  await part(henna, 'sales_order.main.campaign').click({ position: { x: 400, y: 14 } });
  await chosen(henna, 'Campaign');
  await henna.getByRole('button', { name: 'Take off the screen' }).click();
  await done(henna, 'Hid Campaign');

  // The rigging section, under its condition; its guidance is for new people in the warehouse, in a layer of theirs.
  await part(henna, 'sales_order.main.order').click({ position: { x: 400, y: 14 } });
  await henna.locator('[data-make=section]').click();
  await done(henna, 'Put the section New section');
  await henna.getByLabel('Label here').fill('Rigging');
  await henna.getByLabel('Shown').selectOption({ label: 'only where' });
  await henna.locator('#set-when').fill('carrier <> "air"');
  await henna.getByRole('button', { name: 'Set', exact: true }).click();
  await done(henna, 'Settings of');
  const rigging = await henna.locator('[data-canvas] section[data-section-label=Rigging]').getAttribute('data-section');
  await (await shelf(henna, 'campaign until')).dragTo(part(henna, rigging), { targetPosition: { x: 60, y: 14 } });
  await done(henna, 'Put Campaign until');
  await layer(henna, 'Role Warehouse', 'Warehouse');
  await part(henna, rigging).click({ position: { x: 400, y: 14 } });
  await henna.locator('[data-make=guidance]').click();
  await done(henna, 'Put guidance');
  await henna.getByLabel('Guidance', { exact: true }).fill('<p>Ask Osmo before the first sling.</p>');
  await henna.getByRole('button', { name: 'Set', exact: true }).click();
  await done(henna, 'Settings of');

  // Incoterm and unloading place to the order desk's front page; the campaign stays for one person; Norway's own word and order.
  await layer(henna, 'Role Order desk', 'Order desk');
  for (const [words, name] of [['incoterm', 'Incoterm'], ['unloading', 'Unloading place']]) {
    const terms = part(henna, 'sales_order.payment_terms');
    await (await shelf(henna, words)).dragTo(terms, { targetPosition: { x: (await terms.boundingBox()).width - 4, y: 20 } });
    await done(henna, `Put ${name} once more here after Payment terms`);
  }
  await layer(henna, 'Only Eero Lahdenmaa', 'Eero');
  await (await shelf(henna, 'campaign')).click();
  await expect(part(henna, 'sales_order.main.campaign')).toBeVisible();
  await layer(henna, 'Company Touvisalmi Norway', 'Norway');
  await part(henna, 'sales_order.reference').dragTo(part(henna, 'sales_order.customer'), { targetPosition: { x: 4, y: 20 } });
  await done(henna, 'Put Customer\'s reference after Number');
  await chosen(henna, 'Customer\'s reference');
  await henna.getByLabel('Label here').fill('Merke');
  await henna.getByRole('button', { name: 'Set', exact: true }).click();
  await done(henna, 'Settings of');

  for (const [name, shows] of [['Eero Lahdenmaa', 'Campaign'], ['Sigrid Skarvik', 'Merke'], ['Arne Steinsund', 'Ask Osmo']]) {
    const option = henna.locator('select[name=person] option').filter({ hasText: name });
    await henna.locator('#seeing select[name=person]').selectOption(await option.first().getAttribute('value'));
    await henna.getByRole('button', { name: 'See', exact: true }).click();
    await expect(henna.locator('[data-seen]').getByText(shows).first()).toBeVisible();
    await henna.goBack();
    await henna.locator('body[data-ready]').waitFor({ state: 'attached' });
  }

  await henna.getByRole('link', { name: 'Review and publish' }).click();
  await publish(henna, 'Each their screen');
  for (const page of [kaisa, sigrid, arne]) await page.getByRole('button', { name: 'Show them' }).click();
  await expect(kaisa.locator('#page-0').getByLabel('Unloading place')).toBeVisible();
  await expect(kaisa.getByLabel('Customer\'s reference')).toHaveValue('Site 7');
  await expect(kaisa.getByText('Ask Osmo')).toHaveCount(0);
  await expect(sigrid.getByLabel('Merke')).toBeVisible();
  await expect(arne.getByText('Ask Osmo before the first sling.')).toBeVisible();
  await kaisa.getByRole('button', { name: /^Save/ }).click();
  await expect(kaisa.getByText('Saved.', { exact: true })).toBeVisible();

  await henna.getByRole('link', { name: /ERP version/ }).click();
  await henna.getByRole('button', { name: 'Put 4.3 in the draft' }).click();
  await publish(henna, 'The vendor\'s next version');
  await kaisa.goto(order);
  await expect(kaisa.locator('#page-0').getByLabel('Incoterm')).toBeVisible();
  await expect(kaisa.getByLabel('Customer\'s reference')).toHaveValue('Site 7');
  await expect(kaisa.getByRole('heading', { name: 'Campaign' })).toHaveCount(0);
  await kaisa.getByRole('button', { name: /^Origins/ }).click();
  await kaisa.getByRole('button', { name: /^Unloading place: built in/ }).first().click();
  await expect(kaisa.getByRole('dialog', { name: 'Origin of Unloading place' })).toContainText('Order desk put it once more here after Payment terms.');
  await sigrid.goto(order);
  await expect(sigrid.getByLabel('Merke')).toHaveValue('Site 7');
  await arne.goto(order);
  await expect(arne.getByRole('heading', { name: 'Rigging' })).toBeVisible();
  await arne.getByRole('button', { name: /^Origins/ }).click();
  await arne.getByRole('button', { name: /^Ask Osmo/ }).click();
  await expect(arne.getByRole('dialog', { name: 'Origin of Guidance' })).toContainText('Comes withthe layer Warehouse');
  await arne.getByRole('button', { name: 'Close' }).click();
  await expect(arne.getByText('Ask Osmo before the first sling.')).toBeVisible();
});
