// What somebody typed outlasts every drawing anew of a form: it stays in its input as it was typed, whatever the server made of it,
// and what was refused stays said until it is mended.

const composed = '[data-tags], [data-file], [data-editor], .pick, .amount, .secret';

/** The whole of an input that may be several controls: its choices, its unit, its picture. */
export const boxOf = control => control.closest('[data-tags]') ?? control.closest(composed) ?? control;

/** The id that stands for it, which the server gives again whenever it draws the form. */
const idOf = box => box.id || box.querySelector('input[type=file], [contenteditable], .v')?.id || '';

/** The place at which something is said of an input. */
export const messageOf = control => document.getElementById(`${idOf(boxOf(control))}-message`);

const inputs = 'input:not([type=file]), select, textarea, [contenteditable]';
const standing = control => control.matches('[contenteditable]') ? control.innerHTML
  : control.type === 'checkbox' ? String(control.checked) : control.value ?? '';
const within = box => box.matches(inputs) ? [box] : [...box.querySelectorAll(inputs)];
const said = box => JSON.stringify(within(box).map(standing));

/** Remembers which inputs of a form somebody typed in, until it is saved or filled again. */
export class Typed {
  ids = new Set();

  note(control) {
    const id = control.closest && idOf(boxOf(control));
    if (id) this.ids.add(id);
  }

  drop(control) {
    this.ids.delete(idOf(boxOf(control)));
  }
}

/** Says something at an input that no trial of the form knows of; null takes it back. */
export function say(input, text) {
  const place = messageOf(input);
  if (!place) return;
  show(place, text);
  if (text) place.dataset.byBrowser = 'yes';
  else delete place.dataset.byBrowser;
}

/** Shows what is wrong at a place for messages, or that nothing is. */
export function show(place, text) {
  place.hidden = !text;
  place.textContent = text ?? '';
  mark(place);
}

function mark(place) {
  const main = document.getElementById(place.id.replace(/-message$/, ''));
  const control = main?.matches('[data-tags]') ? main.querySelector('[data-several]') : main;
  place.closest('.f, td')?.classList.toggle('wrong', !place.hidden);
  if (!control || control.matches('output')) return;
  if (place.hidden) control.removeAttribute('aria-invalid');
  else control.setAttribute('aria-invalid', 'true');
}

/** Puts down what stands at refusals that only another save can judge, so that it is seen when somebody mends it. */
export function watchRefusals(form) {
  for (const place of form.querySelectorAll('.message[data-only-saving=yes]')) {
    const input = document.getElementById(place.id.replace(/-message$/, ''));
    if (input) place.saidOf = said(boxOf(input));
  }
}

/** True for what the server's trial of the form neither knows nor may wipe away. */
export function isHeld(place) {
  if (place.hidden) return false;
  if (place.dataset.byBrowser || place.querySelector('[data-take-theirs]')) return true;
  const input = document.getElementById(place.id.replace(/-message$/, ''));
  return place.dataset.onlySaving === 'yes' && input !== null && place.saidOf === said(boxOf(input));
}

/** Carries over, from a form to the one that takes its place, what was typed and what is said of it. Returns what has no place any more. */
export function carry(form, next, typed) {
  const lost = [];

  // Before what was chosen goes over, which is part of what they judge by.
  const held = [...form.querySelectorAll('.message:not([hidden])')].filter(isHeld);
  for (const id of typed.ids) {
    const old = form.querySelector(`#${CSS.escape(id)}`);
    const now = next.querySelector(`#${CSS.escape(id)}`);
    if (!old || old.matches('output')) continue;
    if (now && !now.matches('output')) {
      copy(boxOf(old), boxOf(now));
      const by = old.closest('[data-filled]')?.querySelector('[data-by]')?.value;
      const flag = now.closest('[data-filled]')?.querySelector('[data-by]');
      if (flag && by !== undefined) flag.value = by;
    } else if (!isElsewhere(old, next) && wordsOf(boxOf(old))) {
      lost.push({ label: labelOf(old), words: wordsOf(boxOf(old)) });
      typed.ids.delete(id);
    }
  }
  carryRemoved(form, next);
  for (const place of held) {
    const again = next.querySelector(`#${CSS.escape(place.id)}`);
    if (!again?.hidden) continue;
    again.replaceChildren(...place.childNodes);
    Object.assign(again.dataset, place.dataset);
    again.hidden = false;
  }
  return lost;
}

// A line that was removed can still be brought back, where it stood.
function carryRemoved(form, next) {
  for (const undo of form.querySelectorAll('tr.undo-line')) {
    const rows = next.querySelector(`[data-section="${CSS.escape(undo.closest('[data-section]').dataset.section)}"] [data-rows]`);
    if (!rows) continue;
    let before = undo.previousElementSibling;
    while (before && !before.dataset.line) before = before.previousElementSibling;
    const there = before && rows.querySelector(`[data-line="${CSS.escape(before.dataset.line)}"]`);
    if (there) there.after(undo);
    else rows.prepend(undo);
  }
}

/** As it was typed, by input, to be put down in the browser: no secrets, and nothing that the server gives back in full. */
export function asTyped(form, typed) {
  const stood = {};
  for (const id of typed.ids) {
    const main = form.querySelector(`#${CSS.escape(id)}`);
    const box = main && !main.matches('output') && boxOf(main);
    if (box && !box.matches('.secret, [data-file], [data-editor]')) stood[id] = own(box).map(standing);
  }
  return stood;
}

/** Puts it back into a form that was drawn with all that was sent. */
export function putBack(form, stood) {
  for (const [id, values] of Object.entries(stood)) {
    const main = form.querySelector(`#${CSS.escape(id)}`);
    if (!main || main.matches('output')) continue;
    own(boxOf(main)).forEach((control, i) => {
      if (values[i] !== undefined) choose(control, values[i], values[i]);
    });
  }
}

/** After the form took its place: what was carried over is wrong there as well. */
export const markRefusals = form => form.querySelectorAll('.message:not([hidden])').forEach(mark);

// What a condition took off the screen is kept by the form itself, and a line that somebody else removed comes back as another.
function isElsewhere(old, next) {
  const name = old.name ?? old.dataset.tags ?? boxOf(old).querySelector('[name]')?.name ?? '';
  const line = old.closest('[data-line]')?.dataset.line;
  return next.querySelector(`[name="${CSS.escape(`kept~${name}`)}"]`) !== null
    || (line && !next.querySelector(`[data-line="${CSS.escape(line)}"]`))
    || Boolean(old.closest('[data-again]')?.dataset.again);
}

/** What people call an input. */
export const labelOf = old => (old.closest('[data-label]')?.dataset.label ?? old.getAttribute('aria-label') ?? '').trim();

// Secrets are never shown.
function wordsOf(box) {
  if (box.matches('.secret')) return box.querySelector('.v').value ? '•••••' : '';
  if (box.matches('[data-tags]')) return [...box.querySelectorAll('.tag')].map(tag => tag.textContent.replace('×', '').trim()).join('; ');
  if (box.matches('[data-file]')) return box.querySelector('[data-file-now]').textContent.trim();
  const main = box.matches(inputs) ? box : box.querySelector('.v');
  const words = main.matches('select') ? main.selectedOptions[0]?.textContent : main.matches('[contenteditable]') ? main.textContent : main.value;
  return words?.trim() ?? '';
}

const sort = box => [...composed.split(', '), 'select'].find(one => box.matches(one)) ?? 'text';

// Its controls, without those of what was chosen, which come and go.
const own = box => within(box).filter(control => !control.closest('[data-chosen]'));

function copy(old, now) {
  if (sort(old) !== sort(now)) {
    // A release made another kind of it: what was typed stands there in words, to be read anew.
    const main = now.matches(inputs) ? now : now.querySelector('input.v, textarea.v');
    if (main && main.type !== 'password' && !old.matches('.secret')) choose(main, main.matches('select') ? standing(old) : wordsOf(old), wordsOf(old));
    return;
  }
  for (const list of ['[data-chosen]', '[data-file-now]', '[contenteditable]']) {
    now.querySelector(list)?.replaceChildren(...old.querySelector(list).childNodes);
  }
  const away = now.querySelector('[data-file-away]');
  if (away) away.hidden = old.querySelector('[data-file-away]').hidden;
  const go = now.querySelector('.go');
  const went = old.querySelector('.go');
  if (go && went) Object.assign(go, { hidden: went.hidden, href: went.href, ariaLabel: went.ariaLabel });
  const controls = own(now);
  own(old).forEach((control, i) => {
    const target = controls[i];
    if (!target || control.matches('[contenteditable]')) return;
    if (control.type === 'checkbox') target.checked = control.checked;
    else if (control.matches('select')) choose(target, control.value, control.selectedOptions[0]?.textContent ?? control.value);
    else if (target.value !== control.value) target.value = control.value;
  });
}

// A choice that is gone stays chosen, so that it is refused by its name rather than forgotten.
function choose(select, value, label) {
  if (!select.matches('select')) {
    select.value = value;
    return;
  }
  if (![...select.options].some(option => option.value === value)) select.add(new Option(label, value));
  select.value = value;
}

/** The caret, to be put where it was once the form is drawn anew. */
export function caret() {
  const { id, selectionStart, selectionEnd } = document.activeElement ?? {};
  return () => {
    if (!id) return;
    const input = document.getElementById(id);
    if (!input) return;
    input.focus({ preventScroll: true });
    if (typeof selectionStart === 'number') input.setSelectionRange?.(selectionStart, selectionEnd);
  };
}
