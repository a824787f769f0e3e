// Notices of the browser, for whoever wants them: a piece is at risk. One window listens for all of them.
const wanted = () => localStorage.getItem('notices') === 'on' && globalThis.Notification?.permission === 'granted';
const Apart = 10 * 60 * 1000;
const shown = new Map();

function tell(event) {
  const told = JSON.parse(event.data);
  // Who looks at a page of the studio sees it there; and what others save is at their risk.
  if (!told.says || !told.isMine || !document.hidden || Date.now() - (shown.get(told.piece) ?? 0) < Apart) return;
  shown.set(told.piece, Date.now());
  const notice = new Notification(told.name, { body: `${told.says}. Keep it?`, tag: told.piece, icon: '/icon.svg' });
  notice.onclick = () => {
    window.focus();
    location.href = told.address;
  };
}

if (wanted()) {
  navigator.locks?.request('chronotype-notices', () => new Promise(() => new EventSource('/arriving').addEventListener('save', tell)));
}

// Where it is chosen, on one's own page.
const choice = document.getElementById('notices');
if (choice) {
  const say = () => {
    choice.checked = wanted();
    document.getElementById('notices-says').hidden = globalThis.Notification?.permission !== 'denied';
  };
  choice.disabled = !globalThis.Notification;
  choice.addEventListener('change', async () => {
    localStorage.setItem('notices', choice.checked ? 'on' : 'off');
    if (choice.checked && Notification.permission !== 'granted') await Notification.requestPermission();
    say();
  });
  say();
}
