// Set-up: fields, the draft, releases.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('a field of each kind is defined, published, filled and read', async ({ person }) => {
  const page = await person(pelto, 'Henna Aro');
  const kinds = [
    ['Sling text', 'Text', 'webbing'], ['Sling count', 'Integer', '12'], ['Sling load', 'Decimal', '2.50'],
    ['Examined', 'Date', '2026-05-12'], ['Marked', 'Yes or no', 'yes'], ['Grade', 'Choice', 'grade_8'],
  ];
  for (const [label, kind] of kinds) {
    await page.goto(`${pelto.url}/setup/fields/new?type=item`);
    await page.getByLabel('Label on screens').fill(label);
    await page.getByText(kind, { exact: true }).click();
    if (kind === 'Choice') await page.getByLabel('Choices, one per line').fill('Grade 8\nGrade 10');
    await page.getByRole('button', { name: 'Put in the draft' }).click();
    await page.getByText('It is in the draft').waitFor();
  }
  await page.goto(`${pelto.url}/setup/draft`);
  await page.getByLabel(/Why does this/).fill('All kinds');
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await page.getByText(/Release 2 is live/).waitFor();

  await page.goto(`${pelto.url}/records/item/1`);
  for (const [label, kind, value] of kinds) {
    const input = page.getByLabel(label);
    if (['Yes or no', 'Choice'].includes(kind)) await input.selectOption(value);
    else await input.fill(value);
  }
  await page.keyboard.press('Control+s');
  await page.getByText('Saved.').waitFor();
  for (const [label, , value] of kinds) await expect(page.getByLabel(label)).toHaveValue(value);
  await page.goto(`${pelto.url}/records/item?order=-sling_load`);
  await expect(page.getByRole('row').nth(1)).toContainText('webbing');
  await expect(page.getByRole('row').nth(1)).toContainText('Grade 8');
});

test('mistakes are said at their inputs while one types, and cannot be put in the draft', async ({ person }) => {
  const page = await person(pelto, 'Henna Aro');
  await page.goto(`${pelto.url}/setup/fields/new?type=sales_order`);
  await page.getByLabel('Label on screens').fill('Reference again');
  await page.getByLabel('Code', { exact: true }).fill('reference');
  await expect(page.getByText('The code reference is taken by the built-in field Customer\'s reference.')).toBeVisible();
  await page.getByLabel('Longest, characters').fill('many');
  await page.getByLabel('Default').fill('x');
  await expect(page.getByText('The length is a whole number.')).toBeVisible();
  await page.getByRole('button', { name: 'Put in the draft' }).click();
  await expect(page.getByLabel('Longest, characters')).toHaveValue('many');
  await expect(page.getByLabel('Code', { exact: true })).toHaveValue('reference');
  await page.getByLabel('Code', { exact: true }).fill('reference_2');
  await page.getByLabel('Longest, characters').fill('3');
  await page.getByLabel('Default').fill('too long');
  await expect(page.getByText('Its own rules refuse this default. At most 3 characters fit; this has 8.')).toBeVisible();
  await page.getByLabel('Default').fill('');
  await page.getByLabel('Nothing is saved without it').check();
  await page.getByLabel('Where it stands').selectOption('on no screen');
  await expect(page.getByText('nobody could save a record')).toBeVisible();
  await page.getByLabel('Where it stands').selectOption('at the end');
  await page.getByLabel('Try a value').fill('abcd');
  await expect(page.getByText('At most 3 characters fit; this has 4.')).toBeVisible();
  await page.getByRole('button', { name: 'Put in the draft' }).click();
  await page.getByText('It is in the draft').waitFor();
});

test('the draft is undone and discarded without fear', async ({ person }) => {
  const page = await person(pelto, 'Henna Aro');
  await page.goto(`${pelto.url}/setup/fields/new?type=partner`);
  await page.getByLabel('Label on screens').fill('Second thought');
  await page.getByRole('button', { name: 'Review and publish' }).click();
  await expect(page.getByText('Adds Second thought (text) to partners')).toBeVisible();
  await page.getByRole('button', { name: 'Discard the draft' }).click();
  await expect(page.getByText('The draft holds nothing that is not live.')).toBeVisible();
  await page.getByRole('button', { name: /Undo/ }).click();
  await expect(page.getByText('Adds Second thought (text) to partners')).toBeVisible();
  await page.getByRole('button', { name: /Undo/ }).click();
  await expect(page.getByText('Adds Second thought')).toHaveCount(0);
});

test('a comment is required to publish', async ({ person }) => {
  const page = await person(pelto, 'Henna Aro');
  await page.goto(`${pelto.url}/setup/fields/new?type=employee`);
  await page.getByLabel('Label on screens').fill('Locker');
  await page.getByRole('button', { name: 'Review and publish' }).click();
  await page.getByLabel(/Why does this/).fill('   ');
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await expect(page.getByText('Say in a comment why this goes live.')).toBeVisible();
});

test('label, length and choices of a live field change later', async ({ person }) => {
  await pelto.publish({ id: 'f-quay', recordType: 'partner', code: 'quay', label: 'Quay', kind: 'text', length: 5 });
  const page = await person(pelto, 'Henna Aro');
  await page.goto(`${pelto.url}/setup/fields/f-quay`);
  await expect(page.getByLabel('Code', { exact: true })).not.toBeEditable();
  await page.getByLabel('Label on screens').fill('Usual quay');
  await page.getByLabel('Longest, characters').fill('12');
  await page.getByRole('button', { name: 'Review and publish' }).click();
  await expect(page.getByText('Renames Quay to Usual quay.')).toBeVisible();
  await expect(page.getByText('Usual quay takes 12 characters instead of 5.')).toBeVisible();
  await page.getByLabel(/Why does this/).fill('Clearer');
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await page.getByText(/is live/).first().waitFor();
  await page.goto(`${pelto.url}/records/partner/2`);
  await page.getByLabel('Usual quay').fill('Quay 7 north');
  await page.keyboard.press('Control+s');
  await page.getByText('Saved.').waitFor();
  await page.goto(`${pelto.url}/setup/releases`);
  await expect(page.getByText('Renames Quay to Usual quay.')).toBeVisible();
});
