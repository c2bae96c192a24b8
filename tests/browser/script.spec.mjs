// The one script: what it says when something is not as it should be.
import { spawnSync } from 'node:child_process';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { expect, test, useServer } from './pelto.mjs';

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

test('a port that is in use is named, with a way out', async () => {
  const taken = createServer().listen(0, '127.0.0.1');
  await new Promise(done => taken.once('listening', done));
  const { port } = taken.address();
  const { code, said } = run(['run'], { PELTO_PORT: String(port) });
  taken.close();
  expect(code).toBe(1);
  expect(said).toBe(`Port ${port} is in use by another program. Choose one with PELTO_PORT, such as: PELTO_PORT=${port + 1} ./pelto run`);
});

test('whoever else works on this machine does not get into the database without its password', () => {
  test.skip(Boolean(process.env.PELTO_DATABASE), 'The server is not Pelto\'s own.');
  const part = name => process.env.PELTO_TEST_SERVER.match(new RegExp(`${name}=([^;]*)`, 'i'))?.[1];
  const enter = password => spawnSync('psql', ['-w', '-h', part('Host'), '-p', part('Port') ?? '5432', '-U', part('Username'), '-d', 'postgres', '-Atc', 'SELECT 1'], { encoding: 'utf8', env: { ...process.env, PGPASSWORD: password, PGPASSFILE: '/dev/null' } });
  expect(enter('').stderr).toContain('no password supplied');
  expect(enter('pelto').stderr).toContain('password authentication failed');
  expect(enter(part('Password')).stdout.trim()).toBe('1');
});
