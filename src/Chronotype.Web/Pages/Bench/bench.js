// Saves arrive all day: the bench follows them, and takes nothing away from whoever is choosing something.
let source = null;
let due = null;

async function follow() {
  due = null;
  if (document.hidden || document.activeElement?.matches('select, input') || document.querySelector('dialog[open]')) return;
  const page = await fetch(location.href, { headers: { Accept: 'text/html' } }).then(r => r.text()).catch(() => '');
  const fresh = new DOMParser().parseFromString(page, 'text/html');
  const [now, then] = [fresh.getElementById('bench'), document.getElementById('bench')];
  if (!now || !then) return;
  const at = document.activeElement?.closest('a[href], button[value]');
  const key = at && (at.getAttribute('href') ?? at.value);
  then.replaceWith(now);
  document.title = fresh.title;
  if (key) [...now.querySelectorAll('a[href], button[value]')].find(e => (e.getAttribute('href') ?? e.value) === key)?.focus();
}

function listen() {
  source?.close();
  source = null;
  // A browser holds only few connections to one address: a page that nobody looks at needs none.
  if (document.hidden) return;
  source = new EventSource('/arriving');
  source.addEventListener('save', () => { due ??= setTimeout(follow, 1000); });
}

document.addEventListener('visibilitychange', () => {
  listen();
  follow();
});
addEventListener('pagehide', () => source?.close());
listen();
