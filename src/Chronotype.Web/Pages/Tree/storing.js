// Stores files and folders in a folder of the tree: what would take the place of something says so first, several go at once, and what
// failed is listed and can be sent again alone.
import { entries } from '../Shared/dropped.js';
import { left, size, tell } from '../Shared/say.js';
import { send } from '../Shared/sending.js';

export const token = () => document.querySelector('[name=__RequestVerificationToken]').value;
const atOnce = 3;
const most = 200;
const make = (tag, className = '', text = '') => Object.assign(document.createElement(tag), { className, textContent: text });
const files = n => n === 1 ? '1 file' : `${n} files`;

/** @param place `{ project, folder, replaces, as }`: where they go; the file that the one of them is the next content of. */
export async function store(place, roots, given) {
  const { found } = await entries(roots, given);
  if (!found.length) return tell('Nothing to store', 'There was no file in it.');
  const items = found.map(f => ({
    body: f.file,
    bytes: f.file.size,
    path: place.as ?? f.path,
    name: f.path.split('/').pop(),
    address: `/tree/${encodeURIComponent(place.project)}/files`,
    fields: { folder: place.folder, within: f.path.split('/').slice(0, -1).join('/'), ...place.replaces && { replaces: place.replaces } },
  }));
  try {
    for (let from = 0; from < items.length; from += 1000) {
      const part = items.slice(from, from + 1000);
      const answer = await fetch(`/tree/${encodeURIComponent(place.project)}/before`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'X-Form-Token': token() },
        body: JSON.stringify({ folder: place.folder, replaces: place.replaces ?? null, paths: part.map(i => i.path) }),
      });
      if (!answer.ok) throw new Error(answer.status);
      (await answer.json()).files.forEach((told, i) => { part[i].told = told; });
    }
  } catch {
    return tell('No answer', 'What these files would touch could not be asked. Nothing was sent; try again.');
  }
  show(place, items);
}

function show(place, items) {
  const replaced = items.filter(i => i.told.kind === 'replaces').length;
  const dialog = make('dialog', 'many');
  dialog.setAttribute('aria-labelledby', 'storing-title');
  const title = make('h2', 'mb-1', `${files(items.length)} into ${place.folder ? `${place.folder}/` : `${place.project}/`}`);
  title.id = 'storing-title';
  const hint = make('p', 'hint mb-3', replaced ? 'Nothing is sent yet. What takes the place of something says who needs that.' : 'Each file is safe as soon as it says “stored”.');
  const list = make('div', 'many-list');
  const bar = Object.assign(make('progress', 'meter'), { max: 1, value: 0, hidden: true });
  bar.setAttribute('aria-label', 'Sent');
  const says = make('p', 'hint');
  says.setAttribute('role', 'status');
  const start = make('button', 'button', `Store ${files(items.length)}, ${size(items.reduce((n, i) => n + i.bytes, 0))}`);
  const close = make('button', 'button quiet', 'Not now');
  const foot = make('div', 'flex gap-3 items-center mt-4');
  foot.append(start, close);
  // Of very many, those that say something stand first, and the rest are a number.
  const order = [...items].sort((a, b) => (b.told.says.length > 0) - (a.told.says.length > 0));
  list.append(...order.slice(0, most).map(row));
  if (order.length > most) list.append(make('p', 'hint py-2', `and ${order.length - most} more`));
  dialog.append(title, hint, list, bar, says, foot);
  close.onclick = () => dialog.close();
  dialog.onclose = () => dialog.remove();
  const ui = { dialog, list, bar, says, start, close, hint };
  start.onclick = () => run(items, ui);
  document.body.append(dialog);
  dialog.showModal();
  if (replaced) start.focus();
  else run(items, ui);
}

function row(item) {
  item.row = make('div', 'many-row plain-row');
  const name = make('span', 'file', item.path);
  name.title = item.path;
  item.state = make('span', 'state', size(item.bytes));
  item.row.append(name, make('span', 'hint', item.told.says), item.state);
  return item.row;
}

async function run(items, ui) {
  const { dialog, list, bar, says, start, close, hint } = ui;
  const total = items.reduce((n, i) => n + i.bytes, 0) || 1;
  const begun = performance.now();
  const going = new Map();
  let stored = 0, sent = 0, isStopped = false, next = 0;
  const warn = e => e.preventDefault();
  addEventListener('beforeunload', warn);
  start.hidden = true;
  bar.hidden = false;
  hint.textContent = 'Each file is safe as soon as it says “stored”.';
  close.textContent = 'Stop';
  close.onclick = () => { isStopped = true; going.forEach((_, one) => one.abort()); };
  dialog.oncancel = e => { e.preventDefault(); close.click(); };
  const told = () => {
    const now = sent + [...going.values()].reduce((n, b) => n + b, 0);
    const seconds = (performance.now() - begun) / 1000;
    bar.value = now / total;
    says.textContent = `${stored} of ${items.length} stored, ${size(now)} of ${size(total)}${now > 0 && now < total ? `, ${left(seconds / now * (total - now))}` : ''}`;
  };
  const lane = async () => {
    while (next < items.length && !isStopped) {
      const item = items[next++];
      if (item.state) item.state.textContent = 'sending…';
      const one = send(item, { isOneOfMany: true, progress: bytes => { going.set(one, bytes); told(); } });
      going.set(one, 0);
      item.result = await one.done;
      going.delete(one);
      sent += item.bytes;
      stored += item.result.ok ? 1 : 0;
      // What failed is seen, however many were left out of the list.
      if (!item.row && !item.result.ok) list.append(row(item));
      if (item.row) {
        item.state.textContent = item.result.ok ? 'stored' : 'not stored';
        item.row.classList.toggle('bad', !item.result.ok);
        const says = item.result.ok ? (item.told.kind === 'new' ? '' : item.result.said) : item.result.error;
        if (says) item.row.children[1].textContent = says;
        if (!item.result.ok) item.row.scrollIntoView({ block: 'nearest' });
      }
      told();
    }
  };
  await Promise.all(Array.from({ length: atOnce }, lane));
  removeEventListener('beforeunload', warn);
  const failed = items.filter(i => !i.result?.ok);
  says.textContent = `${stored} of ${items.length} stored.${failed.length ? ` ${files(failed.length)} ${failed.length === 1 ? 'was' : 'were'} not, and ${failed.length === 1 ? 'is' : 'are'} still where ${failed.length === 1 ? 'it was' : 'they were'} on your disk.` : ''}`;
  bar.hidden = true;
  dialog.oncancel = null;
  close.textContent = 'Done';
  ui.any ||= stored > 0;
  close.onclick = () => dialog.close();
  dialog.onclose = () => {
    dialog.remove();
    if (ui.any) location.assign(items.length === 1 && items[0].result?.location ? items[0].result.location : location.href);
  };
  if (failed.length) {
    start.hidden = false;
    start.textContent = `Send ${files(failed.length)} again`;
    start.onclick = () => run(failed, ui);
  } else if (!items.some(i => i.told.says)) {
    // Nothing in it that anybody has to read.
    dialog.close();
    return;
  }
  close.focus();
}
