// Links and choices: typing finds; the arrow keys and Enter choose (WAI-ARIA combobox pattern).

import { openInside } from './inside.js';
import { live } from './inputs.js';
import { say } from './kept.js';
import { point, pointedAt, step } from './listbox.js';

const inputs = '[data-pick], [data-choose]';

export function attachPickers(form) {
  form.addEventListener('input', event => {
    if (!event.target.matches(inputs)) return;
    if (hiddenOf(event.target)) hiddenOf(event.target).value = '';
    lead(event.target);
    ask(event.target);
  });
  form.addEventListener('focusout', event => {
    if (event.target === hurried) hurried = null;
    if (event.target.matches?.(inputs)) setTimeout(() => close(event.target), 150);
  });
  form.addEventListener('keydown', event => {
    if (event.target.matches(inputs)) onKey(event);
  });
  form.addEventListener('mousedown', event => {
    const option = event.target.closest(offered.split(', ').map(one => `.options ${one}`).join(', '));
    if (!option) return;
    event.preventDefault();
    choose(option.closest('.pick').querySelector(inputs), option);
  });
}

/** Who was choosing when the form was drawn anew goes on choosing. */
export function chooseOn() {
  const input = document.activeElement;
  if (hurried) hurried = live(hurried);
  if (input?.matches(inputs) && input.value && !hiddenOf(input)?.value) ask(input);
}

const offered = 'li[data-id], li[data-new], li[data-all], li[data-make]';
const hiddenOf = input => input.parentElement.querySelector('[data-pick-id]');
const listOf = input => document.getElementById(input.getAttribute('aria-controls'));

let turn = 0;

// Who types and presses Enter faster than the list follows means what was typed, not what the list still shows.
let hurried = null;

async function ask(input) {
  const mine = ++turn;
  await new Promise(done => setTimeout(done, 120));
  if (mine !== turn) return;
  const text = input.value;
  const answer = await look(input, text);
  if (mine !== turn || !answer || document.activeElement !== input) return;
  show(input, answer);
  listOf(input).dataset.text = text;
  if (hurried !== input) return;
  hurried = null;
  const first = listOf(input).querySelector('li[data-id]');
  if (first) choose(input, first);
}

// A link that offers only what goes with the record is asked with all that stands in the form.
async function look(input, text) {
  let answer;
  if (input.dataset.narrowed) {
    const about = new URLSearchParams({ handler: 'Pick', field: input.dataset.pickField, line: input.closest('[data-line]')?.dataset.line ?? '', text });
    answer = await fetch(`${location.pathname}?${about}`, { method: 'POST', body: new FormData(input.form) }).catch(() => null);
  } else {
    const where = input.dataset.pick ? `/pick/${input.dataset.pick}?field=${input.dataset.pickField ?? ''}&` : `/choose/${input.form.dataset.type}/${input.dataset.choose}?`;
    answer = await fetch(`${where}text=${encodeURIComponent(text)}`).catch(() => null);
  }
  if (!answer?.ok) return null;
  const said = await answer.json();
  return Array.isArray(said) ? { found: said } : said;
}

function show(input, { found, first }) {
  const list = listOf(input);
  list.replaceChildren(...found.map((target, index) => {
    const option = document.createElement('li');
    option.id = `${list.id}-${index}`;
    option.role = 'option';
    option.dataset.id = target.id;
    option.dataset.text = input.dataset.pickShort ? target.code : target.text;
    if (target.colour) option.dataset.colour = target.colour;
    option.dataset.name = target.name;
    option.setAttribute('aria-selected', String(index === 0));
    const name = document.createElement('span');
    name.className = target.colour ? `dot ${target.colour}` : '';
    name.textContent = target.name || target.code;
    const code = document.createElement('span');
    code.className = 'soft';
    code.textContent = target.code;
    if (target.recent) {
      const recent = document.createElement('span');
      recent.className = 'recent';
      recent.textContent = 'chosen lately';
      code.prepend(recent, ' ');
    }
    option.append(name);
    if (target.details) {
      const details = document.createElement('span');
      details.className = 'soft details';
      details.textContent = target.details;
      option.append(details);
    }
    option.append(code);
    return option;
  }));
  const typed = input.value.trim();
  if (input.dataset.mayAdd && typed && !found.some(target => target.name.toLowerCase() === typed.toLowerCase())) {
    const add = document.createElement('li');
    add.id = `${list.id}-new`;
    add.role = 'option';
    add.dataset.new = typed;
    add.textContent = `Add “${typed}”`;
    add.setAttribute('aria-selected', String(found.length === 0));
    list.append(add);
  } else if (found.length === 0) {
    const none = document.createElement('li');
    none.className = 'none';
    none.role = 'option';
    none.setAttribute('aria-disabled', 'true');
    none.textContent = first ?? 'Nothing fits';
    list.append(none);
  }
  if (input.dataset.pickField && !input.dataset.outside && !first) {
    list.append(act(list, 'all', `Browse all ${input.dataset.pickMany} …`, 'F4'));
    if (input.dataset.mayMake) list.append(act(list, 'make', `New ${input.dataset.pickOne}${typed && found.length === 0 ? ` “${typed}”` : ''} …`, ''));
  }
  const at = input.getBoundingClientRect();
  const below = window.innerHeight - at.bottom > 220;
  list.style.left = `${Math.min(at.left, window.innerWidth - 280)}px`;
  list.style.top = below ? `${at.bottom + 2}px` : '';
  list.style.bottom = below ? '' : `${window.innerHeight - at.top + 2}px`;
  list.hidden = false;
  input.setAttribute('aria-expanded', 'true');
  point(input, list, list.querySelector('li[data-id], li[data-new]'));
}

function act(list, what, text, key) {
  const option = document.createElement('li');
  option.id = `${list.id}-${what}`;
  option.role = 'option';
  option.dataset[what] = '';
  const said = document.createElement('span');
  said.textContent = text;
  option.append(said);
  if (key) {
    const shown = document.createElement('kbd');
    shown.textContent = key;
    option.append(shown);
  }
  option.setAttribute('aria-selected', 'false');
  return option;
}

// A wider window: the whole list with its columns, order and filters, or a new record; both come back with what was chosen.
async function open(input, what) {
  const typed = hiddenOf(input)?.value ? '' : input.value.trim();
  turn++;
  close(input);
  const answer = input.dataset.narrowed ? await look(input, typed) : {};
  if (!answer) return;
  if (answer.first) {
    show(input, answer);
    return;
  }
  const type = input.dataset.pick;
  const src = what === 'all'
    ? `/records/${type}?inside=yes${answer.offer ? `&offer=${encodeURIComponent(answer.offer)}` : ''}`
    : `/records/${type}/new?inside=yes${answer.with ?? ''}${typed && input.dataset.mayMake !== '-' ? `&with=${encodeURIComponent(`${input.dataset.mayMake}~${typed}`)}` : ''}`;
  openInside({
    title: what === 'all' ? `Choose one of the ${input.dataset.pickMany}` : `New ${input.dataset.pickOne}`,
    src,
    back: input,
    chosen: target => put(live(input), { id: target.id, text: input.dataset.pickShort ? target.code : target.text, name: target.name }),
  });
}

function put(input, { id, text, name }) {
  if (input.dataset.several) {
    input.value = '';
    addTag(input.closest('[data-tags]'), { id: String(id), name: text });
    input.dispatchEvent(new Event('change', { bubbles: true }));
    return;
  }
  hiddenOf(input).value = id;
  input.value = text;
  if (input.dataset.pickShort) input.title = name;
  lead(input);
  input.dispatchEvent(new Event('change', { bubbles: true }));
}

// The arrow beside a link leads to what stands in it now.
function lead(input) {
  const go = input.parentElement.querySelector('.go');
  if (!go) return;
  const id = hiddenOf(input).value;
  go.hidden = !id;
  go.href = `/records/${input.dataset.pick}/${id}`;
  go.setAttribute('aria-label', `Go to ${input.value}`);
}

function onKey(event) {
  const input = event.target;
  const list = listOf(input);
  if (event.key === 'F4' && input.dataset.pickField && !input.dataset.outside) {
    event.preventDefault();
    open(input, 'all');
    return;
  }
  if (list.hidden) {
    if (event.key === 'ArrowDown' && !event.altKey) {
      ask(input);
      event.preventDefault();
    }
    return;
  }
  const now = pointedAt(list);
  if (step(event, input, list, [...list.querySelectorAll(offered)])) {
    // Pointed at another.
  } else if ((event.key === 'Enter' || event.key === 'Tab') && list.dataset.text !== input.value) {
    hurried = event.key === 'Enter' ? input : null;
    if (event.key === 'Tab') return;
  } else if (event.key === 'Enter' || event.key === 'Tab') {
    if (now && (event.key === 'Enter' || now.dataset.id)) choose(input, now);
    if (event.key === 'Tab') return;
  } else if (event.key === 'Escape') close(input);
  else return;
  event.preventDefault();
  event.stopPropagation();
}

async function choose(input, option) {
  for (const what of ['all', 'make']) {
    if (what in option.dataset) {
      open(input, what);
      return;
    }
  }
  if (input.dataset.several) input.value = '';
  if (option.dataset.new) {
    const label = option.dataset.new;
    turn++;
    close(input);
    option = await addChoice(input, label);
    input = live(input);
    if (!option && !input.value) input.value = label;
    if (!option) return;
  }
  if (input.dataset.several) {
    turn++;
    close(input);
    addTag(input.closest('[data-tags]'), input.dataset.pick ? { id: option.dataset.id, name: option.dataset.text } : option.dataset);
    input.dispatchEvent(new Event('change', { bubbles: true }));
    return;
  }
  turn++;
  close(input);
  put(input, option.dataset);
}

function close(input) {
  const list = listOf(input);
  if (!list) return;
  list.hidden = true;
  input.setAttribute('aria-expanded', 'false');
  input.removeAttribute('aria-activedescendant');
}

// A choice that is not in the list yet, where the administrator lets people add some: it is live at once.
async function addChoice(input, label) {
  const data = new FormData();
  data.set('field', input.dataset.choose);
  data.set('label', label);
  data.set('__RequestVerificationToken', input.form.querySelector('[name=__RequestVerificationToken]').value);
  input.setAttribute('aria-busy', 'true');
  const answer = await fetch(`${location.pathname}?handler=AddChoice`, { method: 'POST', body: data }).then(got => got.json()).catch(() => ({ refusal: 'It could not be added just now; please try again.' }));
  input.removeAttribute('aria-busy');
  if (!answer.refusal) return { dataset: { id: answer.code, text: answer.label, name: answer.label } };
  say(live(input), answer.refusal);
  return null;
}

export function addTag(box, { id, name, colour }) {
  if ([...box.querySelectorAll('[data-chosen] input')].some(input => input.value === id)) return;
  const tag = document.createElement('span');
  tag.className = `tag ${colour ? `dot ${colour}` : ''}`;
  const hidden = document.createElement('input');
  hidden.type = 'hidden';
  hidden.name = box.dataset.tags;
  hidden.value = id;
  const away = document.createElement('button');
  away.type = 'button';
  away.className = 'plain';
  away.dataset.untag = '';
  away.setAttribute('aria-label', `Remove ${name}`);
  away.textContent = '×';
  tag.append(hidden, name, away);
  box.querySelector('[data-chosen]').append(tag);
}
