// Columns of a list, arranged for oneself by its headings: with Alt and arrows, or dragged; wider and narrower, and hidden.
import { sayOwn } from './own.js';

const rows = () => document.getElementById('rows');
const heads = () => [...rows().querySelectorAll('th[data-column]')];
const control = head => head.querySelector('a, [tabindex]');
const redraw = () => window.htmx.ajax('GET', location.pathname + location.search, { target: '#rows', select: '#rows', swap: 'outerHTML' });

function keep(operation, told) {
  const { type } = rows().dataset;
  return sayOwn(type, { operation: JSON.stringify(operation) }, {
    told,
    then: async () => {
      await redraw();
      const head = heads().find(other => other.dataset.column === operation.part);
      if (head) control(head)?.focus();
    },
  });
}

const name = head => head.innerText.replace(/[↑↓]/g, '').trim();

function move(head, after) {
  return keep({ op: 'move', part: head.dataset.column, after: after?.dataset.column ?? rows().dataset.list }, after ? `${name(head)} is after ${name(after)} for you.` : `${name(head)} is first for you.`);
}

function widen(head, step) {
  const now = Number(head.className.match(/\bc(\d+)\b/)?.[1] ?? Math.max(1, Math.round(head.getBoundingClientRect().width / 78)));
  const width = Math.min(12, Math.max(1, now + step));
  return width === now ? null : keep({ op: 'resize', part: head.dataset.column, width }, `${name(head)} is ${width} of 12 wide for you.`);
}

document.addEventListener('keydown', event => {
  const head = event.target.closest?.('#rows[data-own=yes] th[data-column]');
  if (!head || !event.altKey || event.ctrlKey || event.metaKey) return;
  const all = heads();
  const at = all.indexOf(head);
  const act = {
    ArrowRight: () => at + 1 < all.length && move(head, all[at + 1]),
    ArrowLeft: () => at > 0 && move(head, all[at - 2]),
    Delete: () => keep({ op: 'hide', part: head.dataset.column }, `${name(head)} is hidden from you.`),
    Equal: () => widen(head, 1),
    NumpadAdd: () => widen(head, 1),
    Minus: () => widen(head, -1),
    NumpadSubtract: () => widen(head, -1),
  }[event.code];
  if (!act) return;
  event.preventDefault();
  act();
});

let dragged = null;
const clear = () => heads().forEach(head => head.classList.remove('before', 'after'));
const isBefore = (head, event) => event.clientX < head.getBoundingClientRect().left + head.getBoundingClientRect().width / 2;

document.addEventListener('dragstart', event => {
  dragged = event.target.closest?.('#rows[data-own=yes] th[data-column]') ?? null;
  if (dragged) event.dataTransfer.effectAllowed = 'move';
});
document.addEventListener('dragover', event => {
  const head = event.target.closest?.('#rows th[data-column]');
  if (!dragged || !head || head === dragged) return;
  event.preventDefault();
  clear();
  head.classList.add(isBefore(head, event) ? 'before' : 'after');
});
document.addEventListener('drop', event => {
  const head = event.target.closest?.('#rows th[data-column]');
  clear();
  if (!dragged || !head || head === dragged) return;
  event.preventDefault();
  const others = heads().filter(other => other !== dragged);
  move(dragged, isBefore(head, event) ? others[others.indexOf(head) - 1] : head);
  dragged = null;
});
document.addEventListener('dragend', () => {
  clear();
  dragged = null;
});

document.addEventListener('pelto:own', redraw);
