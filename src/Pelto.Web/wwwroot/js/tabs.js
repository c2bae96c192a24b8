// Where Tab goes when a layer sets it: from place to place in the order of the screen, within the header and within each line. What Tab passes by is reached with the pointer, or once Alt K has Tab stop everywhere.

let everywhere = false;

const stopOf = part => [...part.querySelectorAll('input:not([type=hidden]), select, textarea, [contenteditable=true]')].find(control => !control.disabled && control.getClientRects().length > 0);

// Places of the header, or of one line, in the order of Tab.
function stops(form, within) {
  const places = within ? [...within.querySelectorAll('td[data-tab]')] : [...form.querySelectorAll('.f[data-tab]')];
  return places.filter(part => part.dataset.tab !== 'skip' && stopOf(part)).sort((one, other) => Number(one.dataset.tab) - Number(other.dataset.tab));
}

export function attachTabs(form) {
  const skipped = () => form.querySelectorAll('[data-tab=skip] :is(input, select, textarea, button, a, [contenteditable])');
  const mark = () => skipped().forEach(control => {
    if (everywhere) control.removeAttribute('tabindex');
    else control.tabIndex = -1;
  });
  mark();
  form.addEventListener('keydown', event => {
    if (event.altKey && !event.ctrlKey && event.code === 'KeyK' && form.querySelector('[data-tab=skip]')) {
      event.preventDefault();
      everywhere = !everywhere;
      mark();
      document.dispatchEvent(new CustomEvent('pelto:said', { detail: everywhere ? 'Tab stops everywhere.' : 'Tab passes by again.' }));
    }
    if (event.key !== 'Tab' || event.altKey || event.ctrlKey || form.dataset.tabs !== 'set' || everywhere) return;
    const part = event.target.closest('[data-tab]');
    if (!part) return;
    const order = stops(form, part.closest('tr'));
    const next = order[order.indexOf(part) + (event.shiftKey ? -1 : 1)];
    // Within a place of several controls, and at both ends, Tab goes as it does everywhere.
    const controls = [...part.querySelectorAll('input:not([type=hidden]), select, textarea, [contenteditable=true]')].filter(control => control.getClientRects().length > 0);
    const last = event.shiftKey ? controls[0] : controls.at(-1);
    if (order.indexOf(part) < 0 || !next || event.target !== last || next.closest('[data-page]') !== part.closest('[data-page]')) return;
    event.preventDefault();
    const stop = stopOf(next);
    stop.focus();
    stop.select?.();
  });
}
