// A server of its own for a file of tests, which can be killed and started again; and people who use it.
import { spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { test as base, expect } from '@playwright/test';

const root = join(import.meta.dirname, '..', '..');
const dll = join(root, 'src/Pelto.Web/bin/Release/net10.0/Pelto.Web.dll');
const server = process.env.PELTO_TEST_SERVER;
const part = name => server.match(new RegExp(`${name}=([^;]*)`, 'i'))?.[1];

export function sql(text, database = 'postgres') {
  const made = spawnSync('psql', ['-h', part('Host'), '-p', part('Port') ?? '5432', '-U', part('Username'), '-d', database, '-Atc', text], { encoding: 'utf8', env: { ...process.env, PGPASSWORD: part('Password') ?? '' } });
  if (made.status !== 0) throw new Error(made.stderr);
  return made.stdout.trim();
}

// Its roles go with it.
export function dropDatabase(name) {
  sql(`DROP DATABASE IF EXISTS ${name} WITH (FORCE)`);
  for (const role of ['queries', 'app']) sql(`DROP ROLE IF EXISTS ${name}_${role}`);
}

const settings = (database, where = server) => ({ ...process.env, PELTO_DATABASE: `${where};Database=${database}`, ASPNETCORE_ENVIRONMENT: 'Production' });

function command(database, ...args) {
  const done = spawnSync('dotnet', [dll, ...args, '--contentRoot', join(root, 'src/Pelto.Web')], { encoding: 'utf8', env: settings(database) });
  if (done.status !== 0) throw new Error(done.stderr);
  return done.stdout.trim();
}

export const install = database => command(database, 'install');

export const freePort = () => new Promise(done => {
  const probe = createServer().listen(0, '127.0.0.1', () => {
    const { port } = probe.address();
    probe.close(() => done(port));
  });
});

export class Pelto {
  static async start() {
    const pelto = new Pelto();
    pelto.database = `pelto_test_browser_${process.pid}_${Date.now().toString(36)}`;
    sql(`CREATE DATABASE ${pelto.database} TEMPLATE ${process.env.PELTO_TEMPLATE}`);
    pelto.port = await freePort();
    pelto.url = `http://127.0.0.1:${pelto.port}`;
    await pelto.serve();
    return pelto;
  }

  // One more server, on a database server of its own or beside another on the same database.
  static async on(cluster, database) {
    const pelto = new Pelto();
    Object.assign(pelto, { cluster, database, port: await freePort() });
    pelto.url = `http://127.0.0.1:${pelto.port}`;
    await pelto.serve();
    return pelto;
  }

  async serve() {
    this.child = spawn('dotnet', [dll, '--contentRoot', join(root, 'src/Pelto.Web'), '--urls', this.url], { stdio: ['ignore', 'pipe', 'inherit'], env: settings(this.database, this.cluster && `Host=127.0.0.1;Port=${this.cluster.port};Username=pelto;Password=none`) });
    this.log = '';
    this.child.stdout.setEncoding('utf8').on('data', text => { this.log += text; });
    for (let i = 0; i < 1200; i++) {
      if (await fetch(`${this.url}/health/ready`).then(answer => answer.ok, () => false)) return;
      await new Promise(done => setTimeout(done, 100));
    }
    throw new Error('The server did not become ready.');
  }

  async kill(signal = 'SIGKILL') {
    if (this.child.exitCode !== null || this.child.signalCode !== null) return;
    const gone = new Promise(done => this.child.once('exit', done));
    this.child.kill(signal);
    await gone;
  }

  async stop() {
    await this.kill('SIGTERM');
    dropDatabase(this.database);
  }

  sql(text) {
    return this.cluster ? this.cluster.sql(text, this.database) : sql(text, this.database);
  }

  // Put where ./pelto token would put it, which starts the whole program for each.
  token(person) {
    const token = `pelto_${randomBytes(32).toString('hex')}`;
    this.sql(`INSERT INTO pelto.token (digest, person_id, name, types, writes, sets_up, made_at, ends_at) SELECT '${createHash('sha256').update(token).digest('hex')}', p.id, 'For a test', '{}', true, true, now(), now() + interval '1 day'
      FROM pelto.person p LEFT JOIN pelto.person_role l ON l.user_id = p.id LEFT JOIN pelto.role r ON r.id = l.role_id WHERE '${person}' IN (p.user_name, r.name) ORDER BY p.position LIMIT 1`);
    return token;
  }

  async api(person) {
    this.tokens ??= {};
    const token = this.tokens[person] ??= this.token(person);
    return (path, { method = 'GET', body, headers = {} } = {}) => fetch(`${this.url}/api/v1/${path}`, {
      method, body: body && JSON.stringify(body), headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json', ...headers },
    });
  }

  // Puts one more field in the draft and publishes it, as an administrator's program would.
  async publish(field) {
    const api = await this.api('administrator');
    const draft = await (await api('setup/draft')).json();
    draft.fields.push(field);
    const kept = await api('setup/draft', { method: 'PUT', body: draft });
    if (!kept.ok) throw new Error(await kept.text());
    const answer = await api('setup/publish', { method: 'POST', body: { comment: 'For a test' } });
    if (!answer.ok) throw new Error(await answer.text());
  }
}

// Each file of tests: `const pelto = useServer()`, then `pelto.url` and the rest once tests run.
export function useServer() {
  const holder = {};
  base.beforeAll(async () => Object.setPrototypeOf(holder, await Pelto.start()));
  base.afterAll(() => holder.stop());
  return holder;
}

// A browser in which somebody is signed in. What the page complains about fails the test.
export const test = base.extend({
  person: async ({ browser }, use) => {
    const contexts = [];
    const complaints = [];
    await use(async (pelto, name, options = {}) => {
      const context = await browser.newContext(options);
      contexts.push(context);
      const page = await context.newPage();
      page.on('pageerror', error => complaints.push(error.message));
      page.on('console', message => {
        if (message.type() === 'error' && !/ERR_CONNECTION|ERR_INCOMPLETE|ERR_EMPTY|ERR_NETWORK|htmx:sendAbort|htmx:afterRequest/.test(message.text())) complaints.push(`${message.text()} (${page.url()})`);
      });

      // A form hears keys once its script is there; people are not that fast.
      const goto = page.goto.bind(page);
      page.goto = async (...where) => {
        const answer = await goto(...where);
        if (await page.locator('form#record').count() > 0) await page.locator('body[data-ready]').waitFor({ state: 'attached' });
        return answer;
      };
      await page.goto(`${pelto.url}/account/sign-in`);
      await page.getByRole('button', { name }).click();
      await page.waitForURL(/\/records\//);
      return page;
    });
    expect(complaints).toEqual([]);
    for (const context of contexts) await context.close();
  },
});

export { expect };

// From a page on which something is defined: reviews and publishes, as an administrator does by hand.
export async function publishByHand(page, why) {
  await page.getByRole('button', { name: 'Review and publish' }).click();
  await page.getByLabel(/Why does this/).fill(why);
  await page.getByRole('button', { name: 'Publish', exact: true }).click();
  await page.getByText(/Release \d+ is live/).first().waitFor();
}
