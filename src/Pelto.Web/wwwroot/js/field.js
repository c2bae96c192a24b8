// The field page: which sizes belong to which kind, a code that follows the label until somebody types one, keys.
const form = document.getElementById('field');

const showSizes = () => {
  const kind = form.querySelector('[name=Kind]:checked, [name=Kind][type=hidden]')?.value;
  form.querySelectorAll('[data-kinds]').forEach(size => { size.hidden = !size.dataset.kinds.split(' ').includes(kind); });
};

form.addEventListener('change', showSizes);
form.addEventListener('input', event => {
  if (event.target.id === 'Code') form.querySelector('[data-code-typed]').value = event.target.value ? 'true' : 'false';
});
showSizes();

// The sample stands outside the form's element, in the proof that each answer replaces: its cursor is kept.
let cursor = null;
document.addEventListener('input', event => {
  if (event.target.id === 'Sample') window.htmx.trigger(form, 'change');
});
document.body.addEventListener('htmx:beforeSwap', () => {
  const active = document.activeElement;
  cursor = active?.id === 'Sample' ? { value: active.value, at: active.selectionStart } : null;
});
document.body.addEventListener('htmx:afterSwap', () => {
  if (!cursor) return;
  const sample = document.getElementById('Sample');
  sample.value = cursor.value;
  sample.focus();
  sample.setSelectionRange(cursor.at, cursor.at);
  cursor = null;
});

document.addEventListener('keydown', event => {
  if (!event.ctrlKey && !event.metaKey) return;
  if (event.key === 's') form.requestSubmit(document.querySelector('[form=field][value=stay]'));
  else if (event.key === 'Enter') form.requestSubmit(document.querySelector('[form=field][value=review]'));
  else return;
  event.preventDefault();
});

// What is typed here is in no draft yet: leaving asks first.
let dirty = false;
form.addEventListener('input', () => { dirty = true; });
form.addEventListener('submit', () => { dirty = false; });
window.addEventListener('beforeunload', event => {
  if (dirty) event.preventDefault();
});
