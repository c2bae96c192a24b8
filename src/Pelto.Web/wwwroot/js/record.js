// A record's form: computed values while one types, saving, entries that outlast a reload, and new releases.
import { attachFit } from './fit.js';
import { attachLines } from './lines.js';
import { attachPickers, chooseOn } from './pick.js';
import { attachHere } from './here.js';
import { attachAsked, attachFilled, showFilled } from './filled.js';
import { attachInputs, take } from './inputs.js';
import { Typed, caret, carry, isHeld, markRefusals, messageOf, say, show, watchRefusals } from './kept.js';
import { act, forgetTrouble, tell, tellTrouble } from './notices.js';
import { attachSheets, revealTrouble, selectAddressed, selectSheet, sheetNow, showTroubles } from './sheets.js';
import { Unsaved } from './unsaved.js';
import { Sleepers } from './asleep.js';
import { showParts } from './shown.js';
import { attachAgain, showAgain } from './again.js';
import { attachTabs } from './tabs.js';
import { isInside, tellOutside } from './inside.js';
import './card.js';
import './origins.js';
import './own.js';

let form = document.getElementById('record');
const unsaved = new Unsaved(() => form, draw);
const { typed } = unsaved;

const post = (handler, data) => fetch(`${location.pathname}${handler ? `?handler=${handler}` : ''}`, { method: 'POST', body: data, headers: { 'X-Requested-With': 'pelto' } });

const sleepers = new Sleepers(() => form, post, data => draw(data));

// Drawing the form anew, with what was typed, also while it was on its way

let drawing = 0;
const lineKeys = () => [...form.querySelectorAll('tr[data-line]')].map(row => row.dataset.line).join(' ');

async function draw(data) {
  // Who only reads has typed nothing that could be lost.
  if (form.dataset.writable !== 'yes') {
    location.reload();
    return true;
  }
  const mine = ++drawing;
  for (let tries = 0; tries < 5; tries++) {
    const lines = lineKeys();
    let html;
    try {
      const answer = await post('Draw', data ?? new FormData(form));
      if (!answer.ok || answer.redirected || answer.headers.get('content-type')?.includes('json')) throw new Error(String(answer.status));
      html = await answer.text();
    } catch {
      if (mine === drawing) tellTrouble('The page cannot be refreshed just now. What you typed is still here; please try again.');
      return false;
    }
    if (mine !== drawing) return false;

    // Lines came or went meanwhile: it is drawn with those.
    if (!data && lines !== lineKeys()) continue;
    replace(html);
    return true;
  }
  return false;
}

function replace(html) {
  const before = new Set([...form.querySelectorAll('[data-field]')].map(part => part.dataset.field));
  const scroll = window.scrollY;
  const sheet = sheetNow(form);
  const putCaret = caret();
  const holder = document.createElement('template');
  holder.innerHTML = html;
  const next = holder.content.querySelector('#record');
  const written = writtenIn(form);
  const lost = carry(form, next, typed);
  form.replaceWith(next);
  form = next;
  turn++;
  form.querySelectorAll('[data-field]').forEach(part => part.classList.toggle('fresh', !before.has(part.dataset.field)));
  attach();
  markRefusals(form);
  watchRefusals(form);
  selectSheet(form, sheet);
  window.scrollTo({ top: scroll });
  putCaret();
  chooseOn();
  document.dispatchEvent(new CustomEvent('pelto:drawn'));
  for (const { label, words } of lost) tell(`${label} is no longer on this screen. You typed there: ${words}`, 'draft');

  // The server has not seen what was typed while this was on its way.
  if (written !== writtenIn(form)) tryLater();
}

// What is wrong comes into sight when somebody asked to save.
function showTrouble() {
  const first = form.querySelector('[data-first-focus]');
  if (!first) return;
  revealTrouble(form);
  first.focus();
  window.scrollTo({ top: 0 });
}

// While typing: what is computed follows, and what makes no sense is said at its place

// Asked at once, and again once the answer is there if more was typed meanwhile: whoever types fast waits for no pause, and the server never for more than one.
const together = 5;
let waiting = 0;
let turn = 0;
let trying = 0;
let isBehind = false;

// What is typed in a scratch field changes nothing of the record.
function changed(event) {
  if (event?.target && event.target !== form) {
    unsaved.note(event.target);
    if (messageOf(event.target)?.dataset.byBrowser) say(event.target, null);
  }
  if (!event?.target?.matches?.('[data-scratch]')) unsaved.mark();
  tryLater();
}

function tryLater() {
  // Tests wait until all that was typed is judged.
  document.body.dataset.trying = 'yes';
  if (trying > 0) {
    isBehind = true;
    return;
  }
  clearTimeout(waiting);
  waiting = setTimeout(tryOnce, together);
}

async function tryOnce() {
  trying++;
  try {
    await tryNow();
  } finally {
    trying--;
    if (isBehind) {
      isBehind = false;
      tryLater();
    } else if (trying === 0) delete document.body.dataset.trying;
  }
}

async function tryNow() {
  const mine = ++turn;
  let answer;
  try {
    answer = await post('Try', new FormData(form));
    if (!answer.ok) return;
    answer = await answer.json();
  } catch {
    return;
  }
  if (mine !== turn) return;
  for (const output of form.querySelectorAll('[data-output]')) {
    const value = answer.values[output.dataset.output];
    if (!value || output.textContent.trim() === value.text) continue;
    output.textContent = value.text;
    output.classList.toggle('error', value.failed);
  }
  showParts(form, answer.shown);
  showFilled(form, answer.filled);
  showAgain(form);
  const said = new Map(answer.messages.map(message => [message.at, message.text]));
  form.querySelectorAll('.message').forEach(place => {
    const input = document.getElementById(place.id.replace(/-message$/, ''));
    const name = input?.dataset.output ?? input?.dataset.tags
      ?? input?.closest('[data-editor], [data-file]')?.querySelector('[type=hidden]').name ?? input?.name?.replace(/\.text$/, '');
    const text = said.get(name);
    if (isHeld(place) && (!text || place.dataset.byBrowser || place.querySelector('[data-take-theirs]'))) return;
    if (input?.contains(document.activeElement) && text && !place.textContent) return;
    if (place.textContent.trim() === (text ?? '')) return;
    delete place.dataset.onlySaving;
    delete place.dataset.byBrowser;
    show(place, text);
  });
  for (const name of said.keys()) {
    const line = sleepers.lineOf(name);
    if (line) sleepers.wake(line);
  }
  countTrouble();
  if (answer.screen !== form.dataset.screen) await draw();
}

// What the notice above says follows what is mended below.
function countTrouble() {
  showTroubles(form);
  const count = form.querySelector('[data-wrong]');
  if (!count) return;
  const wrong = form.querySelectorAll('.message:not([hidden])').length + form.querySelectorAll('[data-note-of-all]').length;
  const { one, many, none } = count.dataset;
  count.textContent = wrong === 0 ? none : wrong === 1 ? one : many.replace('#', wrong);
}

const ofTheForm = new Set(['release', 'opened', 'judged']);
const writtenIn = from => JSON.stringify([...new FormData(from)].filter(([name, value]) => typeof value === 'string' && !ofTheForm.has(name)));

document.addEventListener('pelto:own', () => draw());

// Saving

let saving = false;

async function save() {
  if (saving || form.dataset.writable !== 'yes') return;
  saving = true;
  unsaved.meanwhile = new Typed();
  clearTimeout(waiting);
  if (trying === 0) delete document.body.dataset.trying;
  turn++;
  const button = document.querySelector('[data-save]');
  button?.setAttribute('aria-disabled', 'true');
  try {
    const sent = lineKeys();
    const answer = await post('', new FormData(form));
    if (answer.headers.get('content-type')?.includes('json')) {
      const { saved, target, keys, gone } = await answer.json();
      if (saved) {
        unsaved.forget();
        if (isInside) {
          tellOutside('chosen', target);
          return;
        }
        unsaved.handOver(saved, keys ?? {});
        // The page that was saved takes the form's place in the history: back leads to where one came from.
        location.replace(saved + location.hash);
        return;
      }
      tellTrouble(gone);
    } else if (answer.ok && !answer.redirected) {
      forgetTrouble();
      drawing++;
      const html = await answer.text();
      if (sent === lineKeys()) replace(html);
      else await judge();
      unsaved.mark();
      showTrouble();
    } else {
      const page = new DOMParser().parseFromString(await answer.text(), 'text/html');
      tellTrouble(page.querySelector('[data-failure]')?.textContent
        ?? (answer.redirected ? 'Not saved: you are signed out. Sign in again in another tab, then save here.' : 'Not saved. What you typed is still here; please try again.'));
    }
  } catch {
    tellTrouble('Not saved: Pelto cannot be reached just now. What you typed is still here; please try again in a moment.');
  } finally {
    saving = false;
    button?.removeAttribute('aria-disabled');
  }
}

// Lines came or went while it was refused: it is drawn with those, and with all that is wrong.
async function judge() {
  const mark = Object.assign(document.createElement('input'), { type: 'hidden', name: 'judged', value: 'yes' });
  if (!form.elements.namedItem('judged')) form.append(mark);
  await draw();
}

// Releases

let offered = null;

async function offerRelease() {
  const drawn = form.querySelector('[name=release]').value;
  const about = await fetch(`/live/changes?type=${form.dataset.type}&since=${drawn}&adding=${form.dataset.record.endsWith('/new')}`).then(answer => answer.json()).catch(() => null);
  if (!about || !about.isAny) return;
  offered?.remove();
  offered = tell(`Release ${about.release} is live. ${about.said} What you have typed stays.`);
  act(offered, 'Show them', async () => {
    if (await draw()) {
      offered.remove();
      if (unsaved.isDirty) unsaved.remember();
    }
  }, true);
  act(offered, 'After I save', () => offered.remove());
}

document.addEventListener('pelto:release', offerRelease);
// Said in passing: what comes next takes its place.
let passing = null;
document.addEventListener('pelto:said', event => {
  passing?.remove();
  const said = passing = tell(event.detail);
  setTimeout(() => said.remove(), 4000);
});

// Keys and clicks

document.addEventListener('keydown', event => {
  if ((event.ctrlKey || event.metaKey) && event.key === 's') {
    event.preventDefault();
    save();
  }
  if (event.altKey && !event.ctrlKey && event.code === 'KeyN' && !form.contains(event.target) && !document.querySelector('dialog[open]')) {
    form.querySelector('[data-page]:not([hidden]) [data-add-line]')?.click();
  }
  if (event.altKey && !event.ctrlKey && event.code === 'KeyG') {
    const go = event.target.closest('.tag')?.querySelector('a') ?? event.target.closest('.pick')?.querySelector('.go:not([hidden])');
    if (!go) return;
    event.preventDefault();
    unsaved.leaveFor(go.href);
  }
});

// Links to other records, opened here: what was typed waits for the way back.
document.addEventListener('click', event => {
  const link = event.target.closest('#work a[href^="/records/"], #find a');
  if (!link || isInside || event.button !== 0 || event.ctrlKey || event.metaKey || event.shiftKey || !unsaved.isDirty) return;
  event.preventDefault();
  unsaved.leaveFor(link.href);
});

function attach() {
  form.addEventListener('submit', event => {
    event.preventDefault();
    save();
  });
  form.addEventListener('input', changed);
  form.addEventListener('change', changed);
  form.addEventListener('pelto:changed', changed);
  form.addEventListener('click', event => {
    if (event.target.closest('[data-print]')) window.print();
    if (event.target.closest('[data-fill-all]')) form.querySelectorAll('[data-fill-again]').forEach(again => { if (again.getClientRects().length > 0) again.click(); });
    const help = event.target.closest('[data-help]');
    if (help) {
      const text = document.getElementById(help.dataset.help);
      text.hidden = !text.hidden;
      help.setAttribute('aria-expanded', String(!text.hidden));
    }
    const theirs = event.target.closest('[data-take-theirs]');
    if (theirs) takeTheirs(theirs);
  });
  form.addEventListener('keydown', event => {
    // Enter goes on in a single-line input; only the save button and Ctrl S save.
    if (event.key === 'Enter' && event.target.matches('input:not([type=file])') && !event.defaultPrevented) event.preventDefault();
  });
  attachSheets(form);
  attachPickers(form);
  attachInputs(form);
  attachFilled(form, typed, changed);
  attachAsked(form);
  attachLines(form);
  attachAgain(form);
  attachTabs(form);
  attachFit(form);
  sleepers.attach(form);
  showAgain(form);
}

function takeTheirs(button) {
  const input = document.getElementById(button.dataset.for);
  take(button);
  typed.note(input);
  show(button.closest('.message'), null);
  input.focus();
  changed();
}

attach();
selectAddressed(form);
attachHere(document.querySelector('[data-here]'), () => form, () => unsaved.leave());
if (unsaved.takeOver()) tryLater();
else unsaved.offer();
if (isInside) form.querySelector('input:not([type=hidden]), select, textarea')?.focus();
// Keys are heard from here on; tests wait for it.
document.body.dataset.ready = 'yes';
