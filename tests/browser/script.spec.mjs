// The one script: what it says when something is not as it should be.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { dropDatabase, expect, freePort, sql, test, useServer } from './pelto.mjs';

const pelto = useServer();
const script = join(import.meta.dirname, '..', '..', 'pelto');
const run = (args, env = {}) => {
  const done = spawnSync(script, args, { encoding: 'utf8', env: { ...process.env, PELTO_DATABASE: `${process.env.PELTO_TEST_SERVER};Database=${pelto.database}`, ...env } });
  return { code: done.status, out: done.stdout.trim(), said: done.stderr.trim() };
};

test('a token is printed and nothing else; it works', async () => {
  const { code, out } = run(['token', 'order_desk']);
  expect(code).toBe(0);
  expect(out).toMatch(/^pelto_[0-9a-f]{64}$/);
  const answer = await fetch(`${pelto.url}/api/v1/record-types`, { headers: { Authorization: `Bearer ${out}` } });
  expect(answer.status).toBe(200);
});

test('whatever is logged meanwhile does not get into what is printed', () => {
  const { code, out, said } = run(['token', 'order_desk'], { Logging__LogLevel__Default: 'Debug', Logging__LogLevel__Pelto: 'Debug' });
  expect([code, out]).toEqual([0, expect.stringMatching(/^pelto_[0-9a-f]{64}$/)]);
  expect(said).toContain('Debug');
});

test('what cannot be done is said in one sentence', async () => {
  expect(run(['token', 'nobody'])).toEqual({ code: 2, out: '', said: 'There is no person and no role called nobody.' });
  expect(run(['token'])).toMatchObject({ code: 2, out: '' });
  expect(run(['dance']).code).toBe(2);
  const missing = run(['token', 'guest'], { PELTO_DATABASE: `${process.env.PELTO_TEST_SERVER};Database=not_there` });
  expect(missing).toEqual({ code: 3, out: '', said: 'The database refused: database "not_there" does not exist' });
  const down = run(['token', 'guest'], { PELTO_DATABASE: 'Host=127.0.0.1;Port=1;Username=pelto;Database=pelto' });
  expect(down.code).toBe(3);
  expect(down.said).toMatch(/^The database cannot be used: [^\n]+$/);
});

test('the ERP is updated from the command line while the server goes on, and back', async () => {
  const api = await pelto.api('administrator');
  const ask = async path => (await api(path)).json();
  const fields = async () => (await ask('record-types/sales_order')).fields.map(field => `${field.code} ${field.label}`);
  const there = run(['update']);
  expect(there).toMatchObject({ code: 0, said: '' });
  const versions = there.out.split('\n');
  expect(versions).toContainEqual(expect.stringMatching(/ 4\.2, live$/));
  expect(versions).toContainEqual(expect.stringMatching(/ 4\.3$/));

  expect(run(['update', '9.9'])).toEqual({ code: 2, out: '', said: 'There is no version 9.9. ./pelto update lists those that there are.' });
  expect(run(['update', '4.2']).said).toMatch(/ 4\.2 is live already\.$/);
  const wouldDo = run(['update', '4.3']);
  expect(wouldDo.code).toBe(0);
  expect(wouldDo.out).toContain('What the ERP itself changes');
  expect(wouldDo.out).toMatch(/Nothing is done yet\. .* 4\.3 go does it, while everyone works; .* 4\.2 go goes back\.$/);
  expect(run(['update', '4.3', 'please'])).toMatchObject({ code: 2, said: '“please” says nothing here; write go.' });
  const before = await fields();

  // With a draft under way it would go live as well.
  const draft = await ask('setup/draft');
  const drafted = { recordType: 'item', code: 'drafted', label: 'Drafted', kind: 'text' };
  await api('setup/draft', { method: 'PUT', body: { ...draft, fields: [...draft.fields, drafted] } });
  expect(run(['update', '4.3', 'go']).said).toMatch(/^The draft holds 1 change that would go live with it\./);
  await api('setup/draft', { method: 'PUT', body: draft });

  for (const [version, other] of [['4.3', '4.2'], ['4.2', '4.3']]) {
    const done = run(['update', version, 'go']);
    expect(done, done.said + done.out).toMatchObject({ code: 0, said: '' });
    expect(run(['update']).out).toMatch(new RegExp(` ${version.replace('.', '\\.')}, live`));
    expect(run(['update']).out).not.toMatch(new RegExp(` ${other.replace('.', '\\.')}, live`));
    await expect.poll(async () => (await ask('setup/definition')).host ?? '4.2').toBe(version);
    expect((await fields()).some(field => field.startsWith('customer_reference '))).toBe(version === '4.3');
  }
  expect(await fields()).toEqual(before);
});

test('demo data is made anew: what was added and entered is gone, and everyone is there again', async () => {
  const database = `${pelto.database}_reset`;
  const there = text => sql(text, database);
  sql(`CREATE DATABASE ${database} TEMPLATE ${process.env.PELTO_TEMPLATE}`);
  try {
    const delivered = there('SELECT count(*) FROM erp.partner');
    there("UPDATE erp.partner SET name = 'Changed' WHERE id = 1; DELETE FROM pelto.token; CREATE TABLE added.left_over (id bigint)");
    there(`INSERT INTO pelto.release (number, definition, comment, summary, published_by, published_at)
      SELECT 2, definition, 'Two', '', 'Nobody', now() FROM pelto.release`);
    const done = run(['reset'], { PELTO_DATABASE: `${process.env.PELTO_TEST_SERVER};Database=${database}` });
    expect(done).toEqual({ code: 0, out: '', said: expect.stringMatching(/The demo data is as delivered\.$/) });
    expect(there('SELECT count(*) FROM erp.partner')).toBe(delivered);
    expect(there("SELECT name = 'Changed' FROM erp.partner WHERE id = 1")).toBe('f');
    expect(there('SELECT max(number) FROM pelto.release')).toBe('1');
    expect(there("SELECT to_regclass('added.left_over') IS NULL")).toBe('t');
    expect(run(['token', 'henna.aro'], { PELTO_DATABASE: `${process.env.PELTO_TEST_SERVER};Database=${database}` }).out).toMatch(/^pelto_/);
  } finally {
    dropDatabase(database);
  }
});

test('with another key of secrets nothing starts, and a way out is named', async () => {
  const PELTO_KEY = join(mkdtempSync(join(tmpdir(), 'pelto-key-')), 'other.key');
  try {
    const said = expect.stringMatching(/^The key of secrets is not the one .*\.\/pelto newkey .*read any more\.$/);
    expect(run(['token', 'guest'], { PELTO_KEY })).toEqual({ code: 2, out: '', said });
    writeFileSync(PELTO_KEY, 'no key');
    expect(run(['token', 'guest'], { PELTO_KEY }).said).toMatch(/^The file other\.key holds no key of secrets: /);
    expect(run(['newkey'])).toEqual({ code: 0, said: '', out: 'This is the key that the database was used with. Nothing was changed.' });
  } finally {
    rmSync(dirname(PELTO_KEY), { recursive: true });
  }
});

test('a port that is in use is named, with a way out', async () => {
  const taken = createServer().listen(0, '127.0.0.1');
  await new Promise(done => taken.once('listening', done));
  const { port } = taken.address();
  const { code, said } = run(['run'], { PELTO_PORT: String(port) });
  taken.close();
  expect(code).toBe(1);
  expect(said).toBe(`Port ${port} is in use by another program. Choose one with PELTO_PORT, such as: PELTO_PORT=${port + 1} ./pelto run`);
});

test('a proxy that is no address stops the start, with a sentence', async () => {
  const said = 'PELTO_PROXY names proxy.example, which is not an address of a network.';
  expect(run(['run'], { PELTO_PORT: String(await freePort()), PELTO_PROXY: 'proxy.example' })).toEqual({ code: 2, out: '', said });
});

test('whoever else works on this machine does not get into the database without its password', () => {
  test.skip(Boolean(process.env.PELTO_DATABASE), 'The server is not Pelto\'s own.');
  const part = name => process.env.PELTO_TEST_SERVER.match(new RegExp(`${name}=([^;]*)`, 'i'))?.[1];
  const enter = password => spawnSync('psql', ['-w', '-h', part('Host'), '-p', part('Port') ?? '5432', '-U', part('Username'), '-d', 'postgres', '-Atc', 'SELECT 1'], { encoding: 'utf8', env: { ...process.env, PGPASSWORD: password, PGPASSFILE: '/dev/null' } });
  expect(enter('').stderr).toContain('no password supplied');
  expect(enter('pelto').stderr).toContain('password authentication failed');
  expect(enter(part('Password')).stdout.trim()).toBe('1');
});
