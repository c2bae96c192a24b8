// Pages on which something is defined: the keys that put it in the draft, and a word before what is typed is left.
const form = document.querySelector('[data-definition]');

document.addEventListener('keydown', event => {
  if (!event.ctrlKey && !event.metaKey) return;
  if (event.key === 's') form.requestSubmit(document.querySelector(`[form=${form.id}][value=stay]`));
  else if (event.key === 'Enter') form.requestSubmit(document.querySelector(`[form=${form.id}][value=review]`));
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
