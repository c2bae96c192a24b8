// The page of a choice list: adding, moving by keys and buttons, keys of the page.
const form = document.getElementById('list');
const body = form.querySelector('[data-choices] tbody');
const blank = form.querySelector('[data-blank-choice]');
let added = 0;
let dirty = false;

const mark = () => {
  dirty = true;
  form.querySelector('[data-no-choices]').hidden = body.children.length > 0;
};

const add = after => {
  const holder = document.createElement('tbody');
  holder.innerHTML = blank.innerHTML.replaceAll('__at__', `n${added += 1}`);
  const row = holder.firstElementChild;
  if (after) after.after(row);
  else body.append(row);
  row.querySelector('input.v').focus();
  mark();
};

const move = (row, step) => {
  const other = step < 0 ? row.previousElementSibling : row.nextElementSibling;
  if (!other) return;
  if (step < 0) other.before(row);
  else other.after(row);
  mark();
};

form.querySelector('[data-add-choice]').addEventListener('click', () => add());
form.addEventListener('click', event => {
  const row = event.target.closest('[data-choice]');
  const step = event.target.closest('[data-move]');
  if (step) {
    move(row, Number(step.dataset.move));
    step.focus();
  }
  if (event.target.closest('[data-drop]')) {
    const next = row.nextElementSibling ?? row.previousElementSibling;
    row.remove();
    mark();
    (next?.querySelector('input.v') ?? form.querySelector('[data-add-choice]')).focus();
  }
});
form.addEventListener('keydown', event => {
  const row = event.target.closest('[data-choice]');
  if (row && event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
    const focused = document.activeElement;
    move(row, event.key === 'ArrowUp' ? -1 : 1);
    focused.focus();
    event.preventDefault();
  } else if (row && event.key === 'Enter' && event.target.matches('input')) {
    event.preventDefault();
    add(row);
  }
});
form.addEventListener('change', event => {
  if (event.target.matches('[data-state]')) event.target.closest('[data-choice]').classList.toggle('away', event.target.value !== '');
});
form.addEventListener('input', () => { dirty = true; });
form.addEventListener('submit', () => { dirty = false; });
window.addEventListener('beforeunload', event => { if (dirty) event.preventDefault(); });
document.addEventListener('keydown', event => {
  if ((event.ctrlKey || event.metaKey) && event.key === 's') {
    event.preventDefault();
    form.requestSubmit(document.querySelector('[form=list][value=stay]'));
  }
});
