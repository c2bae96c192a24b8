// Access: only the inputs that go with what is chosen are shown, and a section's box chooses all of its rows.
const form = document.querySelector('[data-grant]');
const rows = [...document.querySelectorAll('input[name=On][form=grant]')];

const nameOf = box => box.closest('label').textContent.trim();

function show() {
  const does = form.querySelector('[name=Does]:checked')?.value;
  const chosen = [...rows.filter(box => box.checked), ...form.querySelectorAll('input[type=hidden][name=On]')];
  const isType = box => box.value.startsWith('type:');
  const on = { type: chosen.some(isType), field: chosen.length === 0 || chosen.some(box => !isType(box)) };
  document.querySelectorAll('[data-does]').forEach(part => { part.hidden = !part.dataset.does.split(' ').includes(does) || (part.dataset.on && !on[part.dataset.on]); });
  form.querySelectorAll('.choice label').forEach(label => label.classList.toggle('on', label.querySelector('input').checked));
  document.querySelectorAll('[data-all]').forEach(all => {
    const mine = rows.filter(box => box.dataset.of === all.dataset.all);
    all.checked = mine.length > 0 && mine.every(box => box.checked);
    all.indeterminate = !all.checked && mine.some(box => box.checked);
  });
}

function say() {
  const names = rows.filter(box => box.checked).map(nameOf);
  form.querySelector('[data-chosen-on]').textContent = names.length === 0 ? 'Nothing is chosen yet: choose rows in the table.' : `For ${names.join(', ')}.`;
}

document.addEventListener('change', event => {
  const all = event.target.dataset?.all;
  if (all) rows.filter(box => box.dataset.of === all).forEach(box => { box.checked = event.target.checked; });
  if (all || event.target.name === 'On') say();
  show();
});

document.querySelectorAll('[data-reload]').forEach(select => select.addEventListener('change', () => select.form.submit()));
show();
document.body.dataset.ready = 'yes';
