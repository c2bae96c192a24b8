// Servers and their database killed in turn, while people save and releases go live: nothing confirmed is lost, and nothing is left open.
// Eight kills with every run; PELTO_KILLS=100 asks for more.
import { Cluster } from './cluster.mjs';
import { Pelto, expect, freePort, test } from './pelto.mjs';

const kills = Number(process.env.PELTO_KILLS ?? 8);
const wait = milliseconds => new Promise(done => setTimeout(done, milliseconds));
const json = async answer => (await answer).json();

test('server and database are killed in turn under load with publishing: no confirmed save or release is lost, and no column, index, rule, job or lock is left', async () => {
  test.skip(Boolean(process.env.PELTO_DATABASE), 'The server is not Pelto\'s own, and may not be on this machine.');
  test.setTimeout(120_000 + kills * 20_000);
  const cluster = new Cluster(await freePort());
  const nodes = [];
  try {
    cluster.start();
    cluster.sql('CREATE DATABASE kills');
    nodes.push(await Pelto.on(cluster, 'kills'));
    nodes.push(await Pelto.on(cluster, 'kills'));
    const token = nodes[0].token('administrator');
    const ask = node => (path, method = 'GET', body = undefined, headers = {}) => fetch(`${node.url}/api/v1/${path}`, { method, body: body && JSON.stringify(body), headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json', ...headers } });

    // Each order has one who saves it, on one of the nodes, with its lines: a save is whole or it is not.
    let over = false;
    const orders = [];
    while (orders.length < 4) orders.push((await json(ask(nodes[0])('records/sales_order', 'POST', { values: { customer: 177 }, lines: { lines: [{ item: 1, quantity: 1, price: 2 }] } }))).id);
    const sent = new Map(orders.map(order => [order, []]));
    const confirmed = new Map();
    const statuses = new Map();
    const saving = orders.map(async (order, i) => {
      const api = ask(nodes[i % 2]);
      while (!over) {
        const mark = `${order}-${sent.get(order).length}`;
        sent.get(order).push(mark);
        const status = await api(`records/sales_order/${order}`, 'PATCH', { values: { reference: mark }, lines: { lines: [{ item: 1, quantity: sent.get(order).length, price: 2, description: mark }] } }).then(answer => answer.status, () => 0);
        statuses.set(status, (statuses.get(status) ?? 0) + 1);
        if (status === 200) confirmed.set(order, mark);
        else await wait(30);
      }
    });

    // One who publishes, on either node: new fields, unique ones, another kind again and again.
    const published = new Set();
    let round = 0;
    const drafting = async api => {
      const read = await api('setup/draft');
      const draft = await read.json();
      const size = draft.fields.find(field => field.code === 'size');
      if (size) size.kind = size.kind === 'text' ? 'integer' : 'text';
      else draft.fields.push({ id: 'f-size', recordType: 'sales_order', code: 'size', label: 'Size', kind: 'text' });
      draft.fields.push({ id: `f-added-${round}`, recordType: round % 3 === 0 ? 'sales_order' : 'partner', code: `added_${round}`, label: `Added ${round}`, kind: 'integer', unique: round % 2 === 0 });
      return api('setup/draft', 'PUT', draft, { 'If-Match': read.headers.get('etag') });
    };
    const publishing = (async () => {
      for (; !over; round++) {
        const api = ask(nodes[round % 2]);
        try {
          await drafting(api);
          const answer = await api('setup/publish', 'POST', { comment: `Round ${round}` });
          if (answer.status === 200) published.add((await answer.json()).release);
        } catch {
          // Cut off: whether it goes live is for those who take it over.
        }
        await wait(50);
      }
    })();

    for (let turn = 0; turn < kills; turn++) {
      await wait(300 + (turn * 137) % 900);
      if (turn % 2 === 0) {
        const node = nodes[(turn / 2) % 2];
        await node.kill();
        await wait((turn % 3) * 400);
        await node.serve();
      } else {
        cluster.stop();
        await wait((turn % 4) * 150);
        cluster.start();
      }
    }

    over = true;
    await Promise.all([...saving, publishing]);
    const one = ask(nodes[0]);
    const sql = text => cluster.sql(text, 'kills');
    const open = "SELECT count(*) FROM pelto.publishing WHERE state IN ('Preparing', 'Finishing') OR storage_before IS NOT NULL";
    await expect.poll(() => sql(open), { timeout: 60_000 }).toBe('0');
    await expect.poll(() => sql("SELECT count(*) FROM pelto.job WHERE state IN ('Running', 'Undoing')"), { timeout: 60_000 }).toBe('0');

    // What people were told is so.
    expect([...statuses.keys()].filter(status => ![0, 200, 503].includes(status)), JSON.stringify([...statuses])).toEqual([]);
    expect(confirmed.size).toBe(orders.length);
    for (const order of orders) {
      const [reference, described, total] = sql(`SELECT o.reference || '|' || (SELECT string_agg(description, ',') FROM erp.sales_order_lines WHERE parent = o.id) || '|' || (net_total = (SELECT sum(amount) FROM erp.sales_order_lines WHERE parent = o.id)) FROM erp.sales_order o WHERE id = ${order}`).split('|');
      const all = sent.get(order);
      expect(all.indexOf(reference), `order ${order} was confirmed as ${confirmed.get(order)}`).toBeGreaterThanOrEqual(all.indexOf(confirmed.get(order)));
      expect([described, total]).toEqual([reference, 'true']);
    }
    const releases = sql('SELECT string_agg(number::text, \',\') FROM pelto.release').split(',').map(Number);
    expect([...published].filter(release => !releases.includes(release))).toEqual([]);
    expect(published.size).toBeGreaterThan(0);

    // Nothing is left of what did not go live: the columns are those of the live definition, and all that keeps watch is whole.
    const { fields } = await json(one('setup/definition'));
    const wanted = fields.flatMap(field => Array.from({ length: (field.lastColumn ?? 0) + 1 }, (_, i) => `${field.code}${i === 0 ? '' : `__${i + 1}`}`)).sort();
    const there = sql("SELECT string_agg(column_name, ',') FROM information_schema.columns WHERE table_schema = 'added' AND column_name NOT IN ('id', 'origins')")?.split(',').sort() ?? [];
    expect(there).toEqual(wanted);
    for (const half of ['indexrelid::regclass::text FROM pg_index WHERE NOT indisvalid', 'conname FROM pg_constraint WHERE NOT convalidated', "tgname FROM pg_trigger WHERE tgname LIKE 'track%'", 'table_name || column_name FROM pelto.conversion']) {
      expect(sql(`SELECT ${half}`)).toBe('');
    }
    const uniques = Number(sql("SELECT count(*) FROM pg_indexes WHERE schemaname = 'added' AND indexname LIKE '%unique%'"));
    expect(uniques).toBe(fields.filter(field => field.unique).length);
    expect(sql("SELECT count(*) FROM pg_stat_activity WHERE datname = 'kills' AND state LIKE 'idle in transaction%' AND state_change < now() - interval '10 seconds'")).toBe('0');

    // And it goes on.
    expect((await drafting(one)).status).toBe(200);
    expect((await one('setup/publish', 'POST', { comment: 'After all' })).status).toBe(200);
    console.log(`${kills} kills: ${[...statuses].map(([status, count]) => `${count} × ${status}`).join(', ')}; ${published.size} of ${round} publishings confirmed`);
  } finally {
    for (const node of nodes) await node.kill('SIGTERM').catch(() => {});
    cluster.remove();
  }
});
