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
