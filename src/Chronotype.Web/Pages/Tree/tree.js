// A project's tree by mouse, key and menu: choosing, looking beside, moving by hand, and storing what is dropped on a folder.
import { tell } from '../Shared/say.js';
import { ask, fragment } from './deeds.js';
import { store } from './storing.js';

const desk = document.getElementById('tree');
const panel = document.getElementById('panel');
const form = document.getElementById('chosen');
const rows = () => [...desk.querySelectorAll('[data-row]')];
const typing = e => e.target.closest?.('input:not([type=checkbox]), textarea, select, [contenteditable]');
const chosen = () => [...(form?.querySelectorAll('[name=ids]:checked') ?? [])].map(c => c.value);

// The cursor is one row, which Tab reaches; the arrows move it.
const mark = row => {
  rows().forEach(r => { r.tabIndex = r === row ? 0 : -1; });
  row?.focus();
};
rows().forEach((row, i) => { row.tabIndex = i === 0 ? 0 : -1; });

async function look(id, row) {
  const html = await fragment(`handler=Panel&file=${id}`);
  if (html === null) return;
  panel.innerHTML = html;
  rows().forEach(r => r.toggleAttribute('aria-selected', false));
  row?.setAttribute('aria-selected', 'true');
  const here = new URL(location.href);
  here.searchParams.set('file', id);
  history.replaceState(history.state, '', here);
}

const shown = () => {
  const bar = form?.querySelector('.chosen-bar');
  if (!bar) return;
  const ids = chosen();
  bar.hidden = !ids.length;
  bar.querySelector('[data-chosen-count]').textContent = `${ids.length} chosen`;
  const all = form.querySelector('[data-all]');
  const boxes = form.querySelectorAll('[name=ids]');
  all.checked = ids.length > 0 && ids.length === boxes.length;
  all.indeterminate = ids.length > 0 && ids.length < boxes.length;
};

form?.addEventListener('change', e => {
  if (e.target.matches('[data-all]')) form.querySelectorAll('[name=ids]').forEach(c => { c.checked = e.target.checked; });
  shown();
});
form?.addEventListener('submit', e => e.preventDefault());

document.addEventListener('click', e => {
  const deed = e.target.closest('[data-deed]:not([data-of])');
  if (deed) {
    ask(deed.dataset.deed, chosen());
    return;
  }
  if (e.target.closest('[data-none]')) {
    form.querySelectorAll('[name=ids]').forEach(c => { c.checked = false; });
    shown();
  }
  for (const menu of document.querySelectorAll('.row-menu[open]')) if (!menu.contains(e.target)) menu.removeAttribute('open');
  const link = e.target.closest('[data-look]');
  if (link && !e.ctrlKey && !e.metaKey && !e.shiftKey) {
    e.preventDefault();
    mark(link.closest('[data-row]'));
    look(link.dataset.look, link.closest('[data-row]'));
  } else if (e.target.closest('td') && !e.target.closest('a, button, input, details')) mark(e.target.closest('[data-row]'));
});

document.addEventListener('keydown', e => {
  if (typing(e) || e.ctrlKey || e.metaKey || e.altKey || document.querySelector('dialog[open]')) return;
  if (e.key === 'Escape') document.querySelectorAll('.row-menu[open]').forEach(m => m.removeAttribute('open'));
  const row = document.activeElement?.closest?.('[data-row]');
  const all = rows();
  if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && !e.target.closest('.tree-plan, .beside, .row-menu[open]')) {
    e.preventDefault();
    const at = all.indexOf(row);
    mark(all[Math.max(0, Math.min(all.length - 1, at + (e.key === 'ArrowDown' ? 1 : -1)))] ?? all[0]);
    return;
  }
  if (!row || e.target.closest('a, button, summary')) return;
  const ids = chosen().length ? chosen() : row.dataset.id ? [row.dataset.id] : [];
  if (e.key === 'Enter') row.querySelector('[data-open]')?.click();
  else if (e.key === ' ') {
    const box = row.querySelector('[name=ids]');
    if (box) box.checked = !box.checked;
    shown();
  } else if (e.key === 'r' && row.dataset.kind !== 'piece' && row.dataset.id) ask('Rename', [row.dataset.id]);
  else if (e.key === 'v') ask('Move', ids);
  else if (e.key === 'Delete') ask('Delete', ids);
  else return;
  e.preventDefault();
});

// Rows are dragged onto a folder, here or in the plan; nothing is moved before it was seen what refers to it.
const folderAt = e => e.target.closest?.('[data-folder]:not(#tree)') ?? (e.target.closest?.('.folder') ? desk : null);
let dragged = [];
desk.addEventListener('dragstart', e => {
  const row = e.target.closest?.('[data-row]');
  if (!row?.dataset.id) return;
  dragged = chosen().includes(row.dataset.id) ? chosen() : [row.dataset.id];
  e.dataTransfer.setData('text/plain', row.querySelector('[data-open]')?.textContent ?? '');
  e.dataTransfer.effectAllowed = 'move';
  rows().filter(r => dragged.includes(r.dataset.id)).forEach(r => r.classList.add('dragged'));
});
desk.addEventListener('dragend', () => {
  dragged = [];
  document.querySelectorAll('.dragged, .onto').forEach(r => r.classList.remove('dragged', 'onto'));
});
desk.addEventListener('dragover', e => {
  const folder = folderAt(e);
  const isFiles = e.dataTransfer.types.includes('Files');
  document.querySelectorAll('.onto').forEach(r => r.classList.remove('onto'));
  if (!folder || (!isFiles && (!dragged.length || folder === desk))) return;
  e.preventDefault();
  (folder === desk ? desk.querySelector('.folder') : folder).classList.add('onto');
});
desk.addEventListener('drop', e => {
  const folder = folderAt(e);
  document.querySelectorAll('.onto').forEach(r => r.classList.remove('onto'));
  if (!folder) return;
  if (!e.dataTransfer.types.includes('Files')) {
    e.preventDefault();
    if (folder !== desk) ask('Move', dragged, folder.dataset.folder);
    return;
  }
  // In a working folder there are only pieces: the list of its own page says which.
  if (folder.dataset.role === 'working' && document.querySelector('[data-many]')) return;
  e.preventDefault();
  if (folder.dataset.role === 'working') {
    tell('Pieces stand there', 'Open that folder, and drop the files in it: each then shows whether it begins a piece or is the next save of one. Nothing was sent.');
    return;
  }
  const roots = [...e.dataTransfer.items].map(i => i.webkitGetAsEntry?.()).filter(Boolean);
  store({ project: desk.dataset.project, folder: folder.dataset.folder }, roots, [...e.dataTransfer.files]);
});

// What misses a folder is not opened in place of the page.
if (!document.querySelector('[data-many]')) for (const type of ['dragover', 'drop']) addEventListener(type, e => { if (e.dataTransfer.types.includes('Files')) e.preventDefault(); });

document.addEventListener('change', e => {
  const input = e.target.closest('[data-tree-input]');
  if (input?.files.length) store({ project: desk.dataset.project, folder: desk.dataset.folder }, [], [...input.files]);
  if (input) input.value = '';
});
