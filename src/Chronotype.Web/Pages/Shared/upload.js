// Sends files with progress, and lets them be dropped. Without this script the same forms still work.
import { box, left, size, tell } from './say.js';

// An answer that is an error is not put into the page; what to do about it is said beside it.
document.addEventListener('htmx:response:error', e => tell('That did not work',
  `The server answered with an error (${e.detail.ctx?.response?.status ?? 'unknown'}). What was stored before is untouched. Load the page anew and look before you try again.`));
document.addEventListener('htmx:error', e => e.detail.ctx && tell('No answer', 'The server could not be reached. What was stored before is untouched; try again.'));

export function send(form, file, address = form.action) {
  const shown = box();
  const request = new XMLHttpRequest();
  const started = performance.now();
  const body = new FormData();
  // Fields go before the file, so that the server can check them before it reads the rest.
  for (const [name, value] of new FormData(form)) if (!(value instanceof File)) body.append(name, value);
  body.append('file', file, file.name);

  const failed = sentence => {
    shown.element.remove();
    tell('Not sent', sentence);
  };
  shown.title.textContent = file.name;
  shown.text.textContent = 'Starting…';
  shown.button.textContent = 'Cancel';
  shown.button.onclick = () => request.abort();
  window.addEventListener('beforeunload', warn);
  request.upload.onprogress = e => {
    const seconds = (performance.now() - started) / 1000;
    shown.bar.value = e.loaded / e.total;
    shown.text.textContent = e.loaded === e.total ? 'Storing it…' : `${size(e.loaded)} of ${size(e.total)}, ${left(seconds / e.loaded * (e.total - e.loaded))}`;
  };
  request.onload = () => {
    let answer;
    try { answer = JSON.parse(request.responseText); } catch { answer = {}; }
    if (request.status < 300 && answer.location) {
      // It is stored: whoever leaves now loses nothing.
      window.removeEventListener('beforeunload', warn);
      shown.text.textContent = 'Stored.';
      shown.button.hidden = true;
      location.assign(answer.location);
    } else failed(answer.error ?? `The server answered with an error (${request.status}). Nothing that was stored before is lost; try again.`);
  };
  request.onerror = () => failed('The connection broke before the whole file had arrived. Nothing half-sent is kept and nothing older is touched: send it again.');
  request.onabort = () => failed('Cancelled. Nothing of it was kept.');
  request.onloadend = () => window.removeEventListener('beforeunload', warn);
  request.open('POST', address);
  request.setRequestHeader('Accept', 'application/json');
  request.setRequestHeader('X-Form-Token', form.elements.__RequestVerificationToken.value);
  request.send(body);
}

function warn(e) { e.preventDefault(); }

document.addEventListener('submit', e => {
  const form = e.target.closest('form[data-upload]');
  const file = form?.elements.file?.files[0];
  if (!file) return;
  e.preventDefault();
  // A button may send it elsewhere, this once.
  send(form, file, e.submitter?.hasAttribute('formaction') ? e.submitter.formAction : form.action);
});

// A form that has nothing to fill in sends its file as soon as it is chosen.
document.addEventListener('change', e => {
  const form = e.target.closest('form[data-upload=at-once]');
  if (form && e.target.files?.length) {
    send(form, e.target.files[0]);
    e.target.value = '';
  }
});

// Dropping anywhere on a page: one file goes to its form that takes drops; several, a folder, or a page without such a form, to the
// list that shows where each goes.
const target = () => document.querySelector('form[data-drop]');
const many = () => document.querySelector('[data-many]');
const says = () => target()?.dataset.drop ?? many()?.dataset.many;
let depth = 0;
const mark = on => {
  document.body.classList.toggle('dropping', on);
  if (on) document.body.dataset.dropSays = says();
};
const takes = () => !document.querySelector('dialog[open]') && (target() || many());
addEventListener('dragenter', e => { if (takes() && e.dataTransfer.types.includes('Files')) { depth++; mark(true); } });
addEventListener('dragleave', () => { if (depth && !--depth) mark(false); });
addEventListener('dragover', e => { if (target() || many()) e.preventDefault(); });
addEventListener('drop', async e => {
  depth = 0;
  mark(false);
  if (!target() && !many()) return;
  e.preventDefault();
  if (!takes()) return;
  // What was dropped can be asked for only now, before anything else is waited for.
  const { files, items } = e.dataTransfer;
  const all = [...files];
  const roots = [...items].map(i => i.webkitGetAsEntry?.()).filter(Boolean);
  const isOne = files.length === 1 && !roots[0]?.isDirectory;
  const form = isOne ? target() : null;
  if (!form) {
    if (many()) await (await import('./many.js')).drop(roots, all);
    else tell('One file at a time', 'Drop one file, or one zip of a folder.');
  } else if (form.dataset.upload === 'at-once') send(form, files[0]);
  else {
    form.elements.file.files = files;
    form.elements.file.dispatchEvent(new Event('change', { bubbles: true }));
  }
});
if (many()) import('./many.js');
