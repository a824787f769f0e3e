// Editing the slots: Alt with an arrow moves the slot that holds the cursor, a card can be dragged by its bar, and every step can
// be taken back. All of it ends in the same request as the buttons do.
const steps = [];
const draft = () => document.getElementById('draft');
let waiting = null;

const send = (field, value) => {
  const form = draft();
  form.elements[field].forEach?.(e => { if (e.type === 'hidden') e.value = value; });
  if (!form.elements[field].forEach) form.elements[field].value = value;
  form.dispatchEvent(new Event('redraft', { bubbles: true }));
};

// What stood before a request can be taken back once its answer is there.
document.addEventListener('htmx:before:request', e => {
  if (e.target.closest?.('#draft')) waiting = draft().dataset.json;
});
document.addEventListener('htmx:after:swap', () => {
  const form = draft();
  if (!form) return;
  if (waiting && waiting !== form.dataset.json && !taking) steps.push(waiting);
  taking = false;
  waiting = null;
  for (const field of form.querySelectorAll('input[type=hidden][name=op], input[type=hidden][name=load]')) field.value = '';
  // Lists and ticks show what the answer says; a morph leaves them as they were last touched.
  for (const select of form.querySelectorAll('select')) select.selectedIndex = Math.max(0, [...select.options].findIndex(o => o.hasAttribute('selected')));
  for (const tick of form.querySelectorAll('input[type=checkbox]')) tick.checked = tick.hasAttribute('checked');
  const undo = form.querySelector('[data-undo]');
  undo.hidden = steps.length === 0;
  if (focusSlot !== null) {
    form.querySelector(`[data-slot="${focusSlot}"] input`)?.focus();
    focusSlot = null;
  }
});

let taking = false;
let focusSlot = null;

document.addEventListener('click', e => {
  if (!e.target.closest('[data-undo]') || steps.length === 0) return;
  taking = true;
  send('load', steps.pop());
});

document.addEventListener('keydown', e => {
  const card = e.target.closest?.('[data-slot]');
  if (!card || !e.altKey || (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight')) return;
  e.preventDefault();
  const from = Number(card.dataset.slot);
  const to = from + (e.key === 'ArrowLeft' ? -1 : 1);
  if (to < 0 || !draft().querySelector(`[data-slot="${to}"]`)) return;
  focusSlot = to;
  send('op', `move:${from}:${to}`);
});

let dragged = null;
document.addEventListener('dragstart', e => {
  const card = e.target.closest?.('.slot-card');
  if (!card) return;
  dragged = card.dataset.slot;
  e.dataTransfer.effectAllowed = 'move';
  e.dataTransfer.setData('text/plain', dragged);
});
document.addEventListener('dragover', e => {
  const card = dragged !== null && e.target.closest?.('.slot-card');
  for (const other of document.querySelectorAll('.slot-card.over')) if (other !== card) other.classList.remove('over');
  if (!card) return;
  e.preventDefault();
  card.classList.add('over');
});
document.addEventListener('drop', e => {
  const card = dragged !== null && e.target.closest?.('.slot-card');
  if (!card) return;
  e.preventDefault();
  if (card.dataset.slot !== dragged) send('op', `move:${dragged}:${card.dataset.slot}`);
  dragged = null;
});
document.addEventListener('dragend', () => {
  dragged = null;
  document.querySelector('.slot-card.over')?.classList.remove('over');
});
