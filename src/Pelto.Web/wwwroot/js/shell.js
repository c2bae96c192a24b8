// Every page: keys, the menu on narrow screens, and what the server tells while the page is open.
import { tell as notify } from './notices.js';
import './swaps.js';

const body = document.body;

document.querySelector('[data-menu]')?.addEventListener('click', event => {
  const open = document.getElementById('rail').classList.toggle('open');
  event.currentTarget.setAttribute('aria-expanded', String(open));
});

const keys = document.getElementById('keys');
document.querySelector('[data-keys]')?.addEventListener('click', () => keys.showModal());

const isTyping = element => element.closest('input, textarea, select, [contenteditable]') !== null;

document.addEventListener('keydown', event => {
  if (event.key === '?' && !isTyping(event.target) && !keys.open) {
    keys.showModal();
    event.preventDefault();
  } else if (event.altKey && !event.ctrlKey && event.code === 'KeyN') {
    document.querySelector('[data-key-new]')?.click();
  } else if (event.altKey && !event.ctrlKey && event.code === 'KeyL') {
    const search = document.getElementById('search');
    if (search) search.focus();
    else document.querySelector('.strip a[href^="/records/"], .rail nav a')?.click();
    event.preventDefault();
  }
});

// Entries that wait in this browser belong to one person; they go with that person.
document.querySelector('[data-sign-out]')?.addEventListener('submit', () => {
  for (const key of Object.keys(localStorage)) if (key.startsWith('pelto:')) localStorage.removeItem(key);
});

document.querySelectorAll('[data-passing]').forEach(notice => {
  const clean = new URL(location);
  ['saved', 'kept', 'stays'].forEach(name => clean.searchParams.delete(name));
  history.replaceState(history.state, '', clean);
  if (!notice.classList.contains('bad')) setTimeout(() => notice.remove(), 6000);
});

// A browser opens few connections to one server, and people open many tabs: only those in sight hold the stream,
// and pass on what they hear to those that are not.
if (body.dataset.person) {
  const others = new BroadcastChannel('pelto');
  let source = null;
  let closing = 0;
  let told = Number(body.dataset.release);

  const tell = release => {
    if (release === told) return;
    told = release;
    document.dispatchEvent(new CustomEvent('pelto:release', { detail: { release } }));
  };
  const listen = () => {
    clearTimeout(closing);
    if (source) return;
    const about = new URLSearchParams({ type: body.dataset.type ?? '', title: body.dataset.title || document.title.split(' · ')[0], release: told });
    source = new EventSource(`/live?${about}`);
    source.addEventListener('release', event => {
      const { release } = JSON.parse(event.data);
      others.postMessage(release);
      tell(release);
    });
  };
  others.addEventListener('message', event => tell(event.data));
  document.addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'visible') listen();
    else {
      closing = setTimeout(() => {
        source?.close();
        source = null;
      }, 3000);
    }
  });
  if (document.visibilityState === 'visible') listen();
}

// Records and lists answer a release themselves; other pages say so and leave what is typed alone.
if (!document.getElementById('record') && !document.getElementById('rows')) {
  let notice = null;
  document.addEventListener('pelto:release', event => {
    if (String(event.detail.release) === body.dataset.release || document.getElementById('going')) return;
    notice?.remove();
    notice = notify(`Release ${event.detail.release} is live. This page still shows how it was before.`);
  });
}
