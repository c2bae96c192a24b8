// The map of what fills what: drawn, gone along by keys, followed, as a list, and a circle told in words.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();

test('a field is followed up and down by keys, the list says the same, back leads back, and a circle in the draft is marked in words', async ({ person }) => {
  await pelto.publish({ id: 'f-room', recordType: 'sales_order', code: 'room', label: 'Room', kind: 'decimal', decimals: 2, formula: 'customer.credit_limit - gross_total', live: true });
  const henna = await person(pelto, 'Henna Aro');
  await henna.goto(`${pelto.url}/setup/map?type=sales_order`);
  await henna.locator('[data-node="sales_order.gross_total"]').focus();
  await henna.keyboard.press('ArrowRight');
  await expect(henna.locator('[data-node="f-room"]')).toBeFocused();
  await henna.keyboard.press('ArrowRight');
  await expect(henna.locator('[data-node="screen:sales_order"]')).toBeFocused();
  await henna.keyboard.press('ArrowLeft');
  await henna.locator('[data-node="f-room"]').focus();
  await henna.keyboard.press('Enter');
  await expect(henna.getByText('Only what leads to Room and from it.')).toBeVisible();
  await expect(henna.locator('[data-node="partner.credit_limit"]')).toBeVisible();
  await expect(henna.locator('[data-node="partner.payment_terms"]')).toHaveCount(0);
  await henna.getByRole('link', { name: 'As a list' }).click();
  await expect(henna.getByRole('row', { name: /^Room/ })).toContainText(/Credit limit.*read through a link/);
  await henna.goBack();
  await expect(henna.locator('[data-node="f-room"]')).toBeFocused();
  await henna.getByRole('link', { name: 'Its definition' }).click();
  await expect(henna.getByLabel('Label on screens')).toHaveValue('Room');

  const api = await pelto.api('administrator');
  const all = await (await api('setup/draft')).json();
  all.fields.push({ id: 'f-a', recordType: 'item', code: 'a', label: 'First', kind: 'decimal', formula: 'b + 1', live: true }, { id: 'f-b', recordType: 'item', code: 'b', label: 'Second', kind: 'decimal', formula: 'a + 1', live: true });
  await api('setup/draft', { method: 'PUT', body: all });
  await henna.goto(`${pelto.url}/setup/map`);
  await expect(henna.getByText('round in a circle')).toHaveCount(0);
  await henna.getByRole('link', { name: 'The draft' }).click();
  await expect(henna.locator('#work .notice')).toContainText(/These fields depend on each other in a circle: (First reads Second reads First|Second reads First reads Second)/);
});
