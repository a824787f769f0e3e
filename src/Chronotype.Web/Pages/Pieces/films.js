// Two films go along with one another: what is done to one is done to the other, and only the later is heard.
function ready() {
  const stage = document.querySelector('[data-films]:not([data-opened])');
  if (!stage) return;
  stage.dataset.opened = 'true';
  const [a, b] = stage.querySelectorAll('video');
  if (!b) return;
  a.muted = true;
  for (const [one, other] of [[a, b], [b, a]]) {
    const along = () => { if (Math.abs(one.currentTime - other.currentTime) > 0.15 && one.currentTime <= other.duration) other.currentTime = one.currentTime; };
    one.addEventListener('play', () => { along(); if (other.paused && !other.ended) other.play().catch(() => {}); });
    one.addEventListener('pause', () => { if (!one.ended && !other.paused) other.pause(); });
    one.addEventListener('seeked', () => { if (one.matches(':hover, :focus')) along(); });
  }
}
ready();
document.addEventListener('htmx:after:swap', ready);
