// A record's form: computed values while one types, saving, entries that outlast a reload, and new releases.
import { attachLines } from './lines.js';
import { attachPickers } from './pick.js';
import { attachHere } from './here.js';
import { attachAsked, attachFilled, showFilled } from './filled.js';
import { attachInputs, take } from './inputs.js';
import { showParts } from './shown.js';
import { attachAgain, showAgain } from './again.js';
import { attachTabs } from './tabs.js';
import { isInside, tellOutside } from './inside.js';
import './card.js';
import './origins.js';
import './own.js';

let form = document.getElementById('record');
const notices = document.getElementById('notices');
const storeKey = `pelto:${document.body.dataset.person}:${form.dataset.record}`;
let dirty = false;
let leaving = false;

const post = (handler, data) => fetch(`${location.pathname}${handler ? `?handler=${handler}` : ''}`, { method: 'POST', body: data, headers: { 'X-Requested-With': 'pelto' } });

// Unsaved entries

const remember = () => {
  // Neither the token nor secrets stay in the browser.
  const secrets = new Set([...form.querySelectorAll('[data-secret]')].map(input => input.name));
  const entries = [...new FormData(form)].filter(([name]) => name !== '__RequestVerificationToken' && !name.startsWith('scratch~') && !secrets.has(name));
  try {
    localStorage.setItem(storeKey, JSON.stringify({ at: Date.now(), entries }));
  } catch {
    // A full or forbidden store takes the comfort away, not the work.
  }
};

const forget = () => {
  dirty = false;
  localStorage.removeItem(storeKey);
};

window.addEventListener('beforeunload', event => {
  if (dirty && !leaving) event.preventDefault();
});

// Who goes to look at another record and comes back finds the form as it was.
const backKey = `back:${storeKey}`;

function leaveFor(address) {
  if (dirty) {
    remember();
    sessionStorage.setItem(backKey, JSON.stringify({ focused: document.activeElement?.id, scroll: window.scrollY, page: form.querySelector('[role=tab][aria-selected=true]')?.id }));
  }
  leaving = true;
  location.assign(address);
}

const bringBack = async kept => {
  const data = new FormData();
  kept.entries.forEach(([name, value]) => data.append(name, value));
  data.set('__RequestVerificationToken', form.querySelector('[name=__RequestVerificationToken]').value);
  if (!await draw(data)) return false;
  markDirty();
  return true;
};

const offerEntries = async () => {
  const kept = JSON.parse(localStorage.getItem(storeKey) ?? 'null');
  if (!kept || form.dataset.writable !== 'yes') return;
  const back = JSON.parse(sessionStorage.getItem(backKey) ?? 'null');
  sessionStorage.removeItem(backKey);
  if (back && await bringBack(kept)) {
    selectPage(document.getElementById(back.page));
    document.getElementById(back.focused)?.focus({ preventScroll: true });
    window.scrollTo({ top: back.scroll });
    return;
  }
  const at = new Date(kept.at);
  const when = `${String(at.getHours()).padStart(2, '0')}:${String(at.getMinutes()).padStart(2, '0')}`;
  const notice = tell(`You have entries here from ${when} that were not saved.`, 'draft');
  act(notice, 'Bring them back', async () => {
    if (await bringBack(kept)) notice.remove();
  }, true);
  act(notice, 'Drop them', () => {
    forget();
    notice.remove();
  });
};

// Notices

function tell(text, look = '') {
  const notice = document.createElement('div');
  notice.className = `notice ${look}`;
  const said = document.createElement('span');
  said.textContent = text;
  const grow = document.createElement('span');
  grow.className = 'grow';
  notice.append(said, grow);
  notices.append(notice);
  return notice;
}

function act(notice, label, action, main = false) {
  const button = document.createElement('button');
  button.type = 'button';
  button.className = main ? 'btn main' : 'btn';
  button.textContent = label;
  button.addEventListener('click', action);
  notice.append(button);
}

let trouble = null;
const tellTrouble = text => {
  trouble?.remove();
  trouble = tell(text, 'bad');
  trouble.setAttribute('role', 'alert');
};

// Drawing the form anew, with what was typed

async function draw(data = new FormData(form)) {
  // Who only reads has typed nothing that could be lost.
  if (form.dataset.writable !== 'yes') {
    location.reload();
    return true;
  }
  const focused = document.activeElement?.id;
  let html;
  try {
    const answer = await post('Draw', data);
    if (!answer.ok || answer.headers.get('content-type')?.includes('json')) throw new Error(String(answer.status));
    html = await answer.text();
  } catch {
    tellTrouble('The page cannot be drawn anew just now. What you typed is still here; please try again.');
    return false;
  }
  replace(html, focused);
  return true;
}

function replace(html, focused) {
  const before = new Set([...form.querySelectorAll('[data-field]')].map(part => part.dataset.field));
  const scroll = window.scrollY;
  const page = form.querySelector('[role=tab][aria-selected=true]')?.id;
  const holder = document.createElement('template');
  holder.innerHTML = html;
  const next = holder.content.querySelector('#record');
  form.replaceWith(next);
  form = next;
  form.querySelectorAll('[data-field]').forEach(part => part.classList.toggle('fresh', !before.has(part.dataset.field)));
  attach();
  document.dispatchEvent(new CustomEvent('pelto:drawn'));
  if (page) selectPage(document.getElementById(page));
  window.scrollTo({ top: scroll });
  const first = form.querySelector('[data-first-focus]');
  if (first) {
    revealTrouble();
    first.focus();
    window.scrollTo({ top: 0 });
  } else if (focused) {
    document.getElementById(focused)?.focus({ preventScroll: true });
  }
}

// While typing: what is computed follows, and what makes no sense is said at its place

let waiting = 0;
let turn = 0;

function markDirty() {
  dirty = true;
  remember();
}

// What is typed in a scratch field changes nothing of the record.
function changed(event) {
  if (!event?.target?.matches?.('[data-scratch]')) markDirty();
  clearTimeout(waiting);
  waiting = setTimeout(tryNow, 200);
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
  for (const [name, { text, failed }] of Object.entries(answer.values)) {
    for (const output of form.querySelectorAll(`[data-output="${CSS.escape(name)}"]`)) {
      if (output.textContent.trim() === text) continue;
      output.textContent = text;
      output.classList.toggle('error', failed);
    }
  }
  showParts(form, answer.shown);
  showFilled(form, answer.filled);
  showAgain(form);
  const said = new Map(answer.messages.map(message => [message.at, message.text]));
  form.querySelectorAll('.message').forEach(place => {
    if (place.querySelector('[data-take-theirs]')) return;
    const input = document.getElementById(place.id.replace(/-message$/, ''));
    const name = input?.dataset.output ?? input?.dataset.tags ?? input?.name?.replace(/\.text$/, '');
    const text = said.get(name);
    if (input?.contains(document.activeElement) && text && !place.textContent) return;
    // "Is needed", said when somebody saved, stays until something stands there.
    if (!text && 'judged' in place.dataset && input?.value === '') return;
    delete place.dataset.judged;
    place.hidden = !text;
    place.textContent = text ?? '';
    if (input?.matches('[data-tags]')) return;
    input?.toggleAttribute('aria-invalid', Boolean(text));
    if (text) input.setAttribute('aria-invalid', 'true');
  });
  if (answer.screen !== form.dataset.screen) await redraw();
}

// A condition brings another screen: it is drawn with all that was typed, also while it was on its way.
const written = () => JSON.stringify([...new FormData(form)].filter(([, value]) => typeof value === 'string'));

async function redraw() {
  for (let turns = 0; turns < 5; turns++) {
    const before = written();
    const answer = await post('Draw', new FormData(form)).catch(() => null);
    if (!answer?.ok || answer.headers.get('content-type')?.includes('json')) return;
    const html = await answer.text();
    if (written() !== before) continue;
    const { id, selectionStart, selectionEnd } = document.activeElement ?? {};
    replace(html, id);
    if (id && document.activeElement?.id === id && typeof selectionStart === 'number') document.activeElement.setSelectionRange?.(selectionStart, selectionEnd);
    remember();
    return;
  }
}

document.addEventListener('pelto:own', () => draw());

// Saving

let saving = false;

async function save() {
  if (saving || form.dataset.writable !== 'yes') return;
  saving = true;
  clearTimeout(waiting);
  turn++;
  const button = document.querySelector('[data-save]');
  button?.setAttribute('aria-disabled', 'true');
  try {
    const answer = await post('', new FormData(form));
    if (answer.headers.get('content-type')?.includes('json')) {
      const { saved, target, gone } = await answer.json();
      if (saved) {
        forget();
        if (isInside) {
          tellOutside('chosen', target);
          return;
        }
        // The page that was saved takes the form's place in the history: back leads to where one came from.
        location.replace(saved);
        return;
      }
      tellTrouble(gone);
    } else if (answer.ok && !answer.redirected) {
      trouble?.remove();
      replace(await answer.text());
      markDirty();
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

// Pages

function selectPage(tab) {
  if (!tab) return;
  form.querySelectorAll('[role=tab]').forEach(other => {
    const on = other === tab;
    other.setAttribute('aria-selected', String(on));
    other.tabIndex = on ? 0 : -1;
    document.getElementById(other.getAttribute('aria-controls')).hidden = !on;
  });
}

function revealTrouble() {
  const page = form.querySelector('[aria-invalid=true]')?.closest('[data-page]');
  if (page?.hidden) selectPage(form.querySelector(`[aria-controls="${page.id}"]`));
}

// Releases

let offered = null;

async function offerRelease() {
  const drawn = form.querySelector('[name=release]').value;
  const about = await fetch(`/live/changes?type=${form.dataset.type}&since=${drawn}`).then(answer => answer.json()).catch(() => null);
  if (!about || about.changes === 0) return;
  offered?.remove();
  const what = about.changes === 1 ? 'One field changed on this screen.' : `${about.changes} fields changed on this screen.`;
  offered = tell(`Release ${about.release} is live. ${what} What you have typed stays.`);
  act(offered, 'Show them', async () => {
    if (await draw()) {
      offered.remove();
      remember();
    }
  }, true);
  act(offered, 'After I save', () => offered.remove());
}

document.addEventListener('pelto:release', offerRelease);
document.addEventListener('pelto:said', event => {
  const said = tell(event.detail);
  setTimeout(() => said.remove(), 4000);
});

// Keys and clicks

document.addEventListener('keydown', event => {
  if ((event.ctrlKey || event.metaKey) && event.key === 's') {
    event.preventDefault();
    save();
  }
  if (event.altKey && !event.ctrlKey && event.code === 'KeyG') {
    const go = event.target.closest('.tag')?.querySelector('a') ?? event.target.closest('.pick')?.querySelector('.go:not([hidden])');
    if (!go) return;
    event.preventDefault();
    leaveFor(go.href);
  }
});

// Links to other records, opened here: what was typed waits for the way back.
document.addEventListener('click', event => {
  const link = event.target.closest('#work a[href^="/records/"], #find a');
  if (!link || isInside || event.button !== 0 || event.ctrlKey || event.metaKey || event.shiftKey || !dirty) return;
  event.preventDefault();
  leaveFor(link.href);
});

// A page that the browser kept as it was needs nothing brought back.
window.addEventListener('pageshow', event => {
  if (!event.persisted) return;
  leaving = false;
  sessionStorage.removeItem(backKey);
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
    const tab = event.target.closest('[role=tab]');
    if (tab) selectPage(tab);
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
    const tab = event.target.closest('[role=tab]');
    if (tab && (event.key === 'ArrowRight' || event.key === 'ArrowLeft')) {
      const tabs = [...form.querySelectorAll('[role=tab]')];
      const next = tabs[(tabs.indexOf(tab) + (event.key === 'ArrowRight' ? 1 : tabs.length - 1)) % tabs.length];
      selectPage(next);
      next.focus();
    }
    // Enter goes on in a single-line input; only the save button and Ctrl S save.
    if (event.key === 'Enter' && event.target.matches('input:not([type=file])') && !event.defaultPrevented) event.preventDefault();
  });
  attachPickers(form);
  attachInputs(form);
  attachFilled(form, changed);
  attachAsked(form);
  attachLines(form);
  attachAgain(form);
  attachTabs(form);
  showAgain(form);
}

function takeTheirs(button) {
  const input = document.getElementById(button.dataset.for);
  take(button);
  input.removeAttribute('aria-invalid');
  const message = button.closest('.message');
  message.hidden = true;
  message.textContent = '';
  input.focus();
  changed();
}

attach();
attachHere(document.querySelector('[data-here]'), () => form, () => {
  if (dirty) remember();
  leaving = true;
});
offerEntries();
if (isInside) form.querySelector('input:not([type=hidden]), select, textarea')?.focus();
// Keys are heard from here on; tests wait for it.
document.body.dataset.ready = 'yes';
