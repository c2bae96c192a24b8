// The description of the programming interface against tools that are not ours: a linter, a maker of clients, and the client that it makes.
import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import createClient from 'openapi-fetch';
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const run = promisify(execFile);
const root = join(import.meta.dirname, '..', '..');

test('the OpenAPI document is clean for a linter, and a client made from it by another tool reads, changes and is refused, with types that hold', async () => {
  await pelto.publish({ recordType: 'sales_order', code: 'copies', label: 'Certificate copies', kind: 'integer' });
  const token = pelto.token('administrator');
  const document = await (await fetch(`${pelto.url}/api/v1/openapi.json`, { headers: { Authorization: `Bearer ${token}` } })).text();

  // Within the project, so that what is made finds the packages that it uses.
  mkdirSync(join(root, 'test-results'), { recursive: true });
  const folder = mkdtempSync(join(root, 'test-results', 'openapi-'));
  const tool = (name, ...args) => run(process.execPath, [join(root, 'node_modules', ...name.split('/')), ...args], { cwd: folder, env: { ...process.env, REDOCLY_TELEMETRY: 'off', REDOCLY_SUPPRESS_UPDATE_NOTICE: 'true' }, maxBuffer: 1e8 }).catch(error => {
    throw new Error(`${name}: ${error.stdout}${error.stderr}`);
  });
  try {
    writeFileSync(join(folder, 'openapi.json'), document);

    // What the document says of a licence is for those who run Pelto.
    const { stdout } = await tool('@redocly/cli/bin/cli.js', 'lint', 'openapi.json', '--format=json', '--skip-rule=info-license');
    expect(JSON.parse(stdout.slice(stdout.indexOf('{'))).problems).toEqual([]);

    await tool('openapi-typescript/bin/cli.js', 'openapi.json', '-o', 'pelto.d.ts');
    writeFileSync(join(folder, 'use.ts'), `
      import createClient from 'openapi-fetch';
      import type { operations, paths } from './pelto';
      const client = createClient<paths>({ baseUrl: 'http://pelto.example/api/v1' });
      export async function use(): Promise<number | undefined> {
        const { data } = await client.PATCH('/records/sales_order/{id}', { params: { path: { id: 300 } }, body: { values: { copies: 3 } } });
        const named: operations['patchRecordsSalesOrderById']['responses']['200']['content']['application/json'] | undefined = data;
        // @ts-expect-error A number is wanted there.
        await client.PATCH('/records/sales_order/{id}', { params: { path: { id: 300 } }, body: { values: { copies: 'three' } } });
        return named?.id;
      }
    `);
    await tool('typescript/bin/tsc', '--noEmit', '--strict', '--skipLibCheck', '--module', 'nodenext', '--moduleResolution', 'nodenext', '--lib', 'es2022,dom', 'use.ts');
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }

  const client = createClient({ baseUrl: `${pelto.url}/api/v1`, headers: { Authorization: `Bearer ${token}` } });
  const at = { params: { path: { id: 300 } } };
  expect((await client.GET('/records/sales_order/{id}', at)).data.values.copies).toBe(null);
  expect((await client.PATCH('/records/sales_order/{id}', { ...at, body: { values: { copies: 3 } } })).data.values.copies).toBe(3);
  const refused = await client.PATCH('/records/sales_order/{id}', { ...at, body: { values: { copies: 'many' } } });
  expect([refused.response.status, refused.error.errors[0].pointer]).toEqual([422, '#/values/copies']);
  expect((await client.GET('/records/{type}'.replace('{type}', 'sales_order'), { params: { query: { take: 2, order: '-number' } } })).data.records.length).toBe(2);
});
