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

if (location.hash === '#start') panel.open = true;
