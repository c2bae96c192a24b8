// Lines far down in a long document are only read at first: they get their inputs when somebody comes near them,
// with the pointer, the keyboard or by scrolling.

const near = '250px 0px';
const control = 'input:not([type=hidden]), select, textarea, [contenteditable]';
const nameOf = row => row.querySelector('[name=asleep]').value;

/** Wakes lines of a form. Begins with a way to the form, one to ask the server, and one to draw it anew under a newer release. */
export class Sleepers {
  #wanted = new Set();
  #focus = null;
  #waiting = 0;
  #isAsking = false;

  constructor(formOf, post, draw) {
    Object.assign(this, { formOf, post, draw });
  }

  attach(form) {
    const rows = form.querySelectorAll('tr[data-asleep]');
    if (rows.length === 0) return;
    const watch = new IntersectionObserver(seen => seen.filter(one => one.isIntersecting).forEach(({ target }) => {
      watch.unobserve(target);
      this.wake(target);
    }), { rootMargin: near });
    rows.forEach(row => watch.observe(row));
    const come = event => {
      const row = event.target.closest('tr[data-asleep]');
      if (!row) return;
      this.#focus = { name: nameOf(row), cell: event.target.closest('td')?.cellIndex ?? 0 };
      this.wake(row);
    };
    form.addEventListener('focusin', come);
    form.addEventListener('pointerdown', come);
  }

  /** Has the inputs of a line drawn; with others that are wanted at the same moment. */
  wake(row) {
    this.#wanted.add(nameOf(row));
    if (this.#isAsking) return;
    clearTimeout(this.#waiting);
    this.#waiting = setTimeout(() => this.#ask(), 30);
  }

  /** The line that an input which is not drawn would stand in, by the input's name. */
  lineOf(name) {
    const line = name.slice(0, name.lastIndexOf('.'));
    return this.formOf().querySelector(`tr[data-asleep] [name=asleep][value="${CSS.escape(line)}"]`)?.closest('tr');
  }

  async #ask() {
    const form = this.formOf();
    const asked = [...this.#wanted];
    this.#wanted.clear();
    const data = new FormData(form);
    asked.forEach(name => data.append('wake', name));
    this.#isAsking = true;
    try {
      const answer = await this.post('Wake', data);
      if (!answer.ok || answer.redirected || answer.headers.get('content-type')?.includes('json')) return;
      const holder = document.createElement('template');
      holder.innerHTML = await answer.text();
      const drawn = holder.content.querySelector('table');

      // The rest of the page is of an older release, or of another screen: it is drawn as a whole, with these.
      if (drawn.dataset.release !== form.elements.namedItem('release').value || drawn.dataset.screen !== form.dataset.screen) {
        data.delete('asleep');
        new FormData(this.formOf()).getAll('asleep').filter(name => !asked.includes(name)).forEach(name => data.append('asleep', name));
        await this.draw(data);
      } else if (form === this.formOf()) this.#put(form, drawn);
    } catch {
      // Whoever comes to it again asks again.
    } finally {
      this.#isAsking = false;
      if (this.#wanted.size > 0) this.#ask();
    }
  }

  #put(form, drawn) {
    for (const part of drawn.querySelectorAll('[data-woken]')) {
      const section = form.querySelector(`[data-section="${CSS.escape(part.dataset.woken)}"]`);
      const asleep = new Map([...section?.querySelectorAll('tr[data-asleep]') ?? []].map(row => [row.dataset.line, row]));
      for (const row of [...part.children]) {
        const old = asleep.get(row.dataset.line);
        if (!old) continue;
        const name = nameOf(old);
        row.querySelector('[data-position]').textContent = old.querySelector('[data-position]').textContent;
        const isHere = old.contains(document.activeElement);
        old.replaceWith(row);
        if (this.#focus?.name !== name) continue;
        const cells = [...row.children].slice(this.#focus.cell);
        const first = cells.map(cell => cell.querySelector(control)).find(Boolean);
        if (isHere || document.activeElement === document.body) first?.focus({ preventScroll: true });
        this.#focus = null;
      }
    }
    form.dispatchEvent(new CustomEvent('pelto:woken'));
  }
}
