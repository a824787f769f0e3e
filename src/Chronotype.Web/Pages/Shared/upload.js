// Sends files with progress, and lets them be dropped. Without this script the same forms still work.
import { box, left, size, tell } from './say.js';
import { send } from './sending.js';

// An answer that is an error is not put into the page; what to do about it is said beside it.
document.addEventListener('htmx:response:error', e => tell('That did not work',
  `The server answered with an error (${e.detail.ctx?.response?.status ?? 'unknown'}). What was stored before is untouched. Load the page anew and look before you try again.`));
document.addEventListener('htmx:error', e => e.detail.ctx && tell('No answer', 'The server could not be reached. What was stored before is untouched; try again.'));

export async function sendForm(form, file, address = form.action) {
  const shown = box();
  const started = performance.now();
  const fields = Object.fromEntries([...new FormData(form)].filter(([, value]) => !(value instanceof File)));
  shown.title.textContent = file.name;
  shown.text.textContent = 'Starting…';
  shown.button.textContent = 'Cancel';
  window.addEventListener('beforeunload', warn);
  const sending = send({ body: file, name: file.name, address, fields }, {
    progress: (sent, all) => {
      const seconds = (performance.now() - started) / 1000;
      shown.bar.value = sent / all;
      shown.text.textContent = sent === all ? 'Storing it…' : `${size(sent)} of ${size(all)}, ${left(seconds / sent * (all - sent))}`;
    },
  });
  shown.button.onclick = () => sending.abort();
  const answer = await sending.done;
  window.removeEventListener('beforeunload', warn);
  if (answer.ok) {
    // It is stored: whoever leaves now loses nothing.
    shown.text.textContent = 'Stored.';
    shown.button.hidden = true;
    location.assign(answer.location);
  } else {
    shown.element.remove();
    tell('Not sent', answer.error);
  }
}

function warn(e) { e.preventDefault(); }

document.addEventListener('submit', e => {
  const form = e.target.closest('form[data-upload]');
  const file = form?.elements.file?.files[0];
  if (!file) return;
  e.preventDefault();
  // A button may send it elsewhere, this once.
  sendForm(form, file, e.submitter?.hasAttribute('formaction') ? e.submitter.formAction : form.action);
});

// A form that has nothing to fill in sends its file as soon as it is chosen.
document.addEventListener('change', e => {
  const form = e.target.closest('form[data-upload=at-once]');
  if (form && e.target.files?.length) {
    sendForm(form, e.target.files[0]);
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
  // What it was dropped on may have taken it.
  if (e.defaultPrevented || (!target() && !many())) return;
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
  } else if (form.dataset.upload === 'at-once') sendForm(form, files[0]);
  else {
    form.elements.file.files = files;
    form.elements.file.dispatchEvent(new Event('change', { bubbles: true }));
  }
});
if (many()) import('./many.js');
