// People: an installation goes over from picking to passwords; somebody is invited, takes a second factor, loses a session and a right.
import { createHmac } from 'node:crypto';
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const henna = { name: 'henna.aro', password: 'kolme venettä aamulla' };
const paavo = { name: 'paavo.laituri', password: 'köysi ja koukku laiturilla' };

// RFC 6238 with node's own HMAC; the key in Base32 (RFC 4648).
function totp(typed, at = Date.now()) {
  const bits = [...typed.replaceAll(' ', '')].map(letter => 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567'.indexOf(letter).toString(2).padStart(5, '0')).join('');
  const key = Buffer.from(bits.match(/.{8}/g).map(byte => parseInt(byte, 2)));
  const step = Buffer.alloc(8);
  step.writeBigUInt64BE(BigInt(Math.floor(at / 30000)));
  const hash = createHmac('sha1', key).update(step).digest();
  return String((hash.readUInt32BE(hash[19] & 15) & 0x7fffffff) % 1000000).padStart(6, '0');
}

async function browserOf(browser) {
  const page = await (await browser.newContext()).newPage();
  await page.goto(`${pelto.url}/account/sign-in`);
  return page;
}

async function signIn(page, { name, password }) {
  await page.goto(`${pelto.url}/account/sign-in`);
  await page.getByLabel('Sign-in name').fill(name);
  await page.getByLabel('Password').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).press('Enter');
}

test('from picking to passwords: nobody locks themselves out; somebody new is invited and signs in', async ({ person, browser }) => {
  const page = await person(pelto, 'Henna Aro');
  await page.goto(`${pelto.url}/setup/people`);
  await page.getByRole('checkbox', { name: /Demo/ }).press('Space');
  await page.getByRole('button', { name: 'Save' }).press('Enter');
  await expect(page.getByText('Choose a password first')).toBeVisible();
  await page.goto(`${pelto.url}/account/security`);
  await page.getByLabel('Password', { exact: true }).fill('too short');
  await page.getByRole('button', { name: 'Change it' }).press('Enter');
  await expect(page.getByText('this one has 9')).toBeVisible();
  await page.getByLabel('Password', { exact: true }).fill(henna.password);
  await page.getByRole('button', { name: 'Change it' }).press('Enter');
  await expect(page.getByText('The password is changed')).toBeVisible();
  await page.goto(`${pelto.url}/setup/people`);
  await page.getByLabel('A second factor is required of').selectOption({ label: 'Nobody: it is offered' });
  await page.getByRole('checkbox', { name: /Demo/ }).press('Space');
  await page.getByRole('button', { name: 'Save' }).press('Enter');
  await expect(page.getByText('Saved.')).toBeVisible();

  await page.getByRole('link', { name: 'New person' }).press('Enter');
  await page.getByLabel('Name', { exact: true }).fill('Paavo Laituri');
  await page.getByLabel('Signs in as').fill('henna.aro');
  await page.getByRole('checkbox', { name: 'Order desk' }).press('Space');
  await page.getByRole('button', { name: 'Add' }).press('Enter');
  await expect(page.getByText('Somebody already signs in as henna.aro.')).toBeVisible();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Paavo Laituri');
  await page.getByLabel('Signs in as').fill(paavo.name);
  await page.getByRole('button', { name: 'Add' }).press('Enter');
  await page.getByRole('button', { name: 'Let them choose a password' }).press('Enter');
  const address = await page.locator('[data-invitation]').textContent();

  const new1 = await browserOf(browser);
  await new1.goto(address);
  await new1.getByLabel('Password').fill('paavo.laituri paavo');
  await new1.getByRole('button', { name: 'Save it' }).press('Enter');
  await expect(new1.getByText('easy to guess')).toBeVisible();
  await new1.getByLabel('Password').fill(paavo.password);
  await new1.getByRole('button', { name: 'Save it' }).press('Enter');
  await new1.waitForURL(/sign-in/);
  await new1.goto(address);
  await expect(new1.getByText('This link no longer works')).toBeVisible();
  await signIn(new1, { ...paavo, password: 'something else' });
  await expect(new1.getByText('Name and password do not match.')).toBeVisible();
  await expect(new1.getByLabel('Sign-in name')).toHaveValue(paavo.name);
  await signIn(new1, paavo);
  await new1.waitForURL(/records/);
  await expect(new1.getByRole('navigation', { name: 'Set-up' })).toHaveCount(0);
  await new1.context().close();
});

test('a second factor is begun with a picture or a key, asked for from then on, and a session that somebody else ends is over at once', async ({ browser }) => {
  const page = await browserOf(browser);
  await signIn(page, paavo);
  await page.waitForURL(/records/);
  await page.goto(`${pelto.url}/account/security`);
  await page.getByRole('button', { name: 'Begin' }).press('Enter');
  const key = await page.locator('code.digest').textContent();
  await expect(page.getByRole('img', { name: /The key as a QR code/ })).toBeVisible();
  await page.getByLabel('Code').fill('000000');
  await page.getByRole('button', { name: 'Sign in with it from now on' }).press('Enter');
  await expect(page.getByText('This is not the current code.')).toBeVisible();
  await page.getByLabel('Code').fill(totp(key, Date.now() - 30000));
  await page.getByRole('button', { name: 'Sign in with it from now on' }).press('Enter');
  await expect(page.getByText('From now on you need a code')).toBeVisible();
  expect(await page.locator('.codes li').count()).toBe(10);

  const other = await browserOf(browser);
  await signIn(other, paavo);
  await other.getByLabel('Code of your second factor').fill(totp(key));
  await other.getByRole('button', { name: 'Go on' }).press('Enter');
  await other.waitForURL(/records/);
  await page.goto(`${pelto.url}/account/security`);
  await page.getByRole('button', { name: 'End all other sessions' }).press('Enter');
  await expect(page.getByText('1 other session is ended, and so are all tokens.')).toBeVisible();
  await other.goto(`${pelto.url}/records/item`);
  await expect(other.getByRole('heading', { name: 'Sign in' })).toBeVisible();

  // What is asked again after a while is asked in the form itself; a token made there works.
  pelto.sql("UPDATE pelto.session SET confirmed_at = now() - interval '1 hour'");
  await page.getByLabel('What for').fill('Scales in the yard');
  await page.getByRole('button', { name: 'Make a token' }).press('Enter');
  await expect(page.getByText('Confirm that it is you.')).toBeVisible();
  await expect(page.getByLabel('What for')).toHaveValue('Scales in the yard');
  await page.locator('.new-token').getByLabel(/Code of your second factor/).fill(totp(key, Date.now() + 30000));
  await page.getByRole('button', { name: 'Make a token' }).press('Enter');
  const token = await page.locator('[data-token]').textContent();
  const ask = (path, method = 'GET') => fetch(`${pelto.url}/api/v1/${path}`, { method, headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' }, body: method === 'GET' ? undefined : '{"values":{"city":"x"}}' });
  expect((await ask('records/partner/5')).status).toBe(200);
  expect((await ask('records/partner/5', 'PATCH')).status).toBe(403);
  await page.locator('li').filter({ hasText: 'Scales in the yard' }).getByRole('button', { name: 'End' }).press('Enter');
  await expect(page.getByText('The token is ended.')).toBeVisible();
  expect((await ask('records/partner/5')).status).toBe(401);
  await page.context().close();
  await other.context().close();
});

test('a right counts at once, for what it says and no more; publishing by two takes two', async ({ browser }) => {
  const admin = await browserOf(browser);
  await signIn(admin, henna);
  await admin.waitForURL(/records/);
  await admin.goto(`${pelto.url}/setup/people`);
  for (const work of ['define fields', 'publish']) {
    await admin.getByLabel('Let', { exact: true }).selectOption({ label: 'Paavo Laituri' });
    await admin.getByLabel('do this').selectOption({ label: work });
    await admin.getByText('Only at some record types').press('Enter');
    await admin.getByRole('checkbox', { name: 'Partners', exact: true }).press('Space');
    await admin.getByRole('button', { name: 'Give it' }).press('Enter');
    await expect(admin.getByText('The right is given.')).toBeVisible();
  }
  await admin.getByRole('checkbox', { name: /Publishing takes two people/ }).press('Space');
  await admin.getByRole('button', { name: 'Save' }).press('Enter');
  await expect(admin.getByText('Saved.')).toBeVisible();

  pelto.sql("UPDATE pelto.person SET totp_key = NULL WHERE user_name = 'paavo.laituri'");
  const his = await browserOf(browser);
  await signIn(his, paavo);
  await his.waitForURL(/records/);
  await expect(his.getByRole('navigation', { name: 'Set-up' }).getByRole('link', { name: /Fields/ })).toBeVisible();
  await expect(his.getByRole('navigation', { name: 'Set-up' }).getByRole('link', { name: 'People' })).toHaveCount(0);
  await his.goto(`${pelto.url}/setup/fields/new?type=partner`);
  await his.getByLabel('Label on screens').fill('Berth');
  await his.getByRole('button', { name: 'Review and publish' }).click();
  await his.getByLabel(/Why does this/).fill('They moor there');
  await his.getByRole('button', { name: 'Ask for it to be published' }).press('Enter');
  await expect(his.getByText('You asked for it to be published.')).toBeVisible();
  await admin.goto(`${pelto.url}/setup/draft`);
  await expect(admin.getByText('Paavo Laituri asks for this to be published: They moor there')).toBeVisible();
  await admin.getByRole('button', { name: 'Publish', exact: true }).press('Enter');
  await admin.getByText(/Release \d+ is live/).first().waitFor();

  // Elsewhere he defines nothing: refused with a sentence, and nothing is in the draft.
  await his.goto(`${pelto.url}/setup/fields/new?type=item`);
  await his.getByLabel('Label on screens').fill('Weight');
  await his.getByRole('button', { name: 'Review and publish' }).click();
  await expect(his.getByText('You may define fields, but not at items.')).toBeVisible();
  await admin.goto(`${pelto.url}/setup/draft`);
  await expect(admin.getByText('The draft holds nothing that is not live.')).toBeVisible();
  await admin.goto(`${pelto.url}/setup/people`);
  await admin.getByRole('button', { name: 'Take from Paavo Laituri: define fields' }).press('Enter');
  await expect(admin.getByText('The right is taken back.')).toBeVisible();
  await his.goto(`${pelto.url}/setup/fields/new?type=partner`);
  await expect(his.getByText('You may not open this page')).toBeVisible();
  await his.context().close();
  await admin.context().close();
});
