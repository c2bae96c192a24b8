// Lines: add, remove, move, from the keyboard too; a removed line can be brought back.

import { showColumns } from './shown.js';

export function attachLines(form) {
  form.querySelectorAll('[data-lines]').forEach(section => attach(form, section));
}

let made = Date.now();

function attach(form, section) {
  const rows = section.querySelector('[data-rows]');
  const blank = section.querySelector('[data-blank]');
  const lines = () => [...rows.querySelectorAll('tr[data-line]')];
  const most = Number(section.querySelector('[data-add-line]')?.dataset.most ?? Infinity);
  const isFull = () => lines().length >= most;
  const told = () => form.dispatchEvent(new CustomEvent('pelto:changed'));

  const number = () => {
    lines().forEach((row, index) => { row.querySelector('[data-position]').textContent = index + 1; });
    section.querySelector('[data-line-count]').textContent = lines().length;
    section.querySelector('[data-no-lines]').hidden = lines().length > 0;
    const full = section.querySelector('[data-full]');
    if (full) full.textContent = isFull() ? `One record holds at most ${most} lines.` : '';
  };

  const add = after => {
    if (isFull()) return;
    const key = `n${(made++).toString(36)}`;
    const holder = document.createElement('template');
    holder.innerHTML = blank.innerHTML.replaceAll('__key__', key).trim();
    const row = holder.content.querySelector('tr');
    if (after) after.after(row);
    else rows.append(row);
    number();
    showColumns(form);
    focusFirst(row);
    told();
  };

  const move = (row, by, focus) => {
    const all = lines();
    const other = all[all.indexOf(row) + by];
    if (!other) return;
    if (by < 0) other.before(row);
    else other.after(row);
    number();
    focus?.focus();
    told();
  };

  const remove = row => {
    const all = lines();
    const at = all.indexOf(row);
    const undo = document.createElement('tr');
    undo.className = 'undo-line';
    undo.removed = row;
    const cell = document.createElement('td');
    cell.colSpan = row.children.length;
    cell.append(`Line ${at + 1} is removed. `);
    const button = document.createElement('button');
    button.type = 'button';
    button.className = 'btn small';
    button.textContent = 'Undo';
    button.dataset.undoLine = '';
    cell.append(button);
    undo.append(cell);
    row.replaceWith(undo);
    number();
    button.focus();
    told();
  };

  number();
  if (!blank) return;
  section.querySelector('[data-add-line]').addEventListener('click', () => add(null));
  section.addEventListener('click', event => {
    const undo = event.target.closest('[data-undo-line]')?.closest('tr');
    if (undo) {
      const { removed } = undo;
      undo.replaceWith(removed);
      number();
      focusFirst(removed);
      told();
      return;
    }
    const row = event.target.closest('tr[data-line]');
    if (!row) return;
    const mover = event.target.closest('[data-move]');
    if (mover) move(row, Number(mover.dataset.move), mover);
    if (event.target.closest('[data-remove]')) remove(row);
  });
  section.addEventListener('keydown', event => {
    const row = event.target.closest('tr[data-line]');
    if (!event.altKey || event.ctrlKey || !row) return;
    if (event.key === 'ArrowUp') move(row, -1, event.target);
    else if (event.key === 'ArrowDown') move(row, 1, event.target);
    else if (event.key === 'Backspace') remove(row);
    else return;
    event.preventDefault();
    event.stopPropagation();
  });
  form.addEventListener('keydown', event => {
    if (!event.altKey || event.ctrlKey || event.code !== 'KeyN') return;
    event.preventDefault();
    add(event.target.closest('tr[data-line]'));
  });
}

function focusFirst(row) {
  row.querySelector('input:not([type=hidden]), select')?.focus();
}
