// A list of choices for an input, which keeps the focus (WAI-ARIA combobox pattern): which of them is pointed at.

const isPointedAt = option => option.getAttribute('aria-selected') === 'true';

/** The option that is pointed at, if any. */
export const pointedAt = list => [...list.querySelectorAll('[role=option]')].find(isPointedAt);

/** Points at an option, or at none. */
export function point(input, list, option) {
  list.querySelectorAll('[role=option]').forEach(other => other.setAttribute('aria-selected', String(other === option)));
  if (!option) {
    input.removeAttribute('aria-activedescendant');
    return;
  }
  input.setAttribute('aria-activedescendant', option.id);
  option.scrollIntoView({ block: 'nearest' });
}

/** Goes on to the next or the one before with the arrow keys; false for any other key. */
export function step(event, input, list, options) {
  if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return false;
  const at = options.findIndex(isPointedAt);
  point(input, list, options[event.key === 'ArrowDown' ? Math.min(at + 1, options.length - 1) : Math.max(at - 1, 0)]);
  return true;
}
