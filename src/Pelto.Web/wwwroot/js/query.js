// The page of a query: what is shown for the way in which it is asked, and a row more once the last one is used.
const form = document.getElementById('query');

const arrange = () => {
  const { value: how } = form.elements.IsSql;
  const { value: take } = form.elements.Take;
  form.querySelectorAll('[data-how]').forEach(part => { part.hidden = part.dataset.how !== how; });
  form.querySelectorAll('[name=IsSql]').forEach(radio => radio.parentElement.classList.toggle('on', radio.checked));
  form.querySelector('[data-takes=values]').hidden = take === 'Count';
  form.querySelectorAll('[data-takes=rows]').forEach(part => { part.hidden = take !== 'Rows'; });
  const rows = [...form.querySelectorAll('[data-value]')];
  const used = rows.findLastIndex(row => row.querySelector('input').value.trim() !== '');
  rows.forEach((row, at) => { row.hidden = at > (take === 'Rows' ? Math.max(used + 1, 1) : 0); });
};

form.addEventListener('input', arrange);
form.addEventListener('change', event => {
  // Who goes on in SQL begins with what was put together.
  const written = document.getElementById('written');
  if (event.target.name === 'IsSql' && form.elements.IsSql.value === 'true' && form.elements.Sql.value.trim() === '' && written) form.elements.Sql.value = written.textContent;
  arrange();
  if (event.target.name === 'IsSql') form.elements.Sql.dispatchEvent(new Event('input', { bubbles: true }));
});
arrange();
