// Links: typing finds records; the arrow keys and Enter choose (WAI-ARIA combobox pattern).

export function attachPickers(form) {
  form.addEventListener('input', event => {
    if (!event.target.matches('[data-pick]')) return;
    hiddenOf(event.target).value = '';
    ask(event.target);
  });
  form.addEventListener('focusout', event => {
    if (event.target.matches?.('[data-pick]')) setTimeout(() => close(event.target), 150);
  });
  form.addEventListener('keydown', event => {
    if (event.target.matches('[data-pick]')) onKey(event);
  });
  form.addEventListener('mousedown', event => {
    const option = event.target.closest('.options li[data-id]');
    if (!option) return;
    event.preventDefault();
    choose(option.closest('.pick').querySelector('[data-pick]'), option);
  });
}

const hiddenOf = input => input.parentElement.querySelector('[data-pick-id]');
const listOf = input => document.getElementById(input.getAttribute('aria-controls'));

let turn = 0;

async function ask(input) {
  const mine = ++turn;
  await new Promise(done => setTimeout(done, 120));
  if (mine !== turn) return;
  const answer = await fetch(`/pick/${input.dataset.pick}?text=${encodeURIComponent(input.value)}`).catch(() => null);
  if (mine !== turn || !answer?.ok || document.activeElement !== input) return;
  show(input, await answer.json());
}

function show(input, found) {
  const list = listOf(input);
  list.replaceChildren(...found.map((target, index) => {
    const option = document.createElement('li');
    option.id = `${list.id}-${index}`;
    option.role = 'option';
    option.dataset.id = target.id;
    option.dataset.text = input.dataset.pickShort === undefined ? target.text : target.code;
    option.dataset.name = target.name;
    option.setAttribute('aria-selected', String(index === 0));
    const name = document.createElement('span');
    name.textContent = target.name || target.code;
    const code = document.createElement('span');
    code.className = 'soft';
    code.textContent = target.code;
    option.append(name, code);
    return option;
  }));
  if (found.length === 0) {
    const none = document.createElement('li');
    none.className = 'none';
    none.role = 'option';
    none.setAttribute('aria-disabled', 'true');
    none.textContent = 'Nothing fits';
    list.append(none);
  }
  const at = input.getBoundingClientRect();
  const below = window.innerHeight - at.bottom > 220;
  list.style.left = `${Math.min(at.left, window.innerWidth - 280)}px`;
  list.style.top = below ? `${at.bottom + 2}px` : '';
  list.style.bottom = below ? '' : `${window.innerHeight - at.top + 2}px`;
  list.hidden = false;
  input.setAttribute('aria-expanded', 'true');
  point(input, list.querySelector('li[data-id]'));
}

function point(input, option) {
  listOf(input).querySelectorAll('li').forEach(other => other.setAttribute('aria-selected', String(other === option)));
  if (option) {
    input.setAttribute('aria-activedescendant', option.id);
    option.scrollIntoView({ block: 'nearest' });
  } else {
    input.removeAttribute('aria-activedescendant');
  }
}

function onKey(event) {
  const input = event.target;
  const list = listOf(input);
  if (list.hidden) {
    if (event.key === 'ArrowDown' && !event.altKey) {
      ask(input);
      event.preventDefault();
    }
    return;
  }
  const options = [...list.querySelectorAll('li[data-id]')];
  const at = options.findIndex(option => option.getAttribute('aria-selected') === 'true');
  if (event.key === 'ArrowDown') point(input, options[Math.min(at + 1, options.length - 1)]);
  else if (event.key === 'ArrowUp') point(input, options[Math.max(at - 1, 0)]);
  else if (event.key === 'Enter' || event.key === 'Tab') {
    if (options[at]) choose(input, options[at]);
    if (event.key === 'Tab') return;
  } else if (event.key === 'Escape') close(input);
  else return;
  event.preventDefault();
  event.stopPropagation();
}

function choose(input, option) {
  hiddenOf(input).value = option.dataset.id;
  input.value = option.dataset.text;
  if (input.dataset.pickShort !== undefined) input.title = option.dataset.name;
  turn++;
  close(input);
  input.dispatchEvent(new Event('change', { bubbles: true }));
}

function close(input) {
  const list = listOf(input);
  if (!list) return;
  list.hidden = true;
  input.setAttribute('aria-expanded', 'false');
  input.removeAttribute('aria-activedescendant');
}
