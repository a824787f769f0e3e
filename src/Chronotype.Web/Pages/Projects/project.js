// Starting a piece: the panel opens by itself when a file is dropped. Its name begins what the piece is called by, and says
// where else the file may belong.
const panel = document.getElementById('start');
const form = document.getElementById('start-piece');
const proposal = document.getElementById('proposal');
const { file } = form.elements;
const slots = [...form.elements].filter(e => e.name.startsWith('slot.'));
const first = slots.find(e => e.matches('input')) ?? slots[0];

// What a person chose, no proposal changes.
const chosen = new Set();
form.addEventListener('change', e => chosen.add(e.target.name));

document.querySelector('[data-starts]').addEventListener('click', e => {
  e.preventDefault();
  panel.open = true;
  first?.focus();
});

async function propose(name) {
  panel.open = true;
  panel.scrollIntoView({ block: 'nearest' });
  const answer = await fetch(`${location.pathname}?handler=File&file=${encodeURIComponent(name.slice(-255))}`).catch(() => null);
  if (answer?.ok) {
    proposal.innerHTML = await answer.text();
    proposal.hidden = false;
    const says = JSON.parse(proposal.querySelector('[data-slots]').dataset.slots);
    for (const slot of slots) {
      const said = says[slot.name.slice(5)];
      if (said && !chosen.has(slot.name) && (slot.matches('select') || !slot.value)) slot.value = said;
    }
  }
  // The words themselves may be the same as before, and the name another all the same.
  first?.dispatchEvent(new Event('proposed', { bubbles: true }));
  (proposal.querySelector('[formaction]') ?? first)?.focus();
}

file?.addEventListener('change', () => { if (file.files.length) propose(file.files[0].name); });
// An original's name begins what the piece is called by; which piece it may be a save of is not asked.
if (panel.dataset.from) propose(panel.dataset.from).then(() => { proposal.hidden = true; first?.focus(); });

if (location.hash === '#start') {
  panel.open = true;
  if (form.elements.start) first?.focus();
}

// Which layers or tracks of another file come along; a group's box is those of all that is in it.
const carried = document.querySelector('[data-carried]');
const boxes = [...(carried?.querySelectorAll('[data-part]') ?? [])];
const isGroup = (box) => 'group' in box.dataset;
const within = (box) => {
  const from = boxes.indexOf(box) + 1;
  const end = boxes.findIndex((b, i) => i >= from && Number(b.dataset.depth) <= Number(box.dataset.depth));
  return boxes.slice(from, end < 0 ? boxes.length : end);
};

function tally() {
  for (const group of boxes.filter(isGroup)) {
    const inner = within(group).filter((b) => !isGroup(b));
    group.checked = inner.some((b) => b.checked);
    group.indeterminate = group.checked && !inner.every((b) => b.checked);
  }
  const leaves = boxes.filter((b) => !isGroup(b));
  const chosen = leaves.filter((b) => b.checked);
  const isAll = chosen.length === leaves.length;
  carried.querySelector('[name=parts]').value = isAll ? '' : chosen.map((b) => b.dataset.part).join(',');
  carried.querySelector('[data-carried-count]').textContent = isAll ? 'all of it' : `${chosen.length} of ${leaves.length}`;
  carried.closest('form').querySelector('button:not([type=button])').disabled = chosen.length === 0;
}

if (carried) {
  carried.addEventListener('change', (event) => {
    if (isGroup(event.target)) for (const box of within(event.target)) box.checked = event.target.checked;
    tally();
  });
  // Somebody may have been quicker than this script: a group that was left out leaves out what is in it.
  for (const group of boxes.filter((b) => isGroup(b) && !b.checked)) for (const box of within(group)) box.checked = false;
  tally();
}
