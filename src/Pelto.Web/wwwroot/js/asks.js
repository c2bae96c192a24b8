// The page of a public form: the order of its fields, and its address for the clipboard.
const body = document.querySelector('[data-asks]');

const move = (row, step) => {
  const other = step < 0 ? row.previousElementSibling : row.nextElementSibling;
  if (!other) return;
  if (step < 0) other.before(row);
  else other.after(row);
  body.dispatchEvent(new Event('input', { bubbles: true }));
};

body.addEventListener('click', event => {
  const step = event.target.closest('[data-move]');
  if (!step) return;
  move(step.closest('[data-ask]'), Number(step.dataset.move));
  step.focus();
});

body.addEventListener('keydown', event => {
  if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
  const focused = document.activeElement;
  move(event.target.closest('[data-ask]'), event.key === 'ArrowUp' ? -1 : 1);
  focused.focus();
  event.preventDefault();
});

document.querySelector('[data-copy]').addEventListener('click', async event => {
  const button = event.currentTarget;
  const said = button.textContent;
  await navigator.clipboard.writeText(button.dataset.copy);
  button.textContent = 'Copied';
  setTimeout(() => { button.textContent = said; }, 2000);
});
