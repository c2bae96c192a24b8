// What is shown under a condition comes and goes: fields of the header, cells of lines, and columns with the last of their cells.

export function showParts(form, shown) {
  for (const [name, on] of Object.entries(shown)) {
    const part = form.querySelector(`[data-at="${CSS.escape(name)}"]`);
    form.querySelectorAll(`[data-again="${CSS.escape(name)}"]`).forEach(again => { again.hidden = !on; });
    if (part && !part.contains(document.activeElement)) part.hidden = !on;
  }
  showColumns(form);
}

export function showColumns(form) {
  form.querySelectorAll('th[data-conditional=yes]').forEach(heading => {
    const section = heading.closest('[data-lines]');
    const lines = [...section.querySelectorAll('[data-rows] tr[data-line]')];
    const blank = section.querySelector('[data-blank]')?.content.querySelector('tr');
    const cells = (lines.length > 0 || !blank ? lines : [blank]).map(line => line.children[heading.cellIndex]);
    const on = cells.some(cell => cell.querySelector('[data-at]')?.hidden === false);
    heading.hidden = !on;
    lines.forEach(line => { line.children[heading.cellIndex].hidden = !on; });
  });
}
