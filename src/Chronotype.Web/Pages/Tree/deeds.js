// What is done with files of a tree, wherever they are looked at: what it touches is seen before it is done.
import { tell } from '../Shared/say.js';
import { store } from './storing.js';

const sight = document.getElementById('sight');
const desk = document.querySelector('[data-project][data-tree]');
const address = `/tree/${encodeURIComponent(desk.dataset.project)}`;

export async function fragment(query) {
  const answer = await fetch(`${address}?${query}`, { headers: { 'HX-Request': 'true' } }).catch(() => null);
  if (!answer?.ok) {
    tell('That did not work', answer?.status === 404 ? 'It is not there any more. Load the page anew.' : 'The server could not be asked. Nothing was changed; try again.');
    return null;
  }
  return answer.text();
}

export async function ask(deed, ids, to) {
  if (!ids.length) return;
  const query = new URLSearchParams(ids.map(id => ['ids', id]));
  if (to !== undefined) query.set('to', to);
  const html = await fragment(`handler=Sight&deed=${deed}&${query}`);
  if (html === null) return;
  sight.innerHTML = html;
  sight.setAttribute('aria-labelledby', 'sight-title');
  sight.showModal();
  const name = sight.querySelector('[data-stem]');
  if (name) {
    name.focus();
    const dot = name.value.lastIndexOf('.');
    name.setSelectionRange(0, dot > 0 ? dot : name.value.length);
  }
}

document.addEventListener('click', e => {
  const deed = e.target.closest('[data-deed][data-of]');
  if (!deed) return;
  e.preventDefault();
  deed.closest('details')?.removeAttribute('open');
  ask(deed.dataset.deed, [deed.dataset.of]);
});

document.addEventListener('change', e => {
  const replace = e.target.closest('[data-replace]');
  if (!replace?.files.length) return;
  store({ project: desk.dataset.project, folder: replace.dataset.folder, replaces: replace.dataset.replace, as: replace.dataset.name }, [], [replace.files[0]]);
  replace.value = '';
});
