// Arranging: parts of the real screen are chosen, moved and set, by pointer or keys. The server carries everything out and draws the screen anew.
import { showTab } from './tablist.js';
import { walk } from './tabs.js';

const host = document.getElementById('arranged');
const token = document.querySelector('#token [name=__RequestVerificationToken]').value;
const state = { chosen: null, typed: false, cut: null, undo: [], redo: [], busy: Promise.resolve() };

const root = () => host.querySelector('.arrange');
const canvas = () => host.querySelector('[data-canvas]');
const idOf = part => part.dataset.place ?? part.dataset.extra ?? part.dataset.section ?? part.dataset.pageId;
const isItem = part => part.matches('.f, th');
const parts = () => [...canvas().querySelectorAll('[data-select]')].filter(part => part.getClientRects().length > 0);
const find = id => parts().find(part => part.dataset.select === id);
const address = handler => `${location.pathname}?${new URLSearchParams({ type: host.dataset.type, layer: host.dataset.layer, record: host.dataset.record, on: host.dataset.on, of: host.dataset.of, handler })}`;
const isOwn = host.dataset.own === 'yes';

// Choosing

function prepare() {
  const form = canvas().querySelector('form');
  form.removeAttribute('id');
  form.addEventListener('submit', event => event.preventDefault());
  form.querySelectorAll('input, select, textarea, button:not([role=tab]), a, [contenteditable], output').forEach(control => {
    control.dataset.stop = control.tabIndex >= 0 ? 'yes' : 'no';
    control.tabIndex = -1;
    if (control.matches('input, textarea')) control.readOnly = true;
  });
  form.querySelectorAll('tbody a').forEach(link => link.removeAttribute('href'));
  const tabs = [...form.querySelectorAll('[role=tab]')];
  tabs.forEach((tab, index) => {
    const page = form.querySelector(`#page-${index}`);
    tab.dataset.pageId = page.dataset.pageId;
    tab.tabIndex = -1;
  });
  form.querySelectorAll('.f[data-place], .f[data-extra], th[data-place], section[data-section], [role=tab]').forEach(part => {
    part.dataset.select = idOf(part);
    part.tabIndex = -1;
    if (part.matches('.f, th, section')) part.draggable = true;
    const label = part.dataset.label ?? part.dataset.sectionLabel ?? part.textContent.trim().slice(0, 60);
    if (isItem(part)) {
      part.setAttribute('aria-roledescription', part.matches('th') ? 'column' : 'place');
      if (part.matches('.f')) {
        part.setAttribute('role', 'group');
        part.setAttribute('aria-label', label);
      }
    }
  });
  if (state.page) showPage(form.querySelector(`[role=tab][data-page-id="${CSS.escape(state.page)}"]`));
  const wanted = root().dataset.part || state.chosen;
  choose(find(wanted) ?? hiddenPage(wanted) ?? parts().find(isItem), { quiet: true });
  showTurns();
}

// What is on another page is brought to sight.
function hiddenPage(id) {
  const part = id && canvas().querySelector(`[data-select="${CSS.escape(id)}"]`);
  const page = part?.closest('[data-page]');
  if (!page) return null;
  showPage(canvas().querySelector(`[aria-controls="${page.id}"]`));
  return part;
}

function showPage(tab) {
  if (!tab) return;
  state.page = tab.dataset.pageId;
  showTab(canvas().querySelectorAll('[role=tab]'), tab);
  showTurns();
}

// What Tab comes to on the page that is shown, as the form itself would: what has no input is no stop, and each line is gone through.
const turns = () => walk(canvas().querySelector('form'), control => control.dataset.stop === 'yes');

function showTurns() {
  canvas().querySelectorAll('.turn').forEach(turn => turn.remove());
  const first = new Map();
  turns().forEach((part, at) => {
    const row = part.closest('tr');
    const place = row ? part.closest('table').querySelector(`thead tr`).children[part.cellIndex] : part;
    if (place && !first.has(place)) first.set(place, at + 1);
  });
  first.forEach((turn, place) => mark(place, String(turn)));
  root().dataset.skipped.split(' ').filter(Boolean).forEach(id => mark(canvas().querySelector(`[data-select="${CSS.escape(id)}"]`), 'skip'));
  function mark(part, text) {
    if (!part) return;
    const turn = document.createElement('span');
    turn.className = 'turn';
    turn.textContent = text;
    turn.setAttribute('aria-hidden', 'true');
    part.append(turn);
  }
}

function choose(part, { quiet = false, focus = false } = {}) {
  if (!part) return;
  parts().forEach(other => {
    other.classList.toggle('chosen', other === part);
    other.tabIndex = other === part ? 0 : -1;
  });
  if (part.matches('[role=tab]')) showPage(part);
  const changed = state.chosen !== part.dataset.select;
  state.chosen = part.dataset.select;
  if (focus) part.focus();
  if (changed && !quiet || host.querySelector('#part [name=Part]')?.value !== state.chosen) loadSettings();
}

let asked = 0;
async function loadSettings() {
  const mine = ++asked;
  const answer = await fetch(`${address('Part')}&part=${encodeURIComponent(state.chosen)}`).catch(() => null);
  if (!answer?.ok || mine !== asked) return;
  host.querySelector('#part').innerHTML = await answer.text();
  state.typed = false;
  showWhere();
}

const showWhere = () => host.querySelectorAll('#part [data-where]').forEach(box => { box.hidden = host.querySelector(`#part [name=${box.dataset.where}]`).value !== 'where'; });

// Changing: one after the other, each drawn by the server.

function change(handler, values, { again = null, undoes = false, focus = 'canvas' } = {}) {
  state.busy = state.busy.then(async () => {
    const before = root().dataset.operations;
    const chosen = state.chosen;
    if (handler === 'Settings') state.typed = false;
    const data = new FormData();
    for (const [name, value] of Object.entries(values)) data.append(name, value);
    data.set('__RequestVerificationToken', token);
    const answer = await fetch(address(handler), { method: 'POST', body: data }).catch(() => null);
    if (answer?.ok && answer.headers.get('content-type').startsWith('text/plain')) {
      // Nothing was changed, and what was typed stays.
      say(await answer.text());
      if (handler === 'Settings') state.typed = true;
      return;
    }
    if (!answer?.ok || answer.redirected) {
      say('That could not be done just now. Please try again.');
      return;
    }
    const where = canvas().scrollTop;
    const drawn = await answer.text();
    // What people chose or typed while the answer was on its way stays theirs.
    const isElsewhere = state.chosen !== chosen;
    const settings = isElsewhere || state.typed ? host.querySelector('#part') : null;
    const at = settings?.contains(document.activeElement) ? document.activeElement : null;
    host.innerHTML = drawn;
    if (settings) host.querySelector('#part').replaceWith(settings);
    else state.typed = false;
    if (!undoes) {
      state.undo.push({ version: root().dataset.version, operations: before });
      if (!again) state.redo = [];
    }
    if (isElsewhere) root().dataset.part = '';
    if (root().dataset.part) state.chosen = root().dataset.part;
    prepare();
    showWhere();
    canvas().scrollTop = where;
    if (at) at.focus();
    else if (focus === 'canvas') find(state.chosen)?.focus();
    filterShelf();
  });
  return state.busy;
}

const carry = (operation, options) => change('Do', { operation: JSON.stringify(operation) }, options);

const say = text => { host.querySelector('[data-said]').textContent = text; };

const newId = () => `p-${crypto.randomUUID().replaceAll('-', '').slice(0, 12)}`;

// What a part comes after, to stand before or after another.
function anchor(target, before) {
  if (!before) return target.dataset.select;
  const siblings = siblingsOf(target);
  const index = siblings.indexOf(target);
  return index > 0 ? siblings[index - 1].dataset.select : isItem(target) ? target.closest('[data-section]').dataset.section : target.closest('[data-page]')?.dataset.pageId ?? `screen:${host.dataset.type}`;
}

function siblingsOf(part) {
  if (part.matches('th')) return [...part.parentElement.querySelectorAll('th[data-select]')];
  if (part.matches('.f')) return [...part.parentElement.children].filter(other => other.dataset.select);
  if (part.matches('[role=tab]')) return [...part.parentElement.children];
  return [...part.parentElement.children].filter(other => other.dataset.section);
}

// To where something of this kind can go, given what is chosen.
function place(kind, target, before = false) {
  if (!target) return null;
  if (kind === 'page') return anchor(target.closest('[role=tab]') ?? canvas().querySelector('[role=tab][aria-selected=true]') ?? target, before) ?? null;
  if (kind === 'section' || kind === 'list') {
    const section = target.closest('[data-section]');
    return section ? anchor(section, before) : target.dataset.pageId;
  }
  if (kind === 'column') return target.matches('th') ? anchor(target, before) : canvas().querySelector('section[data-lines]')?.dataset.section ?? null;
  if (target.matches('.f')) return anchor(target, before);
  if (target.matches('section[data-part=header]')) return target.dataset.section;
  return [...canvas().querySelectorAll('section[data-part=header]')].find(section => section.getClientRects().length > 0)?.dataset.section ?? null;
}

const kindOf = part => part.matches('th') ? 'column' : part.matches('.f') ? 'field' : part.matches('[role=tab]') ? 'page' : 'section';

function put(item, target = find(state.chosen), before = false) {
  const after = place(item.dataset.kind ?? item.dataset.make, target, before);
  if (item.dataset.make) return make(item.dataset.make, target, before);
  if (!after) return say('Choose a place on the screen first.');
  if (item.dataset.again === 'yes') return carry({ op: 'put', part: newId(), screen: host.dataset.type, after, width: Number(item.dataset.width), new: { what: 'again', field: item.dataset.put } });
  return carry({ op: 'put', part: item.dataset.put, after });
}

function make(what, target = find(state.chosen), before = false) {
  if (isOwn || host.dataset.of) return null;
  const texts = { section: { label: 'New section' }, page: { label: 'New page' }, button: { label: 'Print' }, guidance: {}, scratch: { label: 'Scratch' } }[what];
  const made = { what, ...(what === 'guidance' ? { text: '<p>What people should know here</p>' } : {}), ...(what === 'button' ? { does: 'print' } : {}), ...(what === 'scratch' ? { code: `scratch_${canvas().querySelectorAll('.scratch').length + 1}`, kind: 'decimal' } : {}) };
  const kind = what === 'section' || what === 'page' ? what : 'field';
  return carry({ op: 'put', part: newId(), screen: host.dataset.type, after: place(kind, target, before), ...texts, new: made }).then(() => host.querySelector('#set-label, #set-text')?.select());
}

const moveTo = (id, target, before) => {
  const part = canvas().querySelector(`[data-select="${CSS.escape(id)}"]`);
  if (!part || !target || part === target) return null;
  const after = place(kindOf(part), target, before);
  return after && after !== id ? carry({ op: isOwn ? 'move' : 'put', part: id, after }) : null;
};

function widen(step) {
  const part = find(state.chosen);
  if (!part || !isItem(part)) return;
  const now = Number(part.className.match(/\b[wc](\d+)\b/)?.[1] ?? Math.max(1, Math.round(part.getBoundingClientRect().width / 78)));
  const width = Math.min(12, Math.max(1, now + step));
  if (width !== now) carry({ op: 'resize', part: state.chosen, width });
}

function startRow() {
  const part = find(state.chosen);
  if (part?.matches('.f')) carry({ op: 'row', part: state.chosen, off: part.matches('.starts') });
}

const hide = () => state.chosen && carry({ op: 'hide', part: state.chosen });

const standard = () => change('Standard', {});

function undo() {
  const last = state.undo.pop();
  if (!last) return say('There is nothing to undo since you came here.');
  const now = root().dataset.operations;
  const back = isOwn ? change('Again', { operations: last.operations, version: root().dataset.version }, { again: true, undoes: true }) : change('Undo', { version: root().dataset.version }, { undoes: true });
  return back.then(() => state.redo.push(now));
}

function redo() {
  const next = state.redo.pop();
  return next ? change('Again', { operations: next, version: root().dataset.version }, { again: true }) : say('There is nothing to redo.');
}

// Where Tab goes, one after the other.
async function play() {
  const all = turns();
  for (const part of all) {
    part.classList.add('playing');
    part.scrollIntoView({ block: 'nearest' });
    await new Promise(done => setTimeout(done, 260));
    part.classList.remove('playing');
  }
  say(`That is where Tab goes on this page: ${all.length} ${all.length === 1 ? 'stop' : 'stops'}${canvas().querySelector('tbody tr + tr') ? ', line after line' : ''}.`);
}

// The part in a direction, by where things stand.
function towards(part, key) {
  const all = parts();
  if (key === 'ArrowRight' || key === 'ArrowLeft') return all[all.indexOf(part) + (key === 'ArrowRight' ? 1 : -1)];
  const from = part.getBoundingClientRect();
  const down = key === 'ArrowDown';
  const others = all.filter(other => other !== part && !other.contains(part) && !part.contains(other)).map(other => ({ other, at: other.getBoundingClientRect() })).filter(({ at }) => down ? at.top >= from.bottom - 4 : at.bottom <= from.top + 4);
  others.sort((one, two) => Math.abs(one.at.top - from.top) - Math.abs(two.at.top - from.top) || Math.abs(one.at.left - from.left) - Math.abs(two.at.left - from.left));
  return others[0]?.other;
}

host.addEventListener('keydown', event => {
  const on = event.target.closest('[data-canvas] [data-select]');
  const { key } = event;
  if ((event.ctrlKey || event.metaKey) && (key === 'z' || key === 'y') && !event.target.matches('input:not([readonly]), textarea:not([readonly])')) {
    event.preventDefault();
    if (key === 'z') undo();
    else redo();
    return;
  }
  if (!on) return;
  const act = {
    Enter: () => host.querySelector('#part input:not([type=hidden]), #part textarea, #part select')?.focus(),
    Delete: hide, '+': () => widen(1), '-': () => widen(-1), s: () => make('section'), p: () => make('page'), g: () => make('guidance'), b: () => make('button'), c: () => make('scratch'), t: play, n: startRow, '/': () => host.querySelector('[data-find-shelf]').focus(),
  };
  if ((event.ctrlKey || event.metaKey) && key === 'x') {
    state.cut = state.chosen;
    parts().forEach(part => part.classList.toggle('cut', part.dataset.select === state.cut));
    say(`Cut ${on.dataset.label ?? on.dataset.sectionLabel ?? on.textContent.trim()}. Choose where, then Ctrl V.`);
  } else if ((event.ctrlKey || event.metaKey) && key.toLowerCase() === 'v') {
    if (state.cut) moveTo(state.cut, on, event.shiftKey);
    state.cut = null;
  } else if (key.startsWith('Arrow') && event.altKey) {
    const siblings = siblingsOf(on);
    const step = key === 'ArrowRight' ? siblings[siblings.indexOf(on) + 1] : key === 'ArrowLeft' ? siblings[siblings.indexOf(on) - 1] : towards(on, key);
    if (step) moveTo(state.chosen, step, key === 'ArrowLeft' || key === 'ArrowUp');
  } else if (key.startsWith('Arrow') && !event.ctrlKey) {
    choose(towards(on, key), { focus: true });
  } else if (act[key] && !event.ctrlKey && !event.altKey && !event.metaKey) {
    act[key]();
  } else {
    return;
  }
  event.preventDefault();
});

document.addEventListener('keydown', event => {
  if (isOwn && event.altKey && event.code === 'Digit0') {
    event.preventDefault();
    standard();
    return;
  }
  if (event.defaultPrevented || !(event.ctrlKey || event.metaKey) || (event.key !== 'z' && event.key !== 'y') || event.target.closest('input, textarea, select')) return;
  event.preventDefault();
  if (event.key === 'z') undo();
  else redo();
});

host.addEventListener('focusin', event => {
  const part = event.target.closest('[data-canvas] [data-select]');
  if (part && part === event.target && state.chosen !== part.dataset.select) choose(part);
});

// The pointer

host.addEventListener('click', event => {
  const { target } = event;
  const item = target.closest('.shelf-item[data-put], .shelf-item[data-make]');
  if (item) return void put(item);
  const offer = target.closest('[data-offer]');
  if (offer) return void carry({ op: 'put', part: offer.dataset.offer, after: offer.dataset.after });
  const back = target.closest('[data-back]');
  if (back) return void change('Back', { index: back.dataset.back }, { focus: null }).then(() => host.querySelector('.layer.on a')?.focus());
  const said = target.closest('[data-choose-part]');
  if (said) return void choose(find(said.dataset.choosePart) ?? hiddenPage(said.dataset.choosePart), { focus: true });
  const letting = target.closest('[data-let]');
  if (letting) return void carry({ op: 'own', part: letting.dataset.let, off: letting.dataset.off === 'yes' }, { focus: null });
  if (target.closest('[data-standard]')) return void standard();
  if (target.closest('[data-hide-part]')) return void hide();
  const part = target.closest('[data-canvas] [data-select]');
  if (part) {
    event.preventDefault();
    choose(part, { focus: true });
  }
});

host.addEventListener('submit', event => {
  if (!event.target.matches('[data-settings]')) return;
  event.preventDefault();
  change('Settings', Object.fromEntries(new FormData(event.target)));
});

host.addEventListener('change', event => {
  if (event.target.matches('#part select')) showWhere();
});

let dragged = null;
const clear = () => host.querySelectorAll('.before, .after, .into').forEach(part => part.classList.remove('before', 'after', 'into'));
const dropOn = event => event.target.closest('[data-canvas] .f[data-select], [data-canvas] th[data-select], [data-canvas] section[data-select], [data-canvas] [role=tab]');
const isBefore = (part, event) => {
  const box = part.getBoundingClientRect();
  return part.matches('section') ? event.clientY < box.top + box.height / 3 : event.clientX < box.left + box.width / 2;
};

host.addEventListener('dragstart', event => {
  dragged = event.target.closest('.shelf-item, [data-select]');
  event.dataTransfer.effectAllowed = 'move';
  event.dataTransfer.setData('text/plain', dragged.dataset.put ?? dragged.dataset.select ?? dragged.dataset.make ?? '');
});
host.addEventListener('dragover', event => {
  const part = dropOn(event);
  if (!dragged || !part || part === dragged) return;
  event.preventDefault();
  clear();
  if (part.matches('[role=tab]') && part.getAttribute('aria-selected') !== 'true') showPage(part);
  part.classList.add(part.matches('section') && (dragged.dataset.kind ?? kindOf(dragged)) === 'field' ? 'into' : isBefore(part, event) ? 'before' : 'after');
});
host.addEventListener('drop', event => {
  const part = dropOn(event);
  clear();
  if (!dragged || !part) return;
  event.preventDefault();
  if (dragged.matches('.shelf-item')) put(dragged, part, isBefore(part, event));
  else moveTo(dragged.dataset.select, part, isBefore(part, event));
  dragged = null;
});
host.addEventListener('dragend', () => {
  clear();
  dragged = null;
});

// The shelf

let sought = '';
function filterShelf() {
  const search = host.querySelector('[data-find-shelf]');
  search.value = sought;
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  let shown = 0;
  host.querySelectorAll('[data-shelf] li').forEach(item => {
    item.hidden = !words.every(word => item.dataset.text.includes(word));
    if (!item.hidden) shown++;
  });
  host.querySelector('[data-nothing]').hidden = shown > 0;
}

host.addEventListener('input', event => {
  if (event.target.closest('#part')) state.typed = true;
  if (!event.target.matches('[data-find-shelf]')) return;
  sought = event.target.value;
  filterShelf();
});

document.querySelectorAll('[data-reload]').forEach(select => select.addEventListener('change', () => select.form.submit()));
document.querySelector('[data-undo]').addEventListener('click', undo);
document.querySelector('[data-redo]').addEventListener('click', redo);

prepare();
if (root().dataset.part) find(state.chosen)?.scrollIntoView({ block: 'nearest' });
showWhere();
document.body.dataset.ready = 'yes';
