// What people arrange for themselves, right where they work: folded sections, and back to standard by one key. Kept by the server at once; it can be undone.
const token = document.querySelector('[data-sign-out] [name=__RequestVerificationToken]')?.value;
const notices = document.getElementById('notices');

const post = (type, values) => {
  const data = new FormData();
  for (const [name, value] of Object.entries({ ...values, __RequestVerificationToken: token })) data.append(name, value);
  return fetch(`/account/arrange?type=${type}&handler=Say`, { method: 'POST', body: data }).then(answer => answer.ok && !answer.redirected ? answer.json() : null).catch(() => null);
};

// Keeps one change, or puts all back; what was there before comes back with an undo. Says so where something goes wrong.
export async function sayOwn(type, values, { told = null, then = () => {} } = {}) {
  const kept = await post(type, values);
  notices.querySelector('[data-own]')?.remove();
  const notice = document.createElement('p');
  notice.className = 'notice own';
  notice.dataset.own = '';
  if (!kept) {
    notice.textContent = 'Your own arrangement could not be saved just now. Please try again.';
    notices.append(notice);
    return;
  }
  await then();
  if (!told) return;
  const undo = Object.assign(document.createElement('button'), { type: 'button', className: 'btn', textContent: 'Undo' });
  undo.addEventListener('click', () => sayOwn(type, { operations: kept.before }, { then }).then(() => notice.remove()));
  const rest = Object.assign(document.createElement('span'), { className: 'grow' });
  notice.append(told, rest, undo);
  notices.append(notice);
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
