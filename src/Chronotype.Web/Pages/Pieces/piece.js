// The piece screen: walking along the strip, picking A and B, wiping one picture over the other.
const query = changes => {
  const params = new URLSearchParams(location.search);
  for (const [key, value] of Object.entries(changes)) params.set(key, value);
  return `?${params}`;
};
const marks = () => [...document.querySelectorAll('#strip a[aria-label]')]
  .map(a => ({ a, x: a.getBoundingClientRect().left })).sort((p, q) => p.x - q.x).map(m => m.a);

// One stop for the tab key, arrows within: the newest mark is where one lands.
function ready() {
  const all = marks();
  if (!all.some(a => a.tabIndex === 0)) all.at(-1)?.setAttribute('tabindex', '0');
  const range = document.querySelector('.wipe-range');
  if (range) {
    const wipe = () => range.closest('.stack').style.setProperty('--wipe', `${range.value}%`);
    range.addEventListener('input', wipe);
    wipe();
  }
}

document.addEventListener('keydown', e => {
  const at = e.target.closest?.('#strip a[aria-label]');
  if (!at || e.ctrlKey || e.metaKey || e.altKey) return;
  const all = marks();
  const step = { ArrowLeft: -1, ArrowRight: 1, Home: -all.length, End: all.length }[e.key];
  if (step) {
    e.preventDefault();
    const to = all[Math.min(all.length - 1, Math.max(0, all.indexOf(at) + step))];
    at.tabIndex = -1;
    to.tabIndex = 0;
    to.focus();
  } else if (at.dataset.mark && (e.key === 'a' || e.key === 'b')) {
    e.preventDefault();
    location.assign(query({ [e.key]: at.dataset.mark }));
  }
});

document.addEventListener('click', e => {
  const at = e.target.closest('#strip a[data-mark]');
  if (at?.dataset.mark && e.shiftKey) {
    e.preventDefault();
    location.assign(query({ b: at.dataset.mark }));
  }
});

ready();
document.addEventListener('htmx:after:swap', ready);
