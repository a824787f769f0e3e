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
carried?.addEventListener('change', (event) => {
  const boxes = [...carried.querySelectorAll('[data-part]')];
  const at = boxes.indexOf(event.target);
  const depth = (box) => Number(box.dataset.depth);
  if ('group' in event.target.dataset) {
    for (let i = at + 1; i < boxes.length && depth(boxes[i]) > depth(boxes[at]); i++) boxes[i].checked = boxes[at].checked;
  }
  for (let i = boxes.length - 1; i >= 0; i--) {
    if (!('group' in boxes[i].dataset)) continue;
    const inner = [];
    for (let k = i + 1; k < boxes.length && depth(boxes[k]) > depth(boxes[i]); k++) if (!('group' in boxes[k].dataset)) inner.push(boxes[k]);
    boxes[i].checked = inner.some((b) => b.checked);
    boxes[i].indeterminate = boxes[i].checked && !inner.every((b) => b.checked);
  }
  const leaves = boxes.filter((b) => !('group' in b.dataset));
  const chosen = leaves.filter((b) => b.checked);
  carried.querySelector('[name=parts]').value = chosen.length === leaves.length ? '' : chosen.map((b) => b.dataset.part).join(',');
  carried.querySelector('[data-carried-count]').textContent = chosen.length === leaves.length ? 'all of it' : `${chosen.length} of ${leaves.length}`;
  carried.closest('form').querySelector('button:not([type=button])').disabled = chosen.length === 0;
});
