// Entries of a record that are not saved yet: they outlast a reload, a look at another record,
// and a save that was on its way while somebody typed on.
import { Typed, asTyped, labelOf, putBack } from './kept.js';
import { act, tell } from './notices.js';
import { selectSheet, sheetNow } from './sheets.js';

const person = document.body.dataset.person;
const read = (store, key) => JSON.parse(store.getItem(key) ?? 'null');

export class Unsaved {
  /** What somebody typed since the record was opened. */
  typed = new Typed();

  /** What was typed since a save went on its way: it is not part of that save. */
  meanwhile = new Typed();

  isDirty = false;
  #isLeaving = false;

  /** Begins with a way to the form, which is another each time that it is drawn, and with one to draw it from what was kept. */
  constructor(formOf, draw) {
    this.formOf = formOf;
    this.draw = draw;
    this.key = `pelto:${person}:${formOf().dataset.record}`;
    window.addEventListener('beforeunload', event => {
      if (this.isDirty && !this.#isLeaving) event.preventDefault();
    });

    // A page that the browser kept as it was needs nothing brought back.
    window.addEventListener('pageshow', event => {
      if (!event.persisted) return;
      this.#isLeaving = false;
      sessionStorage.removeItem(`back:${this.key}`);
    });
  }

  note(control) {
    this.typed.note(control);
    this.meanwhile.note(control);
  }

  mark() {
    this.isDirty = true;
    this.remember();
  }

  // Neither the token nor secrets stay in the browser.
  remember() {
    const form = this.formOf();
    const secrets = [...form.querySelectorAll('[data-secret]')];
    const names = new Set(['__RequestVerificationToken', ...secrets.map(input => input.name)]);
    const entries = [...new FormData(form)].filter(([name]) => !name.startsWith('scratch~') && !names.has(name));
    const unkept = secrets.filter(input => input.value).map(labelOf);
    try {
      localStorage.setItem(this.key, JSON.stringify({ at: Date.now(), entries, stood: asTyped(form, this.typed), unkept }));
    } catch {
      // A full or forbidden store takes the comfort away, not the work.
    }
  }

  forget() {
    this.isDirty = false;
    localStorage.removeItem(this.key);
  }

  /** Who goes to look at another record and comes back finds the form as it was. */
  leaveFor(address) {
    if (this.isDirty) {
      const at = { focused: document.activeElement?.id, scroll: window.scrollY, sheet: sheetNow(this.formOf()) };
      sessionStorage.setItem(`back:${this.key}`, JSON.stringify(at));
    }
    this.leave();
    location.assign(address);
  }

  leave() {
    if (this.isDirty) this.remember();
    this.#isLeaving = true;
  }

  async #bringBack({ entries, stood = {}, unkept = [] }) {
    const data = new FormData();
    entries.forEach(([name, value]) => data.append(name, value));
    data.set('__RequestVerificationToken', this.formOf().querySelector('[name=__RequestVerificationToken]').value);
    if (!await this.draw(data)) return false;
    this.typed.ids = new Set(Object.keys(stood));
    putBack(this.formOf(), stood);
    this.mark();
    if (unkept.length > 0) tell(`Please type ${unkept.join(' and ')} again: secrets are not kept in the browser.`, 'draft');
    return true;
  }

  /** Offers what was kept, or brings it back to whoever only looked at another record. */
  async offer() {
    const kept = read(localStorage, this.key);
    if (!kept || this.formOf().dataset.writable !== 'yes') return;
    const back = read(sessionStorage, `back:${this.key}`);
    sessionStorage.removeItem(`back:${this.key}`);
    if (back && await this.#bringBack(kept)) {
      selectSheet(this.formOf(), back.sheet);
      document.getElementById(back.focused)?.focus({ preventScroll: true });
      window.scrollTo({ top: back.scroll });
      return;
    }
    const at = new Date(kept.at);
    const when = `${String(at.getHours()).padStart(2, '0')}:${String(at.getMinutes()).padStart(2, '0')}`;
    const notice = tell(`You have entries here from ${when} that were not saved.`, 'draft');
    act(notice, 'Restore them', async () => {
      if (await this.#bringBack(kept)) notice.remove();
    }, true);
    act(notice, 'Drop them', () => {
      this.forget();
      notice.remove();
    });
  }

  /** The page of the saved record takes over what was typed meanwhile; new lines have other keys there. */
  handOver(saved, keys) {
    if (this.meanwhile.ids.size === 0) return;
    const renamed = id => Object.entries(keys).reduce((name, [old, now]) => name.replace(`-${old}-`, `-${now}-`), id);
    const stood = Object.entries(asTyped(this.formOf(), this.meanwhile)).map(([id, values]) => [renamed(id), values]);
    sessionStorage.setItem(`meanwhile:${person}:${new URL(saved, location).pathname}`, JSON.stringify(Object.fromEntries(stood)));
  }

  /** Takes that over; false when there is nothing. */
  takeOver() {
    const key = `meanwhile:${person}:${location.pathname}`;
    const stood = read(sessionStorage, key);
    sessionStorage.removeItem(key);
    if (!stood) return false;
    putBack(this.formOf(), stood);
    this.typed.ids = new Set(Object.keys(stood));
    this.mark();
    tell('What you typed while it was saved is here, and not saved yet.', 'draft');
    return true;
  }
}
