// Another page of Pelto within this one: it answers with the record that was made or chosen there.

export function openInside({ title, src, chosen, back }) {
  const dialog = document.createElement('dialog');
  dialog.className = 'inside-dialog';
  const bar = document.createElement('div');
  bar.className = 'bar';
  const heading = document.createElement('h2');
  heading.id = 'inside-title';
  heading.textContent = title;
  const close = document.createElement('button');
  close.type = 'button';
  close.className = 'btn';
  close.textContent = 'Close';
  close.addEventListener('click', () => dialog.close());
  bar.append(heading, close);
  dialog.setAttribute('aria-labelledby', heading.id);
  const frame = document.createElement('iframe');
  frame.src = src;
  frame.title = title;
  frame.addEventListener('load', () => frame.contentWindow.focus());
  dialog.append(bar, frame);
  const hear = event => {
    if (event.origin !== location.origin || event.source !== frame.contentWindow || !event.data?.pelto) return;
    if (event.data.pelto === 'chosen') chosen(event.data.target);
    dialog.close();
  };
  window.addEventListener('message', hear);
  dialog.addEventListener('close', () => {
    window.removeEventListener('message', hear);
    dialog.remove();
    // The form may have been drawn anew meanwhile.
    (document.getElementById(back.id) ?? back).focus();
  });
  document.body.append(dialog);
  dialog.showModal();
}

export const isInside = document.body.dataset.inside === 'yes' && window.parent !== window;

export const tellOutside = (what, target) => window.parent.postMessage({ pelto: what, target }, location.origin);

if (isInside) {
  document.addEventListener('keydown', event => {
    if (event.key === 'Escape' && !event.defaultPrevented && !document.querySelector('dialog[open]')) tellOutside('closed');
  });
}
