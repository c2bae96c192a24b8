// The field page: which sizes belong to which kind, a code that follows the label until somebody types one, keys.
const form = document.getElementById('field');

const showSizes = () => {
  const kind = form.querySelector('[name=Kind]:checked')?.value;
  const shared = form.querySelector('[data-own-choices]')?.value;
  form.querySelectorAll('[data-kinds]').forEach(size => {
    size.hidden = !size.dataset.kinds.split(' ').includes(kind) || ('ofOwn' in size.dataset && Boolean(shared));
    if (!size.hidden) size.querySelectorAll('[data-when-shown]').forEach(part => part.dispatchEvent(new CustomEvent('pelto:shown')));
  });
  const mayCompute = !form.querySelector('[data-computed]').closest('.step').dataset.notKinds.split(' ').includes(kind);
  const filler = mayCompute ? form.querySelector('[name=Filler]:checked')?.value : 'people';
  const computed = filler === 'formula';
  const asked = filler === 'query';
  form.querySelector('[data-asked]').hidden = !asked;
  form.querySelectorAll('[data-of-query]').forEach(part => { part.hidden = part.dataset.ofQuery !== form.querySelector('[data-query]').value; });
  const locked = asked && form.querySelector('[name=LockedAnswer]')?.checked;
  const changeable = ['untouched', 'chosen'].includes(form.querySelector('[name=Way]:checked')?.value);
  form.querySelector('[data-computed]').hidden = !computed;
  form.querySelectorAll('[data-not-kinds]').forEach(step => {
    step.hidden = step.dataset.notKinds.split(' ').includes(kind) || ('typed' in step.dataset && ((computed && !changeable) || locked));
  });
};

// A size that real values suggest.
document.addEventListener('click', event => {
  const button = event.target.closest('[data-set]');
  if (!button) return;
  form.querySelector(`[name=${button.dataset.set}]`).value = button.dataset.to;
  if (button.dataset.also) form.querySelector(`[name=${button.dataset.also}]`).value = button.dataset.alsoTo;
  form.querySelector(`[name=${button.dataset.set}]`).dispatchEvent(new Event('change', { bubbles: true }));
  form.querySelector(`[name=${button.dataset.set}]`).focus();
});

form.addEventListener('change', showSizes);
form.addEventListener('input', event => {
  if (event.target.id === 'Code') form.querySelector('[data-code-typed]').value = event.target.value ? 'true' : 'false';
});
showSizes();

// The sample stands outside the form's element, in the proof that each answer replaces.
document.addEventListener('input', event => {
  if (['Sample', 'Record'].includes(event.target.id)) window.htmx.trigger(form, 'change');
});
