// The web by keyboard: up and down within a rank, left and right to the nearest box of the next; Enter opens what is under the cursor.
const nodes = () => [...document.querySelectorAll('.web .node')];
const middle = node => { const box = node.getBBox(); return { x: box.x, y: box.y + box.height / 2 }; };

document.querySelector('.web')?.addEventListener('keydown', e => {
  const here = document.activeElement?.closest?.('.node');
  if (!here || !e.key.startsWith('Arrow')) return;
  e.preventDefault();
  const at = middle(here), rank = +here.dataset.rank;
  const step = { ArrowLeft: -1, ArrowRight: 1 }[e.key] ?? 0;
  let candidates = [];
  if (step) for (let r = rank + step; r >= 0 && r < 4 && !candidates.length; r += step) candidates = nodes().filter(k => +k.dataset.rank === r);
  else candidates = nodes().filter(k => +k.dataset.rank === rank && (e.key === 'ArrowDown' ? middle(k).y > at.y : middle(k).y < at.y));
  candidates.sort((a, b) => Math.abs(middle(a).y - at.y) - Math.abs(middle(b).y - at.y));
  candidates[0]?.focus();
});

// Where one was is where one goes on.
document.querySelector('.web .chosen')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
