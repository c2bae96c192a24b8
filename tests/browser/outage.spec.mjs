// The database server stopped under load, again and again: Pelto stays, loses nothing that it confirmed, and works on by itself.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Cluster } from './cluster.mjs';
import { Pelto, expect, freePort, test } from './pelto.mjs';

const wait = milliseconds => new Promise(done => setTimeout(done, milliseconds));

test('the database is stopped twenty times while people save: the server goes on by itself, no confirmed save is lost, and releases of others are heard', async () => {
  test.skip(Boolean(process.env.PELTO_DATABASE), 'The server is not Pelto\'s own, and may not be on this machine.');
  test.setTimeout(400_000);
  const cluster = new Cluster(await freePort());
  const nodes = [];
  try {
    cluster.start();
    cluster.sql('CREATE DATABASE outage');
    const pelto = await Pelto.on(cluster, 'outage');
    nodes.push(pelto);
    let ended = null;
    pelto.child.once('exit', code => { ended = code; });
    const api = await pelto.api('administrator');

    // Each order has one who saves it, so that what is last confirmed of it is known.
    const orders = [60, 61, 62, 63];
    const confirmed = new Map();
    const sent = new Map(orders.map(order => [order, []]));
    const statuses = new Map();
    let over = false;
    const work = orders.map(async order => {
      for (let turn = 0; !over; turn++) {
        const mark = `${order}-${turn}`;
        sent.get(order).push(mark);
        const status = await api(`records/sales_order/${order}`, { method: 'PATCH', body: { values: { reference: mark } } }).then(answer => answer.status, () => 0);
        statuses.set(status, (statuses.get(status) ?? 0) + 1);
        if (status === 200) confirmed.set(order, mark);
        else await wait(30);
      }
    });
    for (let turn = 0; turn < 20; turn++) {
      await wait(150 + (turn % 5) * 100);
      cluster.stop();
      await wait((turn % 4) * 200);
      cluster.start();
    }
    await expect.poll(async () => (await api('records/sales_order/64', { method: 'PATCH', body: { values: { reference: 'After all' } } }).catch(() => ({}))).status).toBe(200);
    over = true;
    await Promise.all(work);
    expect(ended, 'the server ended').toBe(null);

    // What it put down meanwhile is one JSON object a line, for what collects it.
    const log = pelto.log.trim().split('\n').map(line => JSON.parse(line));
    expect(log.map(entry => `${entry.LogLevel} ${entry.Category}`)).toContain('Warning Pelto.Web.Live.ReleaseListener');
    expect(log.every(entry => new Date(entry.Timestamp).getTime() > 0 && entry.Message)).toBe(true);
    expect(confirmed.size).toBe(orders.length);
    expect([...statuses.keys()].filter(status => ![0, 200, 503].includes(status)), JSON.stringify([...statuses])).toEqual([]);
    for (const order of orders) {
      const reference = pelto.sql(`SELECT reference FROM erp.sales_order WHERE id = ${order}`);
      const all = sent.get(order);
      expect(all.indexOf(reference), `order ${order} was confirmed as ${confirmed.get(order)}`).toBeGreaterThanOrEqual(all.indexOf(confirmed.get(order)));
    }

    // Another node publishes; this one hears of it. A publishing that was put down by a node that died is taken over.
    const other = await Pelto.on(cluster, 'outage');
    nodes.push(other);
    await other.publish({ recordType: 'partner', code: 'heard', label: 'Heard', kind: 'text', length: 10 });
    const fields = async () => (await (await api('record-types/partner')).json()).fields.map(field => field.code);
    await expect.poll(fields).toContain('heard');
    const draft = await (await api('setup/draft')).json();
    draft.fields.push({ recordType: 'partner', code: 'left', label: 'Left', kind: 'text', length: 10 });
    await (await other.api('administrator'))('setup/draft', { method: 'PUT', body: draft });
    const publishing = (await other.api('administrator'))('setup/publish', { method: 'POST', body: { comment: 'Left behind' } }).then(answer => answer.status, () => 'cut off');
    await expect.poll(() => Number(pelto.sql("SELECT count(*) FROM pelto.publishing WHERE comment = 'Left behind'")), { intervals: [5] }).toBe(1);
    await other.kill();
    nodes.pop();
    await publishing;
    await expect.poll(fields, { timeout: 15_000 }).toContain('left');
    // The field is there with the release; what follows the release (settling) may still be under way.
    const open = () => pelto.sql("SELECT count(*) FROM pelto.publishing WHERE state IN ('Preparing', 'Finishing')");
    await expect.poll(open, { timeout: 15_000 }).toBe('0');
  } finally {
    for (const node of nodes) await node.kill('SIGTERM');
    cluster.remove();
  }
});

test('publishing does not wait for the upkeep that the database does by itself: that makes way', async () => {
  test.skip(Boolean(process.env.PELTO_DATABASE), 'The server is not Pelto\'s own, and may not be on this machine.');
  const cluster = new Cluster(await freePort());
  let pelto;
  try {
    cluster.start();
    cluster.sql('CREATE DATABASE upkeep');
    cluster.sql("ALTER SYSTEM SET autovacuum_naptime = '1s'");
    cluster.sql('SELECT pg_reload_conf()');
    pelto = await Pelto.on(cluster, 'upkeep');
    await pelto.publish({ recordType: 'item', code: 'first', label: 'First', kind: 'text', length: 900 });

    // Much to clear up, at a pace of a page now and then.
    pelto.sql('ALTER TABLE added.item SET (autovacuum_vacuum_cost_delay = 100, autovacuum_vacuum_cost_limit = 1, autovacuum_vacuum_threshold = 10, autovacuum_analyze_threshold = 1000000)');
    pelto.sql("INSERT INTO added.item (id, first) SELECT id, repeat('x', 900) FROM erp.item");
    pelto.sql("UPDATE added.item SET first = repeat('y', 900)");
    const upkeep = "SELECT count(*) FROM pg_stat_activity WHERE backend_type = 'autovacuum worker' AND query LIKE '%added.item%'";
    await expect.poll(() => pelto.sql(upkeep), { timeout: 60_000, intervals: [100] }).toBe('1');
    await pelto.publish({ recordType: 'item', code: 'second', label: 'Second', kind: 'integer' });
    expect(readFileSync(join(cluster.folder, 'log'), 'utf8')).toMatch(/canceling autovacuum task\n[^]*?automatic vacuum of table "upkeep\.added\.item"/);
  } finally {
    await pelto?.kill('SIGTERM');
    cluster.remove();
  }
});
