// Choices: taken from the values on file, called otherwise in other languages, retired ones not made twice; lists and lines that are wider than the page.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('a text becomes a choice of the values on file, has labels in Finnish, and a retired one is not made a second time', async ({ person }) => {
  await pelto.publish({ id: 'f-surface', recordType: 'purchase_order', code: 'surface', label: 'Surface', kind: 'text', length: 40 });
  const api = await pelto.api('administrator');
  for (const [id, text] of [[1, 'Galvanised'], [2, 'Galvanised'], [3, 'Painted'], [4, 'painted'], [5, 'Bright']])
    expect((await api(`records/purchase_order/${id}`, { method: 'PATCH', body: { values: { surface: text } } })).ok).toBe(true);
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/fields/f-surface`);
  await henna.getByRole('radio', { name: 'Choice', exact: true }).check({ force: true });
  await expect(henna.getByText('3 different values stand on file')).toBeVisible();
  await henna.getByRole('button', { name: 'Take them as the choices' }).click();
  await expect(henna.getByLabel('Choices, one per line')).toHaveValue(/^Galvanised\n/);
  await henna.getByLabel('People may add a choice while they enter a record').check();
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();

  // A column for Finnish, filled; one of them is retired.
  await henna.goto(`${pelto.url}/setup/lists/f-surface`);
  await henna.getByLabel('Labels in').selectOption({ label: 'Finnish' });
  await henna.getByRole('button', { name: 'Add a column' }).click();
  await henna.getByLabel('Galvanised in fi').fill('Sinkitty');
  await henna.getByLabel('What becomes of Bright').selectOption('retired');
  await henna.locator('#Pasted').fill('label\tcolour\nBright\t\nWaxed\tturquoise\n"open');
  await henna.getByRole('button', { name: 'Look at it' }).click();
  await expect(henna.getByText('Line 4: a quotation mark begins a cell and none ends it')).toBeVisible();
  await henna.locator('#Pasted').fill('label\tcolour\nBright\t\nWaxed\tturquoise');
  await henna.getByRole('button', { name: 'Look at it' }).click();
  await expect(henna.getByText('“Bright” exists already and is retired.')).toBeVisible();
  await expect(henna.getByText('There is no colour “turquoise”')).toBeVisible();
  await henna.getByRole('button', { name: 'Put in the draft' }).click();
  await henna.getByText('It is in the draft').waitFor();
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'Surfaces' } })).ok).toBe(true);

  // Whoever reads Finnish reads, looks for and types the one; all others the other. Programs have the code.
  const ritva = await person(pelto, 'Ritva Sorasalo');
  await ritva.goto(`${pelto.url}/records/purchase_order/1`);
  await expect(ritva.getByLabel('Surface')).toHaveValue('Sinkitty');
  await henna.goto(`${pelto.url}/records/purchase_order/1`);
  await expect(henna.getByLabel('Surface')).toHaveValue('Galvanised');
  await ritva.goto(`${pelto.url}/records/purchase_order?filter=surface~contains~sinkit`);
  await expect(ritva.locator('#rows tbody tr')).toHaveCount(2);
  await expect(ritva.locator('#rows tbody tr').first()).toContainText('Sinkitty');
  expect((await (await api('records/purchase_order/4')).json()).values.surface).toBe('painted');

  // Also where the server comes to the trial of the form only once it has refused the choice.
  await ritva.goto(`${pelto.url}/records/purchase_order/2`);
  const refused = ritva.waitForResponse(/handler=AddChoice/);
  await ritva.route(/handler=Try/, async route => {
    await refused;
    await route.continue();
  });
  const tried = ritva.waitForResponse(/handler=Try/);
  await ritva.getByLabel('Surface').fill('bright');
  await ritva.getByRole('option', { name: 'Add “bright”' }).click();
  await (await tried).finished();
  await ritva.evaluate(() => new Promise(requestAnimationFrame));
  await expect(ritva.getByText('“Bright” exists already and is retired. Choose another, or ask an administrator to offer it again.')).toBeVisible();
  await expect(ritva.getByLabel('Surface')).toHaveValue('bright');
  expect(JSON.parse(pelto.sql("SELECT definition FROM pelto.release ORDER BY number DESC LIMIT 1")).fields[0].choices.length).toBe(3);
});

test('lines with more columns than the page is wide become cards, and lists scroll in themselves: the page goes to neither side', async ({ person }) => {
  const api = await pelto.api('administrator');
  const draft = await (await api('setup/draft')).json();
  for (let i = 0; i < 12; i++) draft.fields.push({ id: `f-line${i}`, recordType: 'sales_order', part: 'lines', code: `line_${i}`, label: `Line field ${i}`, kind: 'text', length: 20 }, { id: `f-head${i}`, recordType: 'sales_order', code: `head_${i}`, label: `Head field ${i}`, kind: 'integer' });
  expect((await api('setup/draft', { method: 'PUT', body: draft })).ok).toBe(true);
  expect((await api('setup/publish', { method: 'POST', body: { comment: 'Wide' } })).ok).toBe(true);
  const desk = await person(pelto, 'Eero Lahdenmaa');
  const overflow = () => desk.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  for (const width of [1280, 1000, 800, 390]) {
    await desk.setViewportSize({ width, height: 800 });
    await desk.goto(`${pelto.url}/records/sales_order/300`);
    const last = desk.getByLabel('Line field 11').first();
    await last.scrollIntoViewIfNeeded();
    const box = await last.boundingBox();
    expect([width, box.x >= 0 && box.x + box.width <= width, await overflow()]).toEqual([width, true, 0]);
    await last.fill(`at ${width}`);
    await desk.goto(`${pelto.url}/records/sales_order`);
    expect([width, await overflow()]).toEqual([width, 0]);
    if (width > 760) expect(await desk.evaluate(() => document.documentElement.scrollHeight - window.innerHeight)).toBe(0);
  }

  // Eight of what is added become columns by themselves, and the file has what the list has.
  await desk.setViewportSize({ width: 1280, height: 800 });
  const heads = await desk.locator('#rows thead th').allInnerTexts();
  expect(heads.filter(text => text.includes('Head field')).length).toBe(8);
  const file = await desk.request.get(`${pelto.url}/records/sales_order/export.csv`);
  expect((await file.text()).split('\n')[0].split(',').length).toBe(heads.length);

  // Back to few columns, a line is a row again.
  await desk.goto(`${pelto.url}/records/purchase_order/1`);
  await expect(desk.locator('.lines.cards')).toHaveCount(0);
  await expect(desk.locator('.lines thead')).toBeVisible();
});
