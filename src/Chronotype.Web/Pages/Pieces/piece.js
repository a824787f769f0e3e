// The piece screen: walking along the strip, picking A and B, wiping one picture over the other. The strip's keys work from anywhere
// on the page, and after a choice the cursor is where it was.
import { waiting } from './waiting.js';

const query = changes => {
  const params = new URLSearchParams(location.search);
  for (const [key, value] of Object.entries(changes)) params.set(key, value);
  return `?${params}`;
};
const marks = () => [...document.querySelectorAll('#strip a[aria-label]')]
  .map(a => ({ a, x: a.getBoundingClientRect().left })).sort((p, q) => p.x - q.x).map(m => m.a);

// What the page waits for says how far it is, until the page has it.
function tell() {
  for (const told of document.querySelectorAll('[data-waits]:not([data-told])')) {
    told.dataset.told = 'true';
    const before = told.textContent;
    const over = waiting(document.getElementById('piece').dataset.piece, text => {
      if (told.isConnected) told.textContent = text || before;
      else over();
    });
  }
}

// One stop for the tab key, arrows within: the newest mark is where one lands.
function ready() {
  tell();
  const all = marks();
  if (!all.some(a => a.tabIndex === 0)) all.at(-1)?.setAttribute('tabindex', '0');
  const strip = document.getElementById('strip');
  const cursor = sessionStorage.getItem('strip');
  sessionStorage.removeItem('strip');
  const at = cursor && all.find(a => a.dataset.mark === cursor);
  if (at) to(all, at);
  // A long past opens at now.
  else if (strip && !strip.querySelector('table')) strip.scrollLeft = strip.scrollWidth;
  const range = document.querySelector('.wipe-range');
  if (range && !range.dataset.ready) {
    range.dataset.ready = 'true';
    const wipe = () => range.closest('.stack')?.style.setProperty('--wipe', `${range.value}%`);
    range.addEventListener('input', wipe);
    wipe();
  }
}

function to(all, mark) {
  for (const a of all) a.tabIndex = -1;
  mark.tabIndex = 0;
  mark.focus();
  mark.scrollIntoView({ inline: 'nearest', block: 'nearest' });
}

const choose = (key, mark) => {
  sessionStorage.setItem('strip', mark);
  location.assign(query({ [key]: mark }));
};

document.addEventListener('keydown', e => {
  if (e.ctrlKey || e.metaKey || e.altKey || e.shiftKey || document.querySelector('dialog[open]')) return;
  // What takes these keys itself keeps them: fields, the wipe, the player, a table that scrolls.
  if (e.target.closest?.('input, textarea, select, audio, video, [contenteditable], #strip table, .zoomed')) return;
  const all = marks();
  if (!all.length) return;
  const at = e.target.closest?.('#strip a[aria-label]') ?? all.find(a => a.tabIndex === 0);
  const isThere = at === document.activeElement;
  const step = { ArrowLeft: -1, ArrowRight: 1, Home: -all.length, End: all.length }[e.key];
  if (step && (isThere || e.key.startsWith('Arrow'))) {
    e.preventDefault();
    // The first key brings the cursor to the strip; the next ones move it.
    to(all, isThere ? all[Math.min(all.length - 1, Math.max(0, all.indexOf(at) + step))] : at);
  } else if (at?.dataset.mark && (e.key === 'a' || e.key === 'b')) {
    e.preventDefault();
    choose(e.key, at.dataset.mark);
  }
});

document.addEventListener('click', e => {
  const at = e.target.closest('#strip a[data-mark]');
  if (!at?.dataset.mark || e.ctrlKey || e.metaKey) return;
  e.preventDefault();
  choose(e.shiftKey ? 'b' : 'a', at.dataset.mark);
});

ready();
document.addEventListener('htmx:after:swap', ready);
