// What is clicked, typed or pressed while a page's scripts are still on their way is kept, and told to them once they are there.
(() => {
  const kept = [];
  const native = 'a[href], label, input, select, textarea, button:not([type=button])';

  // A click told again is no MouseEvent: scripts hear it, and the browser does not open or tick a second time.
  const click = ({ target }) => target.closest?.(native) ? null : new CustomEvent('click', { bubbles: true, cancelable: true });
  const press = event => {
    if ((event.ctrlKey || event.metaKey) && (event.key === 's' || event.key === 'k')) event.preventDefault();
    return event.ctrlKey || event.metaKey || event.altKey || /^F\d+$/.test(event.key) ? new KeyboardEvent('keydown', event) : null;
  };
  const again = {
    click,
    keydown: press,
    input: () => new Event('input', { bubbles: true }),
    change: () => new Event('change', { bubbles: true }),
  };
  const keep = event => {
    const told = event.isTrusted ? again[event.type](event) : null;
    if (told) kept.push([event.target, told]);
  };
  const ways = Object.keys(again);
  ways.forEach(way => addEventListener(way, keep, true));

  addEventListener('DOMContentLoaded', () => setTimeout(() => {
    ways.forEach(way => removeEventListener(way, keep, true));
    kept.forEach(([target, told]) => (target.isConnected ? target : document.body).dispatchEvent(told));
  }));
})();
