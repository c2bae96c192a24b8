// What is told above what somebody works on, with what can be done about it.

// A public form has a place of its own, which is drawn anew with it.
const place = () => document.getElementById('notices') ?? document.getElementById('form-notices');

export function tell(text, look = '') {
  const notice = document.createElement('div');
  notice.className = `notice ${look}`;
  const said = document.createElement('span');
  said.textContent = text;
  const grow = document.createElement('span');
  grow.className = 'grow';
  notice.append(said, grow);
  place().append(notice);
  return notice;
}

export function act(notice, label, action, main = false) {
  const button = document.createElement('button');
  button.type = 'button';
  button.className = main ? 'btn main' : 'btn';
  button.textContent = label;
  button.addEventListener('click', action);
  notice.append(button);
}

let trouble = null;

/** What went wrong with the form as a whole; it takes the place of what was said so before. */
export function tellTrouble(text) {
  trouble?.remove();
  trouble = tell(text, 'bad');
  trouble.setAttribute('role', 'alert');
}

export const forgetTrouble = () => trouble?.remove();
