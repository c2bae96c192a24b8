// The promise: a field goes live while everyone works on.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('two people at work, one with half-typed order lines, while the administrator adds a header field and a line field', async ({ person }) => {
  const eero = await person(pelto, 'Eero Lahdenmaa');
  const kaisa = await person(pelto, 'Kaisa Purjeranta');
  const henna = await person(pelto, 'Henna Aro');

  await test.step('Eero types a new order and stops in the middle of a line', async () => {
    await eero.goto(`${pelto.url}/records/sales_order/new`);
    await eero.getByRole('combobox', { name: 'Customer' }).fill('P-0177');
    await eero.getByRole('option', { name: /Selkäsaari Boatyard/ }).waitFor();
    await eero.keyboard.press('Enter');
    await eero.keyboard.press('Alt+n');
    await eero.keyboard.type('SHB-22');
    await eero.getByRole('option', { name: /Bow shackle 22 mm/ }).waitFor();
    await eero.keyboard.press('Enter');
    await eero.getByRole('textbox', { name: 'Quantity' }).fill('16');
    await eero.getByRole('textbox', { name: 'Price' }).fill('31.');
  });

  await test.step('Kaisa changes an order', async () => {
    await kaisa.goto(`${pelto.url}/records/sales_order/300`);
    await kaisa.getByLabel("Customer's reference").fill('Slipway crane');
  });

  await test.step('the administrator says "a field here", twice, and publishes', async () => {
    await henna.goto(`${pelto.url}/records/sales_order/300`);
    await henna.getByRole('button', { name: /A field here/ }).first().click();
    await henna.getByRole('button', { name: 'A field here: after Payment terms' }).click();
    await expect(henna.getByLabel('Belongs to')).toHaveValue('sales_order/header');
    await henna.getByLabel('Label on screens').fill('Certificate copies');
    await henna.getByText('Integer', { exact: true }).click();
    await expect(henna.getByLabel('Code', { exact: true })).toHaveValue('certificate_copies');
    await expect(henna.locator('.preview').getByText('Certificate copies')).toBeVisible();
    await henna.getByRole('button', { name: 'Put in the draft' }).click();
    await henna.getByText('It is in the draft').waitFor();

    await henna.goto(`${pelto.url}/records/sales_order/300`);
    await henna.keyboard.press('Alt+a');
    await henna.getByRole('button', { name: 'A field here: after Description' }).click();
    await expect(henna.getByText('Every order line has a value of its own')).toBeVisible();
    await henna.getByLabel('Label on screens').fill('Colour');
    await henna.getByText('Choice', { exact: true }).click();
    await henna.getByRole('textbox', { name: /^Choices/ }).fill('Red\nDark blue\nyellow = Yellow');
    await henna.getByRole('button', { name: 'Review and publish' }).click();

    await expect(henna.getByText('Adds Certificate copies (integer) to sales orders, after Payment terms.')).toBeVisible();
    await expect(henna.getByText('Adds Colour (choice) to order lines, after Description.')).toBeVisible();
    await expect(henna.getByText('Eero Lahdenmaa')).toBeVisible();
    await henna.getByLabel(/Why does this go live/).fill('Inspection bodies ask for copies; slings are told apart by colour');
    await henna.getByRole('button', { name: 'Publish', exact: true }).click();
    await expect(henna.getByText(/Release 2 is live/)).toBeVisible();
  });

  await test.step('Kaisa shows them at once; what she typed stays, and she saves', async () => {
    await expect(kaisa.getByText('Release 2 is live. 2 fields changed on this screen.')).toBeVisible();
    await kaisa.getByRole('button', { name: 'Show them' }).click();
    await expect(kaisa.getByLabel("Customer's reference")).toHaveValue('Slipway crane');
    await kaisa.getByLabel('Certificate copies').fill('2');
    await kaisa.getByLabel('Colour').first().selectOption('Dark blue');
    await kaisa.keyboard.press('Control+s');
    await expect(kaisa.getByText('Saved.')).toBeVisible();
    await expect(kaisa.getByLabel('Certificate copies')).toHaveValue('2');
    await expect(kaisa.getByLabel('Colour').first()).toHaveValue('dark_blue');
  });

  await test.step('Eero types on, shows them later, and saves his order with all its lines', async () => {
    await eero.getByRole('button', { name: 'Show them' }).waitFor();
    await eero.getByRole('textbox', { name: 'Price' }).pressSequentially('9');
    await eero.getByRole('button', { name: 'Show them' }).click();
    await eero.getByLabel('Certificate copies').waitFor();
    await expect(eero.getByRole('combobox', { name: 'Customer' })).toHaveValue('Selkäsaari Boatyard (P-0177)');
    await expect(eero.getByRole('combobox', { name: 'Item' })).toHaveValue('SHB-22');
    await expect(eero.getByRole('textbox', { name: 'Quantity' })).toHaveValue('16');
    await expect(eero.getByRole('textbox', { name: 'Price' })).toHaveValue('31.9');
    await eero.getByLabel('Colour').selectOption('Red');
    await eero.keyboard.press('Control+s');
    await expect(eero.getByText('Saved.')).toBeVisible();
    await expect(eero.locator('[data-output="header.net_total"]')).toHaveText('510.40');
    await expect(eero.getByLabel('Colour')).toHaveValue('red');
  });

  await test.step('nobody was signed out, and it is all in the database', async () => {
    expect(pelto.sql("SELECT string_agg(certificate_copies::text, ',') FROM added.sales_order")).toBe('2');
    expect(pelto.sql("SELECT string_agg(colour, ',' ORDER BY colour) FROM added.sales_order_lines")).toBe('dark_blue,red');
  });
});

test('"After I save" leaves the form alone until it is saved', async ({ person }) => {
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/partner/20`);
  await eero.locator('#header-street').fill('Köysitie 5');
  await pelto.publish({ recordType: 'partner', code: 'sling_class', label: 'Sling class', kind: 'text' });
  await eero.getByRole('button', { name: 'After I save' }).click();
  await expect(eero.getByLabel('Sling class')).toHaveCount(0);
  await eero.keyboard.press('Control+s');
  await expect(eero.getByLabel('Sling class')).toBeVisible();
  await expect(eero.locator('#header-street')).toHaveValue('Köysitie 5');
});

test('a release that does not touch the screen says nothing', async ({ person }) => {
  const eero = await person(pelto, 'Eero Lahdenmaa');
  await eero.goto(`${pelto.url}/records/partner/21`);
  const asked = eero.waitForResponse(/\/live\/changes/);
  await pelto.publish({ recordType: 'item', code: 'shelf', label: 'Shelf', kind: 'text' });
  expect((await (await asked).json()).isAny).toBe(false);
  await expect(eero.getByText(/is live/)).toHaveCount(0);
});
