// Inputs that something fills and people may change: who typed is told to the server, and one key fills them again.
import { put } from './inputs.js';

/** Marks who fills what. */
export function attachFilled(form, typed, tell) {
  const mark = (box, by) => {
    const flag = box?.querySelector('[data-by]');
    if (flag) flag.value = by;
    return Boolean(flag);
  };
  const tellPassing = text => document.dispatchEvent(new CustomEvent('pelto:said', { detail: text }));

  // Also before the note beside it says that there is something to fill again: the server knows.
  const again = box => {
    if (!mark(box, 'again')) return false;
    box.querySelectorAll('input, select, textarea, [contenteditable]').forEach(control => typed.drop(control));
    tell();
    return true;
  };
  // What a person changes is theirs; what comes from the server raises no event.
  for (const kind of ['input', 'change']) form.addEventListener(kind, event => mark(event.target.closest('[data-filled]'), 'hand'), true);
  form.addEventListener('click', event => {
    const button = event.target.closest('[data-fill-again]');
    if (!button) return;
    const box = button.closest('[data-filled]');
    again(box);
    box.querySelector('input:not([type=hidden]), select, textarea, [contenteditable]')?.focus();
  });
  form.addEventListener('keydown', event => {
    if (!event.altKey || event.ctrlKey || event.code !== 'KeyB') return;
    event.preventDefault();
    tellPassing(again(event.target.closest('[data-filled]')) ? 'Filled again.' : 'Nothing fills this input: it stays as it is.');
  });
}

const letters = text => text.replace(/[;\s]+/g, '');

/** Shows what the server filled in, and what is said of it. */
export function showFilled(form, filled) {
  for (const box of form.querySelectorAll('[data-filled]')) {
    if (!filled[box.dataset.filled]) continue;
    const { id, value, text, unit, note, again, off, byHand } = filled[box.dataset.filled];
    const input = document.getElementById(id);
    if (!input) continue;
    if (input.matches('output')) {
      // What stands there already keeps its links and colours.
      if (letters(input.textContent) !== letters(text)) input.textContent = text;
    }
    // An answer may have been on its way while somebody typed here.
    else if (!byHand && box.querySelector('[data-by]')?.value !== 'hand') {
      const before = input.value;
      put(input, value, text, unit);

      // Who stands in it already and types on means to replace it, not to add to it.
      if (input.value !== before && document.activeElement === input && input.matches('input')) input.select();
    }
    const said = box.querySelector('[data-note]');
    said.hidden = !note;
    said.classList.toggle('off', off);
    said.firstElementChild.textContent = note;
    const button = said.querySelector('[data-fill-again]');
    if (button) button.hidden = !again;
  }
  for (const cell of form.querySelectorAll('tr[data-asleep] [data-output]')) {
    if (filled[cell.dataset.output]) cell.textContent = filled[cell.dataset.output].text;
  }
}

/** Inputs that a query offers choices for: asked when somebody comes to them, with all that stands in the form. */
export function attachAsked(form) {
  form.addEventListener('focusin', async event => {
    const input = event.target.closest('[data-asks]');
    if (!input?.dataset.asks) return;
    const data = new FormData(form);
    data.set('field', input.dataset.asks);
    const line = input.closest('tr[data-line]')?.dataset.line;
    if (line) data.set('line', line);
    const answer = await fetch(`${location.pathname}?handler=Asked`, { method: 'POST', body: data }).then(got => got.ok ? got.json() : null).catch(() => null);
    if (!answer) return;
    input.list?.replaceChildren(...answer.offered.map(text => Object.assign(document.createElement('option'), { value: text })));
    input.title = answer.failure ?? '';
  });
}
