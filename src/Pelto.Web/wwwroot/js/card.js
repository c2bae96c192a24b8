// The main facts of what a link points to, while the pointer rests on it or it has the focus (WCAG 1.4.13: it stays under the pointer, and Esc takes it away).

let card = null;
let coming = 0;
let going = 0;

const away = () => {
  clearTimeout(coming);
  card?.remove();
  card = null;
};

function soon(at, address) {
  clearTimeout(coming);
  clearTimeout(going);
  coming = setTimeout(async () => {
    const answer = await fetch(`${address}?handler=Card`).catch(() => null);
    if (!answer?.ok || answer.redirected || !at.isConnected || document.querySelector('.options:not([hidden])')) return;
    const html = await answer.text();
    away();
    card = document.createElement('div');
    card.className = 'card';
    card.role = 'tooltip';
    card.id = 'link-card';
    card.innerHTML = html;
    const box = at.getBoundingClientRect();
    card.style.left = `${Math.max(8, Math.min(box.left, window.innerWidth - 350))}px`;
    if (window.innerHeight - box.bottom > 260) card.style.top = `${box.bottom + 4}px`;
    else card.style.bottom = `${window.innerHeight - box.top + 4}px`;
    document.body.append(card);
  }, 600);
}

const addressOf = element => {
  const link = element.matches('a') ? element : element.closest('.pick')?.querySelector('.go:not([hidden])');
  return link && /^\/records\/[a-z0-9_]+\/\d+$/.test(link.getAttribute('href')) ? link.getAttribute('href') : null;
};

const places = '.pick input, .pick .go, .tags .tag a, output a[href^="/records/"]';
for (const [enter, leave] of [['mouseover', 'mouseout'], ['focusin', 'focusout']]) {
  document.addEventListener(enter, event => {
    if (event.target.closest?.('.card')) {
      clearTimeout(going);
      return;
    }
    const at = event.target.closest?.(places);
    const address = at && addressOf(at);
    if (address) soon(at, address);
  });
  document.addEventListener(leave, event => {
    if (!event.target.closest?.(`${places}, .card`)) return;
    clearTimeout(coming);
    clearTimeout(going);
    going = setTimeout(away, 250);
  });
}
document.addEventListener('input', away);
document.addEventListener('keydown', event => {
  if (event.key === 'Escape' && card) {
    away();
    event.preventDefault();
    event.stopPropagation();
  }
}, true);
