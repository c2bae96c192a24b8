// What is shown under a condition comes and goes: fields of the header, cells of lines, and columns with the last of their cells.

export function showParts(form, shown) {
  for (const part of form.querySelectorAll('[data-at], [data-again]')) {
    const on = shown[part.dataset.again || part.dataset.at];
    if (on === undefined || (!part.dataset.again && part.contains(document.activeElement))) continue;
    part.hidden = !on;
  }
  showColumns(form);
}

export function showColumns(form) {
  let changed = false;
  form.querySelectorAll('th[data-conditional=yes]').forEach(heading => {
    const section = heading.closest('[data-lines]');
    const lines = [...section.querySelectorAll('[data-rows] tr[data-line]')];
    const blank = section.querySelector('[data-blank]')?.content.querySelector('tr');
    const cells = (lines.length > 0 || !blank ? lines : [blank]).map(line => line.children[heading.cellIndex]);
    const on = cells.some(cell => cell.querySelector('[data-at]')?.hidden === false);
    changed ||= heading.hidden === on;
    heading.hidden = !on;
    lines.forEach(line => { line.children[heading.cellIndex].hidden = !on; });
  });
  if (changed) form.dispatchEvent(new CustomEvent('pelto:columns'));
}
