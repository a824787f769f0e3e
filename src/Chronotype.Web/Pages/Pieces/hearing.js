// Listening closely: two sounds on one time axis, as closely as single samples, played from one place and switched between without a gap.
// What the page shows before stays where a sound cannot be prepared.
import { Lined, Sound } from './hearing-data.js';
import { clock, Drawing } from './hearing-draw.js';
import { Players } from './hearing-play.js';
import { waiting } from './waiting.js';

const number = text => (text === undefined || text === '' ? null : Number(text));
let current = null;

async function open(stage) {
  const easel = stage.closest('.easel');
  const bar = easel.querySelector('.listen');
  const said = bar.querySelector('.said');
  const lined = new Lined(stage.dataset.lined ? JSON.parse(stage.dataset.lined) : null);
  const elements = {};
  for (const audio of easel.querySelectorAll('.player audio')) elements[audio.dataset.of] = audio;
  const players = new Players(elements, lined, { a: number(stage.dataset.aLoudness), b: number(stage.dataset.bLoudness) });
  const longest = Math.max(number(stage.dataset.aSeconds) ?? 0, number(stage.dataset.bSeconds) ?? 0, 0.001);
  const view = { from: 0, span: longest, shift: 0 };
  let looks = 'wave';
  let isDue = false;

  const draw = () => {
    if (isDue || !stage.isConnected) return;
    isDue = true;
    requestAnimationFrame(() => {
      isDue = false;
      if (drawing) drawing.draw(sounds, lined, looks, { ...players.places(), ear: players.ear, isPlaying: players.isPlaying });
      tell();
    });
  };
  const tell = () => { bar.querySelector('.clock').textContent = `${clock(players.at)} of ${clock(players.heard.duration || longest)}`; };

  const sounds = {};
  let drawing = null;
  bar.hidden = false;
  const stop = waiting(stage.dataset.piece, text => { said.textContent = text; });
  try {
    await Promise.all(['a', 'b'].filter(name => stage.dataset[name]).map(async name => {
      const sound = new Sound(stage.dataset[name], draw);
      sound.name = stage.dataset[`${name}Name`];
      sounds[name] = await sound.describe();
    }));
  } catch (e) {
    stop();
    said.textContent = e.message;
  }
  stop();
  if (!stage.isConnected) return;
  const isDrawn = sounds.b && (!stage.dataset.a || sounds.a);
  if (isDrawn) {
    const canvas = document.createElement('canvas');
    canvas.tabIndex = 0;
    canvas.setAttribute('role', 'application');
    canvas.setAttribute('aria-label', 'The sound over its time: arrow keys move, plus and minus zoom, Enter plays from the middle');
    stage.append(canvas);
    drawing = new Drawing(canvas, view);
    stage.classList.add('heard');
    new ResizeObserver(draw).observe(canvas);
    handle(canvas);
  } else for (const button of bar.querySelectorAll('[data-view], [data-to]')) button.disabled = true;
  easel.querySelector('.player').hidden = true;

  // The closer one looks, the more the earlier is moved along, so that the same stands above the same.
  function settle() {
    view.span = Math.min(longest, Math.max(view.span, 16 / (sounds.b?.rate ?? 48000)));
    view.from = Math.min(longest - view.span, Math.max(0, view.from));
    const middle = view.from + view.span / 2;
    const along = Math.min(1, Math.max(0, (longest - view.span) / (longest / 2)));
    view.shift = (lined.earlier(middle).at - middle) * along;
    draw();
  }
  function zoom(times, around = view.from + view.span / 2) {
    const part = (around - view.from) / view.span;
    view.span = Math.min(longest, Math.max(view.span / times, 16 / (sounds.b?.rate ?? 48000)));
    view.from = around - part * view.span;
    settle();
  }
  const to = { in: () => zoom(2, near()), out: () => zoom(0.5), fit: () => { view.from = 0; view.span = longest; settle(); } };
  // Closer to where it is played, if that is in sight.
  const near = () => {
    const { b } = players.places();
    return b > view.from && b < view.from + view.span ? b : view.from + view.span / 2;
  };

  function handle(canvas) {
    const moment = e => Math.max(0, drawing.moment(e.clientX - canvas.getBoundingClientRect().left));
    let held = null;
    canvas.addEventListener('wheel', e => {
      e.preventDefault();
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) { view.from += ((e.deltaX || e.deltaY) / canvas.clientWidth) * view.span; settle(); } else zoom(e.deltaY < 0 ? 1.25 : 0.8, moment(e));
    }, { passive: false });
    canvas.addEventListener('pointerdown', e => { held = { x: e.clientX, from: view.from, isMoved: false }; canvas.setPointerCapture(e.pointerId); });
    canvas.addEventListener('pointermove', e => {
      if (!held) return;
      if (Math.abs(e.clientX - held.x) > 3) held.isMoved = true;
      if (!held.isMoved || looks === 'spectrum') return;
      view.from = held.from - ((e.clientX - held.x) / canvas.clientWidth) * view.span;
      settle();
    });
    canvas.addEventListener('pointerup', e => {
      if (held && !held.isMoved && looks !== 'spectrum') { players.seek(moment(e)); draw(); }
      held = null;
    });
    canvas.addEventListener('dblclick', e => zoom(4, moment(e)));
    canvas.addEventListener('keydown', e => {
      const keys = {
        ArrowLeft: () => { view.from -= view.span / 8; settle(); }, ArrowRight: () => { view.from += view.span / 8; settle(); },
        '+': to.in, '=': to.in, '-': to.out, 0: to.fit, Enter: () => { players.seek(view.from + view.span / 2); play(true); },
      };
      if (!keys[e.key] || e.ctrlKey || e.metaKey || e.altKey) return;
      e.preventDefault();
      e.stopPropagation();
      keys[e.key]();
    });
  }

  async function play(on = !players.isPlaying) {
    try {
      if (on) await players.play();
      else players.pause();
      said.textContent = '';
    } catch {
      said.textContent = 'This browser does not play it. Download it to hear it.';
    }
    show();
    if (players.isPlaying) run();
  }
  function run() {
    if (!stage.isConnected) return players.pause();
    players.follow();
    const { b } = players.places();
    // It pages on with what is played.
    if (b > view.from + view.span && view.span < longest) { view.from = b - view.span * 0.1; settle(); }
    draw();
    if (players.isPlaying) requestAnimationFrame(run);
    else show();
  }
  async function hear(ear) {
    if (ear === 'difference' && !elements.difference) {
      said.textContent = 'Taking A from B…';
      const over = waiting(stage.dataset.piece, text => { said.textContent = text; });
      const id = address => address.slice(address.lastIndexOf('/') + 1);
      const audio = new Audio(`${stage.dataset.b}/against/${id(stage.dataset.a)}/sound`);
      audio.preload = 'auto';
      const isThere = await new Promise(done => { audio.addEventListener('loadedmetadata', () => done(true)); audio.addEventListener('error', () => done(false)); });
      over();
      said.textContent = isThere ? '' : 'The difference could not be made just now. Try it again.';
      if (!isThere || !stage.isConnected) return;
      elements.difference = audio;
      audio.addEventListener('ended', () => { if (players.ear === 'difference') { players.pause(); show(); } });
    }
    await players.hear(ear);
    show();
  }
  function show() {
    const button = bar.querySelector('[data-play]');
    button.textContent = players.isPlaying ? '❚❚ Pause' : '▶ Play';
    button.setAttribute('aria-pressed', String(players.isPlaying));
    for (const one of bar.querySelectorAll('[data-ear]')) one.setAttribute('aria-pressed', String(one.dataset.ear === players.ear));
    for (const one of bar.querySelectorAll('[data-view]')) one.setAttribute('aria-pressed', String(one.dataset.view === looks));
    bar.querySelector('[data-equal]')?.setAttribute('aria-pressed', String(players.isEqual));
    easel.dataset.sound = looks;
    draw();
  }
  const equal = () => { players.isEqual = !players.isEqual; players.apply(); show(); };
  bar.addEventListener('click', e => {
    const { play: plays, ear, view: look, to: where, equal: equals } = e.target.closest('button')?.dataset ?? {};
    if (plays !== undefined) play();
    else if (ear) hear(ear);
    else if (equals !== undefined) equal();
    else if (look) { looks = look; show(); } else if (where) to[where]();
  });
  current = { stage, play: () => play(), turn: () => elements.a && hear(players.ear === 'a' ? 'b' : 'a'), equal: () => elements.a && equal(), players, view };
  stage.hearing = current;
  settle();
  show();
}

document.addEventListener('keydown', e => {
  if (!current?.stage.isConnected || e.ctrlKey || e.metaKey || e.altKey || e.shiftKey || document.querySelector('dialog[open]')) return;
  if (e.target.closest?.('input, textarea, select, audio, button, a, summary, [contenteditable]') && e.key === ' ') return;
  if (e.target.closest?.('input, textarea, select, [contenteditable]')) return;
  const deed = { ' ': 'play', x: 'turn', e: 'equal' }[e.key.toLowerCase()];
  if (!deed) return;
  e.preventDefault();
  current[deed]();
});

function ready() {
  const stage = document.querySelector('[data-hear]:not([data-opened])');
  if (!stage) return;
  stage.dataset.opened = 'true';
  open(stage);
}
ready();
document.addEventListener('htmx:after:swap', ready);
