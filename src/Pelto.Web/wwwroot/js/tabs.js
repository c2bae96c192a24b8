// Where Tab goes when a layer sets it: from place to place in the order of the screen, within the header and within each line. What Tab passes by is reached with the pointer, or once Alt K has Tab stop everywhere.

const inputs = 'input:not([type=hidden]), select, textarea, [contenteditable=true]';
const isShown = control => control.getClientRects().length > 0;
let everywhere = false;

const stopOf = part => [...part.querySelectorAll(inputs)].find(control => !control.disabled && isShown(control));

// Places of the header, or of one line, in the order of Tab.
function stops(form, within) {
  const places = within ? [...within.querySelectorAll('td[data-tab]')] : [...form.querySelectorAll('.f[data-tab]')];
  return places.filter(part => part.dataset.tab !== 'skip' && stopOf(part)).sort((one, other) => Number(one.dataset.tab) - Number(other.dataset.tab));
}

// Where a layer sends Tab from a control; nothing where it goes as it does everywhere: within a place of several controls, and at both ends.
function sent(form, control, back) {
  const part = form.dataset.tabs === 'set' && control.closest('[data-tab]');
  if (!part) return null;
  const order = stops(form, part.closest('tr'));
  const at = order.indexOf(part);
  const next = order[at + (back ? -1 : 1)];
  const controls = [...part.querySelectorAll(inputs)].filter(isShown);
  return at >= 0 && next && control === (back ? controls[0] : controls.at(-1)) && next.closest('[data-page]') === part.closest('[data-page]') ? stopOf(next) : null;
}

// The places and cells that Tab comes to on what is shown of a form, one after the other. `isStop` tells what can be come to where the form is not to be typed in.
export function walk(form, isStop = control => control.tabIndex >= 0) {
  const controls = [...form.querySelectorAll('input:not([type=hidden]), select, textarea, button, a, [contenteditable=true]')]
    .filter(control => !control.disabled && isShown(control) && isStop(control) && !control.closest('[data-tab=skip]'));
  const walked = [];
  const been = new Set();
  for (let control = controls[0]; control && !been.has(control);) {
    been.add(control);
    const part = control.closest('.f[data-place], .f[data-extra], td[data-heading]');
    if (part && !walked.includes(part)) walked.push(part);
    control = sent(form, control, false) ?? controls[controls.indexOf(control) + 1];
  }
  return walked;
}

export function attachTabs(form) {
  const skipped = () => form.querySelectorAll('[data-tab=skip] :is(input, select, textarea, button, a, [contenteditable])');
  const mark = () => skipped().forEach(control => {
    if (everywhere) control.removeAttribute('tabindex');
    else control.tabIndex = -1;
  });
  mark();
  form.addEventListener('pelto:woken', mark);
  form.addEventListener('keydown', event => {
    if (event.altKey && !event.ctrlKey && event.code === 'KeyK' && form.querySelector('[data-tab=skip]')) {
      event.preventDefault();
      everywhere = !everywhere;
      mark();
      document.dispatchEvent(new CustomEvent('pelto:said', { detail: everywhere ? 'Tab stops everywhere.' : 'Tab passes by again.' }));
    }
    if (event.key !== 'Tab' || event.altKey || event.ctrlKey || everywhere) return;
    const stop = sent(form, event.target, event.shiftKey);
    if (!stop) return;
    event.preventDefault();
    stop.focus();
    stop.select?.();
  });
}
