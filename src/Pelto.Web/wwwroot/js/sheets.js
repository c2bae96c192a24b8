// The pages of a form: which one is open stands in the address, for the way back and for whom it is sent to.

import { panelOf, showTab } from './tablist.js';

const tabs = form => [...form.querySelectorAll('[role=tab]')];

export const sheetNow = form => form.querySelector('[data-page]:not([hidden])')?.dataset.pageId;

export const selectSheet = (form, sheet) => select(form, tabs(form).find(tab => panelOf(tab).dataset.pageId === sheet));

function select(form, tab) {
  if (!tab) return;
  showTab(tabs(form), tab);
  for (const other of tabs(form)) other.tabIndex = other === tab ? 0 : -1;
}

function open(form, tab) {
  select(form, tab);
  const at = tabs(form)[0] === tab ? '' : `#page=${encodeURIComponent(sheetNow(form))}`;
  history.replaceState(history.state, '', `${location.pathname}${location.search}${at}`);
}

/** Opens the page that the address names. */
export function selectAddressed(form) {
  if (location.hash.startsWith('#page=')) selectSheet(form, decodeURIComponent(location.hash.slice(6)));
}

/** Opens the page on which something is wrong, where it is not the one in sight. */
export function revealTrouble(form) {
  const page = form.querySelector('[aria-invalid=true]')?.closest('[data-page]');
  if (page?.hidden && !form.querySelector('[data-page]:not([hidden]) [aria-invalid=true]')) selectSheet(form, page.dataset.pageId);
}

/** How much is wrong on each page, once somebody asked to save. */
export function showTroubles(form) {
  for (const tab of tabs(form)) {
    const pill = tab.querySelector('.pill.bad');
    const count = panelOf(tab).querySelectorAll('.message:not([hidden])').length;
    if (!pill) continue;
    pill.hidden = count === 0;
    pill.textContent = `${count} to look at`;
  }
}

export function attachSheets(form) {
  form.addEventListener('click', event => {
    const tab = event.target.closest('[role=tab]');
    if (tab) open(form, tab);
  });
  form.addEventListener('keydown', event => {
    const tab = event.target.closest('[role=tab]');
    if (!tab || (event.key !== 'ArrowRight' && event.key !== 'ArrowLeft')) return;
    const all = tabs(form);
    const next = all[(all.indexOf(tab) + (event.key === 'ArrowRight' ? 1 : all.length - 1)) % all.length];
    open(form, next);
    next.focus();
  });
}
