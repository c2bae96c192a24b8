// "A field here": shows every spot where a field can go; choosing one opens its definition with record type, part and place known.

export function attachHere(toggle, formOf, leaving) {
  if (!toggle) return;
  const isOn = () => toggle.getAttribute('aria-pressed') === 'true';

  const set = on => {
    toggle.setAttribute('aria-pressed', String(on));
    document.querySelectorAll('.spot').forEach(spot => spot.remove());
    if (!on) return;
    const form = formOf();
    form.querySelectorAll('[data-section]').forEach(section => {
      const { part, section: id, sectionLabel } = section.dataset;
      const first = spot(form, part, id, `A field here: first in ${sectionLabel}`, '+ A field here');
      first.classList.add('first');
      section.querySelector('h2').after(first);
      section.querySelectorAll('[data-field]').forEach(place => {
        place.append(spot(form, part, place.dataset.field, `A field here: after ${place.dataset.label}`, '+'));
      });
    });
    form.querySelector('[data-page]:not([hidden]) .spot')?.focus();
  };

  const spot = (form, part, after, name, text) => {
    const button = document.createElement('button');
    button.type = 'button';
    button.className = 'spot';
    button.textContent = text;
    button.title = name;
    button.setAttribute('aria-label', name);
    button.addEventListener('click', () => {
      const [type, record] = form.dataset.record.split('/');
      leaving();
      location.assign(`/setup/fields/new?${new URLSearchParams({ type, part, after, record: record === 'new' ? '' : record, from: location.pathname })}`);
    });
    return button;
  };

  toggle.addEventListener('click', () => set(!isOn()));
  document.addEventListener('keydown', event => {
    if (event.altKey && event.code === 'KeyA') {
      event.preventDefault();
      set(!isOn());
    } else if (event.key === 'Escape' && isOn()) {
      set(false);
      toggle.focus();
    }
  });
}
