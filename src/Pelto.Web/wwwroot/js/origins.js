// Origins: marks every part of the open screen as built in or added, in words, with a card for each.
const button = document.querySelector('[data-origins]');
let card = null;

const parts = () => [...document.querySelectorAll('#record [data-field], #record [data-section], #record [data-page-id], #record [data-extra]')];

function mark(part) {
  const chip = document.createElement('button');
  chip.type = 'button';
  const extra = part.dataset.extra;
  const added = Boolean(extra) || part.matches('.added');
  chip.className = `origin ${added ? 'of-site' : ''}`;
  const page = part.dataset.pageLabel;
  chip.textContent = `${page ? `page ${page}: ` : ''}${added ? 'added' : 'built in'}`;
  chip.dataset.origin = extra || part.dataset.field || part.dataset.place || (part.dataset.section ?? part.dataset.pageId);
  const what = part.dataset.label ?? part.dataset.sectionLabel ?? (extra ? part.textContent.trim().slice(0, 40) : `Page ${page}`);
  chip.setAttribute('aria-label', `${what}: ${chip.textContent}. Tell more`);
  if (page) part.prepend(chip);
  else if (extra) part.append(chip);
  else if (part.matches('th')) part.append(chip);
  else (part.querySelector('label, .label, h2') ?? part).after(chip);
}

export function setOrigins(on) {
  document.querySelectorAll('.origin').forEach(chip => chip.remove());
  close();
  button.setAttribute('aria-pressed', String(on));
  document.body.classList.toggle('origins', on);
  sessionStorage.setItem('origins', on ? 'yes' : '');
  if (on) parts().forEach(mark);
}

function close(focus) {
  card?.remove();
  card = null;
  focus?.focus();
}

async function open(chip) {
  close();
  const type = document.getElementById('record').dataset.type;
  const about = await fetch(`/origins/${type}/${encodeURIComponent(chip.dataset.origin)}`).then(answer => answer.json()).catch(() => null);
  if (!about) return;
  card = document.createElement('aside');
  card.className = 'origin-card';
  card.setAttribute('role', 'dialog');
  card.setAttribute('aria-label', `Origin of ${about.title}`);
  card.tabIndex = -1;
  const title = document.createElement('h2');
  title.textContent = about.title;
  const kind = document.createElement('span');
  kind.className = about.added ? 'pill' : 'pill plainly';
  kind.textContent = about.added ? 'Added' : 'Built in';
  title.append(' ', kind);
  const facts = document.createElement('dl');
  facts.className = 'facts';
  for (const [name, text] of about.facts) {
    const row = document.createElement('div');
    const term = document.createElement('dt');
    term.textContent = name;
    const told = document.createElement('dd');
    told.textContent = text;
    row.append(term, told);
    facts.append(row);
  }
  card.append(title, facts);
  if (about.uses.length) {
    const uses = document.createElement('ul');
    uses.append(...about.uses.map(use => Object.assign(document.createElement('li'), { textContent: use })));
    card.append(uses);
  }
  const foot = document.createElement('div');
  foot.className = 'bar';
  if (about.definition) {
    const link = document.createElement('a');
    link.className = 'btn';
    link.href = about.definition;
    link.textContent = about.added ? 'Go to its definition' : 'Go to the fields';
    foot.append(link);
  }
  if (about.access) foot.append(Object.assign(document.createElement('a'), { className: 'btn', href: about.access, textContent: 'Who has access' }));
  const away = document.createElement('button');
  away.type = 'button';
  away.className = 'btn';
  away.textContent = 'Close';
  away.addEventListener('click', () => close(chip));
  foot.append(away);
  card.append(foot);
  card.addEventListener('keydown', event => {
    if (event.key === 'Escape') {
      event.stopPropagation();
      close(chip);
    }
  });
  document.body.append(card);
  const at = chip.getBoundingClientRect();
  card.style.left = `${Math.max(8, Math.min(at.left, window.innerWidth - card.offsetWidth - 12))}px`;
  card.style.top = `${Math.max(52, Math.min(at.bottom + 4, window.innerHeight - card.offsetHeight - 12))}px`;
  card.focus();
}

if (button) {
  button.addEventListener('click', () => setOrigins(button.getAttribute('aria-pressed') !== 'true'));
  document.addEventListener('click', event => {
    const chip = event.target.closest('.origin');
    if (chip) {
      event.preventDefault();
      event.stopPropagation();
      open(chip);
    } else if (card && !card.contains(event.target)) close();
  }, true);
  document.addEventListener('keydown', event => {
    if (event.altKey && !event.ctrlKey && event.code === 'KeyO') {
      event.preventDefault();
      setOrigins(button.getAttribute('aria-pressed') !== 'true');
    }
  });
  document.addEventListener('pelto:drawn', () => { if (document.body.matches('.origins')) setOrigins(true); });
  if (sessionStorage.getItem('origins')) setOrigins(true);
}
