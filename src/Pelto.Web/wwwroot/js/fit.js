// Lines with more columns than the page is wide: each line becomes a card of several rows, so that nothing of it has to be looked for to the side.

const isNarrow = window.matchMedia('(max-width: 760px)');

function fit(box) {
  box.classList.remove('cards');
  // On a narrow page each line is a card in any case.
  const tooWide = !isNarrow.matches && box.clientWidth > 0 && box.firstElementChild.scrollWidth > box.clientWidth + 1;
  box.classList.toggle('cards', tooWide);
}

const watch = new ResizeObserver(changes => changes.forEach(({ target, contentRect }) => {
  // Its height changes with it; only the width asks anew.
  if (target.fitted === contentRect.width) return;
  target.fitted = contentRect.width;
  fit(target);
}));

export function attachFit(form) {
  const boxes = form.querySelectorAll('.lines');
  boxes.forEach(box => watch.observe(box));
  form.addEventListener('pelto:columns', () => boxes.forEach(fit));
}
