// Words and a row for what is sent, used by one file and by many. A module of its own: what listens to a page must be loaded once.
export const size = n => n < 1e3 ? `${n} bytes` : n < 1e6 ? `${Math.round(n / 1e3)} kB` : n < 1e9 ? `${(n / 1e6).toFixed(1)} MB` : `${(n / 1e9).toFixed(2)} GB`;
export const left = s => s < 60 ? `${Math.ceil(s)} s left` : `${Math.ceil(s / 60)} min left`;

export function box() {
  const element = document.createElement('section');
  element.className = 'progress';
  element.setAttribute('role', 'status');
  element.innerHTML = '<b></b><progress max="1" value="0" aria-label="Sent"></progress><div><span></span> <button type="button" class="plain"></button></div>';
  // In its own row, so that it covers nothing.
  (document.querySelector('header.top') ?? document.body.firstElementChild).after(element);
  const [title, bar, text, button] = ['b', 'progress', 'span', 'button'].map(s => element.querySelector(s));
  return { element, title, bar, text, button };
}

export function tell(title, sentence) {
  const shown = box();
  shown.element.setAttribute('role', 'alert');
  shown.title.textContent = title;
  shown.text.textContent = sentence;
  shown.bar.hidden = true;
  shown.button.textContent = 'Close';
  shown.button.onclick = () => shown.element.remove();
}
