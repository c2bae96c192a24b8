// The map: arrows go along the ways, and what belongs together stands out.
const map = document.querySelector('[data-map]');

document.querySelector('[data-map-about] select')?.addEventListener('change', event => event.target.form.requestSubmit());

if (map) {
  const nodes = new Map([...map.querySelectorAll('[data-node]')].map(node => [node.dataset.node, node]));
  const ways = [...map.querySelectorAll('.ways path')];
  const top = node => node.querySelector('rect').y.baseVal.value;

  const light = node => {
    map.classList.toggle('lit', Boolean(node));
    const near = new Set(node ? [node.dataset.node] : []);
    for (const way of ways) {
      const on = node && (way.dataset.from === node.dataset.node || way.dataset.to === node.dataset.node);
      way.classList.toggle('on', Boolean(on));
      if (on) near.add(way.dataset.from).add(way.dataset.to);
    }
    nodes.forEach((other, id) => other.classList.toggle('on', near.has(id)));
  };

  const go = node => {
    if (!node) return;
    node.focus({ preventScroll: true });
    node.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  };

  const along = (node, leads) => {
    const [here, there] = leads ? ['from', 'to'] : ['to', 'from'];
    const others = ways.filter(way => way.dataset[here] === node.dataset.node).map(way => nodes.get(way.dataset[there]));
    return others.sort((a, b) => Math.abs(top(a) - top(node)) - Math.abs(top(b) - top(node)))[0];
  };

  const beside = (node, by) => {
    const column = [...nodes.values()].filter(other => other.dataset.layer === node.dataset.layer).sort((a, b) => top(a) - top(b));
    return column[column.indexOf(node) + by];
  };

  // Inputs stand at the left, mostly not at the top: the drawing begins with the first of them in sight, or with the one that is followed.
  const inputs = [...nodes.values()].filter(node => node.dataset.layer === '0');
  const first = map.querySelector('.node.here') ?? inputs.sort((a, b) => top(a) - top(b))[0];
  if (first && map.parentElement.scrollTop === 0) map.parentElement.scrollTop = Math.max(0, top(first) - 24);

  map.addEventListener('keydown', event => {
    const node = event.target.closest('[data-node]');
    if (!node) return;
    const next = { ArrowRight: () => along(node, true), ArrowLeft: () => along(node, false), ArrowDown: () => beside(node, 1), ArrowUp: () => beside(node, -1) }[event.key];
    if (!next) return;
    event.preventDefault();
    go(next());
  });
  map.addEventListener('focusin', event => light(event.target.closest('[data-node]')));
  map.addEventListener('focusout', () => light(null));
  map.addEventListener('pointerover', event => light(event.target.closest('[data-node]')));
  map.addEventListener('pointerleave', () => light(document.activeElement?.closest?.('[data-node]') ?? null));
  go(map.querySelector('.node.here'));
}
