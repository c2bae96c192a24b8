// Inputs that are more than one control: several choices, formatted text, files, secrets.
import { say } from './kept.js';

/** An input as it stands on the page now: the form may have been drawn anew while something was on its way. */
export const live = input => input.isConnected ? input : document.getElementById(input.id) ?? input;

export function attachInputs(form) {
  const changed = element => element.dispatchEvent(new Event('change', { bubbles: true }));

  form.addEventListener('click', event => {
    const untag = event.target.closest('[data-untag]');
    if (untag) {
      const box = untag.closest('[data-tags]');
      untag.closest('.tag').remove();
      box.querySelector('[data-several]').focus();
      changed(box);
    }
    const away = event.target.closest('[data-file-away]');
    if (away) setFile(away.closest('[data-file]'), null);
    const format = event.target.closest('[data-format]');
    if (format) apply(format.closest('[data-editor]').querySelector('[contenteditable]'), format.dataset.format);
    const reveal = event.target.closest('[data-reveal]');
    if (reveal) show(reveal, form);
  });

  // Backspace in an empty input takes the last choice away; Alt with up and down moves one among the others.
  form.addEventListener('keydown', event => {
    if (event.altKey && event.target.matches('[data-untag]') && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      const tag = event.target.closest('.tag');
      const other = event.key === 'ArrowUp' ? tag.previousElementSibling : tag.nextElementSibling;
      event.preventDefault();
      event.stopPropagation();
      if (!other) return;
      if (event.key === 'ArrowUp') other.before(tag);
      else other.after(tag);
      event.target.focus();
      changed(tag.closest('[data-tags]'));
    }
    if (event.key === 'Backspace' && event.target.matches('[data-several]') && event.target.value === '') {
      const box = event.target.closest('[data-tags]');
      const last = [...box.querySelectorAll('.tag')].pop();
      if (!last) return;
      last.remove();
      changed(box);
    }
    if (event.target.matches('[contenteditable]') && (event.ctrlKey || event.metaKey) && event.key === 'k') {
      event.preventDefault();
      apply(event.target, 'link');
    }
  });

  form.addEventListener('input', event => {
    const editor = event.target.closest('[data-editor]');
    if (editor) editor.querySelector('input').value = event.target.innerHTML;
  });

  // Pasted text comes without the looks of where it was copied from.
  form.addEventListener('paste', event => {
    if (!event.target.closest('[contenteditable]')) return;
    event.preventDefault();
    document.execCommand('insertText', false, event.clipboardData.getData('text/plain'));
  });

  // "1.5 t" becomes 1.5 and t, where the list of units has it.
  form.addEventListener('change', event => {
    const select = event.target.matches('.amount > input') && event.target.parentElement.querySelector('select[data-unit]');
    const [, figure, unit] = select ? event.target.value.match(/^([^\p{L}°µ"]*\d)\s*([\p{L}°µ"].*)$/u) ?? [] : [];
    const option = unit && [...select.options].find(one => one.value === unit.trim() || one.textContent === unit.trim());
    if (!option) return;
    event.target.value = figure;
    select.value = option.value;
  });

  form.addEventListener('change', event => {
    if (event.target.type !== 'file') return;
    event.stopPropagation();
    bring(event.target, form);
  });
}

function apply(editor, format) {
  editor.focus();
  if (format === 'link') {
    const address = prompt('Where does the link lead?', 'https://');
    if (address) document.execCommand('createLink', false, address);
  } else if (format === 'h3') document.execCommand('formatBlock', false, document.queryCommandValue('formatBlock') === 'h3' ? 'p' : 'h3');
  else document.execCommand(format);
  editor.dispatchEvent(new InputEvent('input', { bubbles: true }));
}

// A file goes to the server when it is chosen, so that saving the record is quick and nothing is lost when it is refused.
async function bring(input, form) {
  const file = input.files[0];
  if (!file) return;
  const box = input.closest('[data-file]');
  box.setAttribute('aria-busy', 'true');
  say(input, null);
  try {
    const about = new URLSearchParams({ name: file.name, field: box.dataset.for, image: String(box.dataset.file === 'image') });
    const answer = await fetch(`/files?${about}`, { method: 'POST', body: file, headers: { 'X-Antiforgery': form.querySelector('[name=__RequestVerificationToken]').value, 'Content-Type': 'application/octet-stream' } });
    const { value, name, address, refusal } = answer.ok ? await answer.json() : { refusal: answer.status === 413 ? 'A file has at most 20 MB.' : 'The file could not be uploaded; please try again.' };
    if (refusal) say(live(input), refusal);
    else setFile(live(input).closest('[data-file]'), { value, name, address });
  } catch {
    say(live(input), 'Pelto cannot be reached just now; please choose the file again in a moment.');
  } finally {
    box.removeAttribute('aria-busy');
    live(input).closest('[data-file]')?.removeAttribute('aria-busy');
    input.value = '';
  }
}

function setFile(box, file) {
  box.querySelector('input[type=hidden]').value = file?.value ?? '';
  const now = box.querySelector('[data-file-now]');
  now.replaceChildren();
  if (file) {
    if (box.dataset.file === 'image') {
      const picture = document.createElement('img');
      picture.className = 'picture';
      picture.src = file.address;
      picture.alt = file.name;
      now.append(picture, ' ');
    }
    const link = document.createElement('a');
    link.href = file.address;
    link.textContent = file.name;
    now.append(link);
  }
  box.querySelector('[data-file-away]').hidden = !file;
  box.dispatchEvent(new Event('change', { bubbles: true }));
}

// Shown for a while, then hidden again.
async function show(button, form) {
  const data = new FormData();
  data.set('field', button.dataset.reveal);
  if (button.dataset.lineId) data.set('line', button.dataset.lineId);
  data.set('__RequestVerificationToken', document.querySelector('[name=__RequestVerificationToken]').value);
  const answer = await fetch(`${location.pathname}?handler=Reveal`, { method: 'POST', body: data }).then(got => got.json()).catch(() => ({ text: 'It cannot be shown just now.' }));
  const told = document.createElement('span');
  told.className = 'told code';
  told.setAttribute('role', 'status');
  told.textContent = answer.text;
  button.replaceWith(told);
  setTimeout(() => told.replaceWith(button), 20000);
}

// What another person saved, put in place of what stands here.
export function take(button) {
  const { takeTheirs: value, takeText: text, takeUnit: unit } = button.dataset;
  return put(document.getElementById(button.dataset.for), value, text, unit);
}

// Puts a value into an input of whatever kind, as if it had been entered there.
export function put(input, value, text, unit) {
  const box = input.closest('[data-tags], [data-editor], [data-file], .pick, .amount') ?? input;
  if (box.matches('[data-tags]')) {
    box.querySelector('[data-chosen]').replaceChildren();
    const labels = text.split('; ');
    return import('./pick.js').then(({ addTag }) => value.split(';').filter(Boolean).forEach((id, i) => addTag(box, { id, name: labels[i] ?? id })));
  }
  if (box.matches('[data-editor]')) {
    box.querySelector('input').value = value;
    box.querySelector('[contenteditable]').textContent = new DOMParser().parseFromString(value, 'text/html').body.textContent;
  } else if (box.matches('[data-file]')) setFile(box, value ? { value, name: text.split('/').pop(), address: `/files/${value.split('/')[0]}` } : null);
  else if (box.matches('.pick')) {
    box.querySelector('[data-pick-id]').value = value;
    input.value = text;
  } else {
    input.value = value;
    const select = box.querySelector?.('[data-unit]');
    if (select && unit) select.value = unit;
  }
  return null;
}
