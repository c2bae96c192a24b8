// Seen as somebody else: nothing in it can be used, so its pages are turned from above it.
import { showTab } from './tablist.js';

const seen = document.querySelector('[data-seen]');
const bar = document.querySelector('[data-see-pages]');
document.querySelectorAll('[data-reload]').forEach(select => select.addEventListener('change', () => select.form.submit()));

const tabs = [...seen?.querySelectorAll('[role=tab]') ?? []];
tabs.forEach(tab => {
  const button = document.createElement('button');
  button.type = 'button';
  button.className = 'btn';
  button.textContent = `Page ${tab.textContent.trim()}`;
  button.addEventListener('click', () => showTab(tabs, tab));
  bar.append(button);
});
if (tabs.length > 1) document.querySelector('.seeing').before(bar);
document.body.dataset.ready = 'yes';
