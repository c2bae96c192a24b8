// A field that stands at two places is one value: what is typed at one is there at the other at once.

const nameOf = control => control.name ?? '';
const pairs = form => [...form.querySelectorAll('[data-again]:not([data-again=""])')].map(part => ({ part, prefix: `${part.dataset.place}~` }));

function copy(from, to) {
  if (from === to || to.contains(document.activeElement)) return;
  if (to.value !== from.value) to.value = from.value;
}

// From the place that holds the input to the others, after it was filled or drawn.
export function showAgain(form) {
  for (const { part, prefix } of pairs(form)) {
    for (const control of part.querySelectorAll('[name]')) {
      const source = form.elements.namedItem(nameOf(control).slice(prefix.length));
      if (source && 'value' in source) copy(source, control);
    }
    const own = form.querySelector(`[data-at="${CSS.escape(part.dataset.again)}"]`);
    if (own) part.hidden = own.hidden;
  }
}

export function attachAgain(form) {
  const typed = event => {
    const part = event.target.closest('[data-again]:not([data-again=""])');
    if (part) {
      const prefix = `${part.dataset.place}~`;
      for (const control of part.querySelectorAll('[name]')) {
        const own = form.elements.namedItem(nameOf(control).slice(prefix.length));
        if (own && 'value' in own) copy(control, own);
      }
      // What is filled and may be changed knows from its own input that a person typed it.
      if (event.isTrusted) form.elements.namedItem(part.dataset.again)?.dispatchEvent?.(new Event('input', { bubbles: true }));
    }
    showAgain(form);
  };
  for (const name of ['input', 'change', 'pelto:changed']) form.addEventListener(name, typed);
}
