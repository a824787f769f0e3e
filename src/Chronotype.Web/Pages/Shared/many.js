// Several files and whole folders at once: each shows where it will go before anything is sent, then all are sent one after another
// with one progress and one result. A single file keeps to the form of its page, where there is one.
import { chosen, entries } from './dropped.js';
import { left, size, tell } from './say.js';
import { send } from './sending.js';

const place = document.querySelector('[data-many]');
const token = () => document.querySelector('[name=__RequestVerificationToken]').value;
const make = (tag, className = '', text = '') => Object.assign(document.createElement(tag), { className, textContent: text });

async function ask(names) {
  const answer = await fetch('/place', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', 'X-Form-Token': token() },
    body: JSON.stringify({ project: place.dataset.project || null, piece: place.dataset.piece || null, files: names }),
  });
  if (!answer.ok) throw new Error(answer.status);
  return (await answer.json()).files;
}

// The oldest first, so that numbers follow the time in which the work was saved.
const byTime = (a, b) => a.file.lastModified - b.file.lastModified || a.path.localeCompare(b.path, undefined, { numeric: true });

export async function open({ found, folder }) {
  if (!found.length) return tell('Nothing to store', 'There was no file in it.');
  found.sort(byTime);
  const items = found.map(f => ({ ...f, name: f.file.name, bytes: f.file.size }));
  const asOne = folder && { found, path: `${folder}.zip`, name: `${folder}.zip`, bytes: items.reduce((n, i) => n + i.bytes, 0), isFolder: true };
  try {
    // In parts: a folder may hold very many.
    for (let from = 0; from < items.length; from += 500) {
      const part = items.slice(from, from + 500);
      (await ask(part.map(i => i.name))).forEach((choices, i) => { part[i].choices = choices; });
    }
    if (asOne) [asOne.choices] = await ask([asOne.name]);
  } catch {
    return tell('No answer', 'Where these files belong could not be asked. Nothing was sent; try again.');
  }
  show(items, asOne);
}

// The second file of a new piece is its next save.
function settle(items) {
  const made = new Set();
  for (const item of items) {
    const at = item.choices[item.pick];
    item.target = at && (made.has(at.piece + at.savesAddress) ? { ...at, address: at.savesAddress, slots: {}, says: `the next save of ${at.piece}` } : at);
    if (at) made.add(at.piece + at.savesAddress);
  }
}

function show(items, asOne) {
  const dialog = make('dialog', 'many');
  dialog.setAttribute('aria-labelledby', 'many-title');
  const title = make('h2', 'mb-1');
  title.id = 'many-title';
  const hint = make('p', 'hint mb-3', 'Nothing is sent yet. Each file shows where it will go; choose another place, or leave it out.');
  const list = make('div', 'many-list');
  const bar = Object.assign(make('progress', 'meter'), { max: 1, value: 0, hidden: true });
  bar.setAttribute('aria-label', 'Sent');
  const says = make('p', 'hint');
  says.setAttribute('role', 'status');
  const start = make('button', 'button');
  const close = make('button', 'button quiet', 'Not now');
  const foot = make('div', 'flex gap-3 items-center mt-4');
  foot.append(start, close);
  let now = asOne && place.dataset.piece ? [asOne] : items;

  const name = () => {
    const going = now.filter(i => i.target);
    start.textContent = `Store ${going.length === 1 ? '1 file' : `${going.length} files`}, ${size(going.reduce((n, i) => n + i.bytes, 0))}`;
    start.disabled = going.length === 0;
    title.textContent = now === items ? `${items.length === 1 ? '1 file' : `${items.length} files`}` : asOne.path.slice(0, -4);
  };
  const draw = () => {
    list.replaceChildren(...now.map(item => {
      const row = make('div', 'many-row');
      const file = make('span', 'file', item.isFolder ? `${item.path.slice(0, -4)}/` : item.path);
      file.title = item.path;
      const pick = make('select', 'input small');
      pick.setAttribute('aria-label', `Where ${item.name} goes`);
      item.choices.forEach((c, i) => pick.append(new Option(c.says + (c.why ? `: ${c.why}` : ''), i)));
      pick.append(new Option('nowhere: leave it out', -1));
      item.pick ??= item.choices.length ? 0 : -1;
      pick.value = item.pick;
      pick.onchange = () => { item.pick = +pick.value; settle(now); draw(); };
      if (item.target && item.pick >= 0) pick.options[item.pick].textContent = item.target.says + (item.target.why ? `: ${item.target.why}` : '');
      item.row = row;
      item.state = make('span', 'state', size(item.bytes));
      row.append(file, pick, item.state);
      return row;
    }));
    name();
  };
  if (asOne) {
    const both = make('p', 'flex gap-4 mb-3');
    for (const [which, text] of [[[asOne], `the folder as one save, with its ${items.length} files`], [items, 'each file for itself']]) {
      const label = make('label');
      const radio = Object.assign(make('input'), { type: 'radio', name: 'many-how', checked: which === now || (which[0] === asOne && now[0] === asOne) });
      radio.onchange = () => { now = which; now.forEach(i => { i.pick ??= 0; }); settle(now); draw(); };
      label.append(radio, ` ${text}`);
      both.append(label);
    }
    hint.after(both);
    dialog.append(title, hint, both, list, bar, says, foot);
  } else dialog.append(title, hint, list, bar, says, foot);
  now.forEach(i => { i.pick = i.choices.length ? 0 : -1; });
  items.forEach(i => { i.pick ??= i.choices.length ? 0 : -1; });
  settle(now);
  draw();
  close.onclick = () => dialog.close();
  dialog.onclose = () => dialog.remove();
  start.onclick = () => run(now.filter(i => i.target), { dialog, list, bar, says, start, close, hint });
  document.body.append(dialog);
  dialog.showModal();
}

async function run(items, { dialog, list, bar, says, start, close, hint }) {
  const total = items.reduce((n, i) => n + i.bytes, 0) || 1;
  const begun = performance.now();
  let done = 0, current = null, stopped = false;
  const warn = e => e.preventDefault();
  addEventListener('beforeunload', warn);
  start.hidden = true;
  bar.hidden = false;
  hint.textContent = 'Each file is safe as soon as it says “stored”.';
  dialog.querySelectorAll('select, input').forEach(e => { e.disabled = true; });
  close.textContent = 'Stop after this file';
  close.onclick = () => { stopped = true; current?.abort(); };
  dialog.oncancel = e => { e.preventDefault(); close.click(); };
  const tellOf = sent => {
    const seconds = (performance.now() - begun) / 1000;
    bar.value = (done + sent) / total;
    says.textContent = `${size(done + sent)} of ${size(total)}${done + sent > 0 ? `, ${left(seconds / (done + sent) * (total - done - sent))}` : ''}`;
  };
  for (const item of items) {
    if (stopped) { item.state.textContent = 'not sent'; continue; }
    item.row.scrollIntoView({ block: 'nearest' });
    item.state.textContent = 'sending…';
    let body = item.file;
    if (item.isFolder) {
      const { downloadZip } = await import('/js/client-zip.js');
      body = await downloadZip(item.found.map(f => ({ name: f.path, input: f.file, lastModified: f.file.lastModified }))).blob();
    }
    current = send({ body, name: item.name, address: item.target.address, fields: item.target.slots }, { isOneOfMany: true, progress: (sent, all) => tellOf(item.bytes * sent / all) });
    item.result = await current.done;
    done += item.bytes;
    tellOf(0);
    item.state.textContent = item.result.ok ? 'stored' : 'not stored';
    item.row.classList.toggle('bad', !item.result.ok);
    const said = item.result.ok ? item.result.said : item.result.error;
    if (said) item.row.append(make('p', item.result.ok ? 'hint' : 'fault', said));
  }
  removeEventListener('beforeunload', warn);
  const stored = items.filter(i => i.result?.ok), failed = items.filter(i => !i.result?.ok);
  const pieces = new Set(stored.map(i => i.target.piece));
  says.textContent = `${stored.length} of ${items.length} stored, in ${pieces.size === 1 ? '1 piece' : `${pieces.size} pieces`}.`
    + (failed.length ? ' What was not is still where it was on your disk; send it again when you like.' : '');
  bar.hidden = true;
  dialog.oncancel = null;
  close.textContent = 'Done';
  close.classList.remove('quiet');
  close.onclick = () => {
    // To the one piece that all of it came to, else the page as it is now.
    if (pieces.size === 1 && stored[0].result.location) location.assign(stored[0].result.location);
    else if (stored.length) location.reload();
    else dialog.close();
  };
  dialog.onclose = () => { dialog.remove(); if (stored.length) location.reload(); };
  if (failed.length) {
    start.hidden = false;
    start.disabled = false;
    start.textContent = `Send ${failed.length === 1 ? '1 file' : `${failed.length} files`} again`;
    start.onclick = () => run(failed, { dialog, list, bar, says, start, close, hint });
  }
  close.focus();
}

document.addEventListener('change', e => {
  const input = e.target.closest('input[type=file][data-many-input]');
  if (!input?.files.length) return;
  const some = chosen(input.files);
  input.value = '';
  open(some);
});

/** Takes a drop when it is more than one file, or when the page has no form for one. */
export async function drop(roots, files) {
  open(await entries(roots, files));
}
