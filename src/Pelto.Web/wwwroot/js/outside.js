// A public form: pickers and lines as on every record, and sending that loses nothing of what was typed.
import { attachInputs } from './inputs.js';
import { attachLines } from './lines.js';
import { attachPickers } from './pick.js';
import { Typed, carry, markRefusals, messageOf, say } from './kept.js';
import { tellTrouble } from './notices.js';

let form = document.getElementById('outside');
let dirty = false;
let sending = false;
const typed = new Typed();

window.addEventListener('beforeunload', event => {
  if (dirty) event.preventDefault();
});

function tell(text) {
  tellTrouble(text);
  window.scrollTo({ top: 0 });
}

async function send() {
  if (sending) return;
  sending = true;
  form.querySelector('[data-send]').setAttribute('aria-disabled', 'true');
  try {
    const answer = await fetch(form.action, { method: 'POST', body: new FormData(form), headers: { 'X-Requested-With': 'pelto' } });
    if (answer.headers.get('content-type')?.includes('json')) {
      dirty = false;
      // The page that was sent takes the form's place: going back does not send it twice.
      location.replace((await answer.json()).sent);
      return;
    }
    const html = new DOMParser().parseFromString(await answer.text(), 'text/html');
    const next = html.getElementById('outside');
    if (next) {
      carry(form, next, typed);
      form.replaceWith(next);
      form = next;
      attach();
      markRefusals(form);
      form.querySelector('[data-first-focus]')?.focus();
      window.scrollTo({ top: 0 });
    } else {
      tell(html.querySelector('[data-failure]')?.textContent ?? (answer.status === 404
        ? 'Not sent: this form no longer exists. What you typed is still here.'
        : 'Not sent: it may be more than the form takes. Shorten it and try again; what you typed is still here.'));
    }
  } catch {
    tell('Not sent: nothing can be reached just now. What you typed is still here; please try again in a moment.');
  } finally {
    sending = false;
    form.querySelector('[data-send]')?.removeAttribute('aria-disabled');
  }
}

function attach() {
  form.addEventListener('submit', event => {
    event.preventDefault();
    send();
  });
  const noted = event => {
    dirty = true;
    typed.note(event.target);
    if (messageOf(event.target)?.dataset.byBrowser) say(event.target, null);
  };
  form.addEventListener('input', noted);
  form.addEventListener('change', noted);
  form.addEventListener('click', event => {
    const help = event.target.closest('[data-help]');
    if (!help) return;
    const text = document.getElementById(help.dataset.help);
    text.hidden = !text.hidden;
    help.setAttribute('aria-expanded', String(!text.hidden));
  });
  // Enter goes on in a single-line input; only the button sends.
  form.addEventListener('keydown', event => {
    if (event.key === 'Enter' && event.target.matches('input:not([type=file])') && !event.defaultPrevented) event.preventDefault();
  });
  attachPickers(form);
  attachInputs(form);
  attachLines(form);
}

attach();
// Keys are heard from here on; tests wait for it.
document.body.dataset.ready = 'yes';
