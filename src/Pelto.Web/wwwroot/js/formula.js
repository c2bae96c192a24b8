// Inputs that hold formulas: names that can stand where one types, chosen by keys or the pointer.
import { point, pointedAt, step } from './listbox.js';

const list = document.createElement('ul');
list.className = 'completions';
list.id = 'completions';
list.setAttribute('role', 'listbox');
list.setAttribute('aria-label', 'Names that fit');
list.hidden = true;

let input = null;
let from = 0;
let asked = 0;
let timer = null;

const close = () => {
  list.hidden = true;
  asked += 1;
  input?.removeAttribute('aria-activedescendant');
  input?.removeAttribute('aria-controls');
};

const take = item => {
  const text = item.dataset.text + (item.dataset.goesOn === 'true' && item.dataset.step === 'true' ? '.' : '');
  input.setRangeText(text, from, input.selectionStart, 'end');
  input.dispatchEvent(new Event('input', { bubbles: true }));
};

const show = found => {
  list.replaceChildren(...found.map((one, at) => {
    const item = document.createElement('li');
    item.id = `completion-${at}`;
    item.setAttribute('role', 'option');
    item.setAttribute('aria-selected', 'false');
    item.dataset.text = one.text;
    item.dataset.goesOn = one.goesOn;
    item.dataset.step = one.about === 'all lines' || one.about === 'record' || one.about === 'line';
    const code = document.createElement('code');
    code.textContent = one.text;
    const label = document.createElement('span');
    label.textContent = one.label;
    const about = document.createElement('small');
    about.textContent = one.about;
    item.append(code, label, about);
    return item;
  }));
  list.hidden = found.length === 0;
  if (list.hidden) return close();
  input.after(list);
  input.setAttribute('aria-controls', list.id);
  point(input, list, null);
};

const ask = async () => {
  // An answer may have put another input in its place meanwhile.
  if (!input.isConnected) return close();
  const mine = asked += 1;
  const body = new FormData(input.form);
  body.set('text', input.value);
  body.set('at', input.selectionStart);
  body.set('of', input.name);
  try {
    const answer = await fetch('?handler=Names', { method: 'POST', body });
    if (mine !== asked || !answer.ok) return;
    const { from: begins, found } = await answer.json();
    from = begins;
    const typed = input.value.slice(from, input.selectionStart);
    show(document.activeElement === input && !(found.length === 1 && found[0].text === typed) ? found : []);
  } catch {
    // Names are a help only: while nothing can be reached, one types without.
  }
};

document.addEventListener('input', event => {
  if (!event.target.matches('[data-formula]')) return;
  input = event.target;
  clearTimeout(timer);
  const before = input.value.slice(0, input.selectionStart);
  if (/[A-Za-z_][\w.]*$/.test(before)) timer = setTimeout(ask, 120);
  else close();
});

document.addEventListener('keydown', event => {
  if (!event.target.matches('[data-formula]')) return;
  if (event.key === ' ' && event.ctrlKey) {
    input = event.target;
    ask();
  } else if (list.hidden) return;
  else if ((event.key === 'Enter' || event.key === 'Tab') && pointedAt(list) && !event.ctrlKey) take(pointedAt(list));
  else if (event.key === 'Escape') close();
  else if (!step(event, input, list, [...list.children])) return;
  event.preventDefault();
  event.stopPropagation();
}, true);

list.addEventListener('mousedown', event => {
  const item = event.target.closest('li');
  event.preventDefault();
  if (item) take(item);
});

document.addEventListener('focusout', event => {
  if (event.target === input) close();
});
