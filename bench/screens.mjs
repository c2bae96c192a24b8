// What people wait for, in Debian's Chromium: opening and saving long documents, the answer to a key, arranging a screen.
// Run by ./pelto bench screens. Takes a JSON plan on the command line; writes medians in milliseconds as JSON.
import { chromium } from '@playwright/test';
import { chromiumPath } from '../tests/browser/chromium.mjs';

const { url, person, documents = [], screens = [], times } = JSON.parse(process.argv[2]);
const browser = await chromium.launch({ executablePath: chromiumPath, args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--disable-background-networking'] });
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
await page.goto(`${url}/account/sign-in`);
await page.getByRole('button', { name: person }).click();
await page.waitForURL(/records/);

const median = all => [...all].sort((a, b) => a - b)[Math.floor(all.length / 2)];
const timed = async doing => {
  const began = performance.now();
  await doing();
  return performance.now() - began;
};
// A page that has only just begun to arrive has no body yet.
const ready = () => page.waitForFunction(() => document.body?.dataset.ready === 'yes');

// From asking for it until keys are heard and it is painted.
const open = path => timed(async () => {
  await page.goto(url + path, { waitUntil: 'commit' });
  await ready();
  await page.evaluate(() => new Promise(done => requestAnimationFrame(() => setTimeout(done))));
});

// From the key to the computed value on the screen, and how long the page itself could not answer.
const type = (name, output, value) => page.evaluate(async ([name, output, value]) => {
  const input = document.querySelector(`[name="${name}"]`);
  const place = document.querySelector(`[data-output="${output}"]`);
  const began = performance.now();
  input.value = value;
  input.dispatchEvent(new InputEvent('input', { bubbles: true }));
  const held = performance.now() - began;
  await new Promise(done => {
    const watch = new MutationObserver(() => {
      watch.disconnect();
      done();
    });
    watch.observe(place, { childList: true, characterData: true, subtree: true });
  });
  return { held, answered: performance.now() - began };
}, [name, output, value]);

const result = { documents: {}, screens: {} };
for (const { name, path, input, output } of documents) {
  const [opened, answered, held, saved] = [[], [], [], []];
  await open(path);
  for (let i = 0; i < times; i++) {
    opened.push(await open(path));
    for (let k = 0; k < 3; k++) {
      const took = await type(input, output, String(100 + i * 10 + k));
      answered.push(took.answered);
      held.push(took.held);
      await page.waitForTimeout(400);
    }
    saved.push(await timed(async () => {
      await page.evaluate(() => { document.body.dataset.ready = 'no'; });
      await page.keyboard.press('Control+s');
      await page.waitForURL(/saved=true/, { waitUntil: 'commit' });
      await ready();
    }));
    if (!await page.getByText('Saved.').isVisible()) throw new Error(`${path} was not saved.`);
  }
  result.documents[name] = { opened: median(opened), answered: median(answered), held: median(held), saved: median(saved) };
}

// From the key to the part at its new place, with what was said of it.
const move = (part, key) => page.evaluate(async ([part, key]) => {
  const said = () => document.querySelector('[data-operations]').dataset.version;
  const chosen = document.querySelector(`[data-canvas] [data-select="${part}"]`);
  chosen.focus();
  await new Promise(done => setTimeout(done, 400));
  const before = said();
  const began = performance.now();
  document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key, altKey: true, bubbles: true }));
  while (said() === before && performance.now() - began < 20000) await new Promise(done => setTimeout(done, 2));
  await new Promise(done => requestAnimationFrame(() => setTimeout(done)));
  return performance.now() - began;
}, [part, key]);
for (const { name, path, part } of screens) {
  const [opened, moved] = [[], []];
  await open(path);
  for (let i = 0; i < times; i++) {
    opened.push(await open(path));
    for (const key of ['ArrowRight', 'ArrowLeft']) moved.push(await move(part, key));
  }
  result.screens[name] = { opened: median(opened), moved: median(moved) };
}

await browser.close();
console.log(JSON.stringify(result));
