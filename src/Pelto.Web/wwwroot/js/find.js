// Find or do: everything by words, from the keyboard (WAI-ARIA combobox pattern, in a dialog).

import { point, pointedAt, step } from './listbox.js';

const dialog = document.getElementById('find');
const input = document.getElementById('find-text');
const list = document.getElementById('find-list');
let turn = 0;

async function ask(wait) {
  const mine = ++turn;
  await new Promise(done => setTimeout(done, wait));
  if (mine !== turn) return;
  const answer = await fetch(`/find?text=${encodeURIComponent(input.value)}`).catch(() => null);
  if (mine !== turn || !answer?.ok) return;
  show(await answer.json());
}

function show(found) {
  const groups = Map.groupBy ? Map.groupBy(found, one => one.group) : new Map(found.map(one => [one.group, found.filter(other => other.group === one.group)]));
  let at = 0;
  list.replaceChildren(...[...groups].map(([group, some]) => {
    const part = document.createElement('ul');
    part.role = 'group';
    part.setAttribute('aria-label', group);
    const heading = document.createElement('li');
    heading.role = 'presentation';
    heading.className = 'soft small';
    heading.textContent = group;
    part.append(heading, ...some.map(one => {
      const option = document.createElement('li');
      option.role = 'option';
      option.id = `find-${at++}`;
      option.setAttribute('aria-selected', 'false');
      option.dataset.address = one.address;
      const title = document.createElement('span');
      title.textContent = one.title;
      const detail = document.createElement('span');
      detail.className = 'soft';
      detail.textContent = one.detail;
      option.append(title, detail);
      return option;
    }));
    return part;
  }));
  if (found.length === 0) {
    const none = document.createElement('p');
    none.className = 'soft';
    none.textContent = `Nothing is found for “${input.value}”. Try a number, a part of a name, or what you want to do.`;
    list.append(none);
  }
  point(input, list, list.querySelector('[role=option]'));
}

function open() {
  dialog.showModal();
  input.select();
  ask(0);
}

document.querySelector('[data-find]')?.addEventListener('click', open);
document.addEventListener('keydown', event => {
  if ((event.ctrlKey || event.metaKey) && event.key === 'k' && !event.defaultPrevented && !event.target.closest('.editor') && !document.querySelector('dialog[open]')) {
    event.preventDefault();
    open();
  }
});
input?.addEventListener('input', () => ask(120));
input?.addEventListener('keydown', event => {
  const now = pointedAt(list);
  if (event.key === 'Enter' && now) go(now);
  else if (!step(event, input, list, [...list.querySelectorAll('[role=option]')])) return;
  event.preventDefault();
});
list?.addEventListener('click', event => {
  const option = event.target.closest('[role=option]');
  if (option) go(option);
});

// As a click on a link, so that a form with unsaved entries keeps them for the way back.
function go(option) {
  const link = dialog.querySelector('a');
  link.href = option.dataset.address;
  dialog.close();
  link.click();
}
