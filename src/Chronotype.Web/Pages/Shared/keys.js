// Keys that press what is on the screen. None fires while typing.
const typing = e => e.target.closest?.('input:not([type=range]), textarea, select, [contenteditable]');

document.addEventListener('keydown', e => {
  if (typing(e) || e.ctrlKey || e.metaKey || e.altKey) return;
  if (document.querySelector('dialog[open]') && e.key !== 'Escape') return;
  const press = document.querySelector(`[data-key="${CSS.escape(e.key.toLowerCase())}"]`);
  if (press && !press.disabled) {
    e.preventDefault();
    press.click();
  } else if (e.key === '?') {
    document.getElementById('keys').showModal();
  }
});

// A form of choices shows what is chosen at once.
document.addEventListener('change', e => e.target.closest('form[data-at-once]')?.requestSubmit());

document.addEventListener('click', e => {
  if (e.target.closest('[data-keys]')) document.getElementById('keys').showModal();
  const opener = e.target.closest('[data-opens]');
  const dialog = opener && document.getElementById(opener.dataset.opens);
  if (dialog) {
    e.preventDefault();
    dialog.showModal();
  }
  const closer = e.target.closest('[data-closes]');
  if (closer) {
    e.preventDefault();
    closer.closest('dialog').close();
  }
});

// The address is that of what is shown now, so that reloading shows it again.
document.addEventListener('htmx:after:swap', () => {
  const shown = document.querySelector('[data-address]');
  if (shown) history.replaceState(history.state, '', shown.dataset.address);
});

// After a choice or a move the cursor is where it was: on the same thing, or on the next of its kind.
document.addEventListener('click', e => {
  const stays = e.target.closest('[data-stay]');
  if (stays) sessionStorage.setItem('stay', stays.dataset.stay);
});
const stay = sessionStorage.getItem('stay');
sessionStorage.removeItem('stay');
if (stay) {
  const there = document.querySelector(`[data-stay="${CSS.escape(stay)}"]`) ?? document.querySelector('.said');
  if (there?.matches('.said')) there.tabIndex = -1;
  there?.focus();
}

// Keeping on the piece's own page takes the button away; what was said of it is where one goes on from.
let isKept = false;
document.addEventListener('submit', e => { isKept = e.target.matches('#piece #keep'); });
document.addEventListener('htmx:after:swap', () => {
  if (!isKept || document.querySelector('#keep button:disabled')) return;
  isKept = false;
  if (document.activeElement && document.activeElement !== document.body) return;
  const said = document.querySelector('[data-key="k"]') ?? document.querySelector('.said');
  if (!said) return;
  if (said.matches('.said')) said.tabIndex = -1;
  said.focus();
});
