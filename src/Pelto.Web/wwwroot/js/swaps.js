// Answers that replace a part of a page take nothing from whoever typed there while they were on their way, nor the place of their cursor.

const controls = () => [...document.querySelectorAll('input:not([type=hidden], [type=file]), select, textarea')];
const isTicked = control => control.type === 'checkbox' || control.type === 'radio';
const standing = control => isTicked(control) ? control.checked : control.value;

// Named by their id, or by their name and how many of that name stand before.
function named() {
  const seen = new Map();
  return new Map(controls().map(control => {
    const name = control.id || `${control.form?.id ?? ''} ${control.name} ${control.type === 'radio' ? control.value : ''}`;
    const before = seen.get(name) ?? 0;
    seen.set(name, before + 1);
    return [`${name} ${before}`, control];
  }));
}

const snapshot = () => new Map([...named()].map(([name, control]) => [name, standing(control)]));

const asked = new WeakMap();
let kept = null;

document.addEventListener('htmx:beforeRequest', event => asked.set(event.detail.xhr, snapshot()));

document.addEventListener('htmx:beforeSwap', event => {
  const before = asked.get(event.detail.xhr);
  const all = [...named()];
  const { activeElement: active } = document;
  kept = {
    typed: all.map(([name, control]) => [name, standing(control)]).filter(([name, value]) => before?.has(name) && before.get(name) !== value),
    focused: all.find(([, control]) => control === active)?.[0],
    selection: active && 'selectionStart' in active ? [active.selectionStart, active.selectionEnd] : null,
  };
});

document.addEventListener('htmx:afterSwap', () => {
  if (!kept) return;
  const now = named();
  for (const [name, value] of kept.typed) {
    const control = now.get(name);
    if (!control || standing(control) === value) continue;
    if (isTicked(control)) control.checked = value;
    else control.value = value;
  }
  const focused = now.get(kept.focused);
  if (focused && document.activeElement !== focused) {
    focused.focus({ preventScroll: true });
    if (kept.selection?.[0] != null) focused.setSelectionRange(...kept.selection);
  }
  kept = null;
});
