// Shows saves as they arrive from the share or from somebody else, without taking anything away from whoever is typing or sending.
import { isSending } from '../Shared/sending.js';

const piece = document.getElementById('piece');
const bar = document.getElementById('arrived');
let source = null;
let fresh = false;

const isBusy = () => {
  const at = document.activeElement;
  const isTyping = at && (at.matches('textarea, select') || (at.matches('input') && !['checkbox', 'radio', 'button', 'submit'].includes(at.type)));
  return isTyping || isSending() || [...document.querySelectorAll('audio, video')].some(m => !m.paused) || document.querySelector('dialog[open]');
};

// What is looked at may be chosen by the address: then it stays that, and the news is only told.
const isNewestShown = () => !new URLSearchParams(location.search).has('b');

function show() {
  if (!fresh || document.hidden) return;
  if (!isBusy() && isNewestShown()) location.reload();
  else bar.replaceWith(bar.content);
}

function listen() {
  source?.close();
  source = null;
  // A browser holds only few connections to one address: a page that nobody looks at needs none.
  if (document.hidden) return;
  source = new EventSource(`/pieces/${piece.dataset.piece}/arriving`);
  if (piece.dataset.coming === 'true') source.addEventListener('open', look);
  source.addEventListener('save', told => {
    // Of what is shown already only its number, or the question about it, is news.
    const [save, isDecided] = told.data.split('/');
    if (save === piece.dataset.newest && !(isDecided && piece.dataset.coming === 'true')) return;
    fresh = true;
    // Whoever sent it from this page is on the way to it already.
    setTimeout(show, 1200);
  });
}

// Finds saves that came while nobody looked, or before the page began to listen.
async function look() {
  const page = await fetch(location.href, { headers: { Accept: 'text/html' } }).then(r => r.text()).catch(() => '');
  const [newest, coming] = ['newest', 'coming'].map(name => page.match(new RegExp(`data-${name}="([^"]*)"`))?.[1]);
  if (!newest || (newest === piece.dataset.newest && coming === piece.dataset.coming)) return;
  fresh = true;
  show();
}

document.addEventListener('visibilitychange', () => {
  listen();
  if (!document.hidden) look();
});
addEventListener('pagehide', () => source?.close());
listen();
