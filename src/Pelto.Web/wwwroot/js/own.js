// What people arrange for themselves, right where they work: folded sections, and back to standard by one key. Kept by the server at once; it can be undone.
import { act, tell } from './notices.js';

const token = document.querySelector('[data-sign-out] [name=__RequestVerificationToken]')?.value;
let notice = null;
let asked = Promise.resolve();

const post = (type, values) => {
  const data = new FormData();
  for (const [name, value] of Object.entries({ ...values, __RequestVerificationToken: token })) data.append(name, value);
  return fetch(`/account/arrange?type=${type}&handler=Say`, { method: 'POST', body: data }).then(answer => answer.ok && !answer.redirected ? answer.json() : null).catch(() => null);
};

// Keeps one change, or puts all back; what was there before comes back with an undo. Says so where something goes wrong.
export async function sayOwn(type, values, { told = null, then = () => {} } = {}) {
  // One after the other, as they were asked for: the last one counts.
  const kept = await (asked = asked.then(() => post(type, values)));
  notice?.remove();
  if (!kept) {
    notice = tell('Your own arrangement could not be saved just now. Please try again.', 'own');
    return;
  }
  await then();
  if (!told) return;
  notice = tell(told, 'own');
  act(notice, 'Undo', () => sayOwn(type, { operations: kept.before }, { then }));
}

export const standard = (type, then) => sayOwn(type, { operations: '[]' }, { told: 'Back to standard: you get what your colleagues get.', then });

function setFolded(section, folded) {
  section.querySelector('[data-fold]').setAttribute('aria-expanded', String(!folded));
  section.classList.toggle('folded', folded);
  section.querySelector('[data-folds]').hidden = folded;
}

document.addEventListener('click', event => {
  const fold = event.target.closest('#record [data-fold]');
  if (!fold) return;
  const section = fold.closest('[data-section]');
  const folded = fold.getAttribute('aria-expanded') === 'true';
  setFolded(section, folded);
  sayOwn(fold.closest('form').dataset.type, { operation: JSON.stringify({ op: 'fold', part: section.dataset.section, off: !folded }) });
});

// What is to be looked at is never folded away.
document.addEventListener('focusin', event => {
  const section = event.target.closest('#record .folded');
  if (section && !event.target.closest('[data-fold]')) setFolded(section, false);
});
document.addEventListener('pelto:drawn', () => document.querySelectorAll('#record .folded').forEach(section => { if (section.querySelector('.message:not([hidden])')) setFolded(section, false); }));

document.addEventListener('keydown', event => {
  if (!event.altKey || event.ctrlKey || event.code !== 'Digit0') return;
  const place = document.querySelector('form#record[data-type], #rows[data-type]');
  if (!place || document.querySelector('#arranged')) return;
  event.preventDefault();
  standard(place.dataset.type, () => document.dispatchEvent(new CustomEvent('pelto:own')));
});
