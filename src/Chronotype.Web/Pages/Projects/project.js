// Starting a piece: the panel opens by itself when a file is dropped, and the file's name begins the subject.
const panel = document.getElementById('start');
const form = document.getElementById('start-piece');
const { subject, file } = form.elements;

document.querySelector('[data-starts]').addEventListener('click', e => {
  e.preventDefault();
  panel.open = true;
  subject.focus();
});

file.addEventListener('change', () => {
  if (!file.files.length) return;
  panel.open = true;
  panel.scrollIntoView({ block: 'nearest' });
  if (!subject.value) {
    subject.value = file.files[0].name.replace(/\.[A-Za-z0-9]{1,16}$/, '').slice(0, 400);
    subject.dispatchEvent(new Event('input', { bubbles: true }));
  }
  subject.focus();
});

if (location.hash === '#start') panel.open = true;
