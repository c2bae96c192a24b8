import { isInside, tellOutside } from './inside.js';
import { attachPickers } from './pick.js';

// Within a form, a row is chosen rather than opened.
if (isInside) {
  document.getElementById('search').focus();
  document.addEventListener('click', event => {
    const link = event.target.closest('a[data-id]') ?? event.target.closest('#rows tbody tr')?.querySelector('a[data-id]');
    if (!link || event.target.closest('button')) return;
    event.preventDefault();
    tellOutside('chosen', { ...link.dataset });
  });
}

attachPickers(document.getElementById('filter-form'));

// Lists: up and down the rows with the arrow keys; a new release redraws the rows, since nothing typed stands on them.
const rows = () => [...document.querySelectorAll('#rows tbody tr:not(.more) a')];

document.addEventListener('keydown', event => {
  if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
  if (event.altKey || event.target.closest('select, textarea, .pick')) return;
  const links = rows();
  const at = links.indexOf(document.activeElement);
  if (at < 0 && event.key === 'ArrowUp') return;
  const next = links[event.key === 'ArrowDown' ? at + 1 : at - 1];
  if (next) next.focus();
  else if (at === 0) document.getElementById('search').focus();
  event.preventDefault();
});

document.addEventListener('pelto:release', () => {
  window.htmx.ajax('GET', location.pathname + location.search, { target: '#rows', select: '#rows', swap: 'outerHTML' });
});
