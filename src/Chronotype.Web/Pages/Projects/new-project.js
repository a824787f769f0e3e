// Proposes codes from what was typed, until the person writes their own.
const form = document.getElementById('new-project');
const { Title, Code, ClientName, ClientCode } = form.elements;
const own = new Set([Code, ClientCode].filter(i => i.value));
const letters = text => text.normalize('NFKD').replace(/[^A-Za-z0-9 ]/g, '').toUpperCase();
const initials = text => letters(text).split(' ').filter(w => w && !['THE', 'OF', 'AND', 'A', 'AN', 'ABOUT', 'FOR'].includes(w)).map(w => w[0]).join('');
const longest = text => letters(text).split(' ').sort((a, b) => b.length - a.length)[0] ?? '';
const propose = (input, value) => { if (!own.has(input)) input.value = value; show(); };
const show = () => form.querySelectorAll('[data-shows]').forEach(e => { e.textContent = form.elements[e.dataset.shows].value.toUpperCase() || e.dataset.else; });

Title.addEventListener('input', () => propose(Code, longest(Title.value).slice(0, 8)));
ClientName.addEventListener('input', () => {
  const known = [...document.querySelectorAll('#clients option')].find(o => o.value === ClientName.value);
  const short = initials(ClientName.value);
  propose(ClientCode, known?.dataset.code ?? (short.length > 1 ? short : letters(ClientName.value).replaceAll(' ', '')).slice(0, 4));
});
for (const input of [Code, ClientCode]) input.addEventListener('input', () => { input.value ? own.add(input) : own.delete(input); show(); });

// The folders that the project would have: the earlier one's, or those of the plan that is chosen.
form.addEventListener('change', (event) => {
  if (event.target.name !== 'Plan' && event.target.name !== 'Folders') return;
  const shown = form.querySelector('input[type=checkbox][name=Folders]')?.checked ? '-' : form.querySelector('[name=Plan]:checked').value;
  for (const tree of form.querySelectorAll('.tree[data-plan]')) tree.classList.toggle('shown', tree.dataset.plan === shown);
});
