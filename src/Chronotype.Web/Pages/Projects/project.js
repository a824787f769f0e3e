// Starting a piece: the panel opens by itself when a file is dropped, and the file's name begins the subject.
const panel = document.getElementById('start');
const form = document.getElementById('start-piece');
const { subject, function: kind, file } = form.elements;

document.querySelector('[data-starts]').addEventListener('click', e => {
  e.preventDefault();
  panel.open = true;
  subject.focus();
});

file.addEventListener('change', async () => {
  if (!file.files.length) return;
  panel.open = true;
  panel.scrollIntoView({ block: 'nearest' });
  if (!subject.value) {
    const answer = await fetch(`${location.pathname}?handler=File&file=${encodeURIComponent(file.files[0].name.slice(-255))}`).catch(() => null);
    const says = answer?.ok ? await answer.json() : {};
    if (!subject.value) subject.value = says.subject ?? '';
    if (says.function) kind.value = says.function;
    subject.dispatchEvent(new Event('input', { bubbles: true }));
  }
  subject.focus();
});

if (location.hash === '#start') panel.open = true;
