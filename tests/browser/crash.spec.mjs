// The server killed in the middle: what comes back is the old state or the new one, never something between.
import { expect, test, useServer } from './pelto.mjs';

const pelto = useServer();
const wait = milliseconds => new Promise(done => setTimeout(done, milliseconds));

test('killed while publishing, it comes back with the old release or the new one, whole', async () => {
  test.setTimeout(400_000);
  const outcomes = [];
  for (const [turn, delay] of [3, 15, 30, 60, 110, 200].entries()) {
    const api = await pelto.api('administrator');
    const draft = await (await api('setup/draft')).json();
    draft.fields.push({ recordType: 'sales_order', code: `crash_${turn}`, label: `Crash ${turn}`, kind: 'text', length: 10 }, { recordType: 'sales_order', part: 'lines', code: `crash_${turn}`, label: `Crash ${turn}`, kind: 'decimal' });
    expect((await api('setup/draft', { method: 'PUT', body: draft })).ok).toBe(true);
    const publishing = api('setup/publish', { method: 'POST', body: { comment: `Turn ${turn}` } }).then(answer => answer.status, () => 'cut off');
    await wait(delay);
    await pelto.kill();
    outcomes.push(await publishing);
    const begun = pelto.sql("SELECT count(*) FROM pelto.publishing WHERE state IN ('Preparing', 'Finishing')");
    await pelto.serve();

    const again = await pelto.api('order_desk');
    const { fields } = await (await again('record-types/sales_order')).json();
    const found = fields.filter(field => field.code === `crash_${turn}`);
    const columns = Number(pelto.sql(`SELECT count(*) FROM information_schema.columns WHERE table_schema = 'added' AND column_name = 'crash_${turn}'`));
    expect([0, 2]).toContain(found.length);
    if (found.length === 2 || begun !== '0') expect([found.length, columns]).toEqual([2, 2]);
    expect(pelto.sql("SELECT count(*) FROM pelto.publishing WHERE state IN ('Preparing', 'Finishing')")).toBe('0');
    expect(pelto.sql("SELECT count(*) FROM pg_constraint WHERE connamespace = 'added'::regnamespace AND NOT convalidated")).toBe('0');
    const saved = await again('records/sales_order/60', { method: 'PATCH', body: { values: { reference: `After ${turn}` } } });
    expect(saved.status).toBe(200);

    // What did not begin is still in the draft, and goes live now.
    if (found.length === 0) expect((await (await pelto.api('administrator'))('setup/publish', { method: 'POST', body: { comment: 'Again' } })).status).toBe(200);
  }

  // Else nothing was killed in the middle of anything.
  expect(outcomes).toContain('cut off');
});

test('killed while saving, an order is as before or as wanted, header and lines alike', async () => {
  test.setTimeout(400_000);
  const outcomes = [];
  for (let turn = 0; turn < 8; turn++) {
    const api = await pelto.api('order_desk');
    const order = await (await api('records/sales_order/70')).json();
    const mark = `turn ${turn}`;
    const lines = order.lines.lines.map(line => ({ id: line.id, description: mark }));
    for (let i = 0; i < 60; i++) lines.push({ item: 1, quantity: 1, price: 1, description: mark });
    const saving = api('records/sales_order/70', { method: 'PATCH', body: { values: { reference: mark }, lines: { lines } } }).then(answer => answer.status, () => 'cut off');
    await wait(2 + turn * 7);
    await pelto.kill();
    outcomes.push(await saving);
    const [reference, marked, all] = pelto.sql(`SELECT reference || '|' || count(*) FILTER (WHERE description = '${mark}') || '|' || count(*) FROM erp.sales_order o JOIN erp.sales_order_lines l ON l.parent = o.id WHERE o.id = 70 GROUP BY o.id`).split('|');
    if (reference === mark) expect(marked).toBe(all);
    else expect(marked).toBe('0');
    expect(pelto.sql('SELECT net_total = (SELECT sum(amount) FROM erp.sales_order_lines WHERE parent = 70) FROM erp.sales_order WHERE id = 70')).toBe('t');
    await pelto.serve();
    const now = await pelto.api('order_desk');
    await now('records/sales_order/70', { method: 'PATCH', body: { lines: { lines: order.lines.lines.slice(0, 3).map(line => ({ id: line.id })) } } });
  }
  expect(outcomes).toContain('cut off');
});
