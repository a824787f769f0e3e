// Looking closely: pictures are shown tile by tile, to single pixels and beyond, two of them always at one place. What the page shows
// before its tiles are cut stays until the first of them is drawn, and stays for good where none can be had.
import { waiting } from './waiting.js';

const key = () => `zoom ${location.pathname}`;
const still = matchMedia('(prefers-reduced-motion: reduce)');

const source = t => ({
  width: t.width, height: t.height, tileSize: t.side, tileOverlap: 0, minLevel: 0, maxLevel: t.top,
  getTileUrl: (level, x, y) => `${t.address}/${level}/${x}/${y}${t.query}`,
});

async function described(address) {
  if (!address) return null;
  const answer = await fetch(address, { headers: { Accept: 'application/json' } });
  const told = answer.headers.get('content-type')?.includes('json') ? await answer.json() : {};
  if (!answer.ok) throw new Error(told.error ?? 'This could not be prepared just now. Load the page again.');
  return told;
}

// The viewer writes a style of its own into the page unless it finds one, and no page here takes styles that are not its own.
function noStyle() {
  if (document.querySelector('style[data-openseadragon-mobile-css]')) return;
  // Of a namespace of its own it is found, and is no style.
  const none = document.createElementNS('urn:chronotype:none', 'style');
  none.setAttribute('data-openseadragon-mobile-css', 'true');
  document.head.append(none);
}

function viewer(element) {
  noStyle();
  const made = OpenSeadragon({
    element, drawer: 'canvas', showNavigationControl: false, animationTime: 0.25, springStiffness: 12, blendTime: 0, immediateRender: true,
    gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: true }, maxZoomPixelRatio: 32, minZoomImageRatio: 0.5,
    visibilityRatio: 0.2, zoomPerScroll: 1.3, crossOriginPolicy: false, placeholderFillStyle: null, subPixelRoundingForTransparency: 1,
  });
  // Beyond 1:1 a pixel is a square, not a blur.
  made.addHandler('zoom', () => made.drawer?.setImageSmoothingEnabled?.(scale(made) <= 1.01));
  return made;
}

// Pixels of the screen for one of the picture, in CSS pixels as the browser scales them.
const scale = v => {
  const item = v.world.getItemAt(0);
  return item ? item.viewportToImageZoom(v.viewport.getZoom(true)) * (window.devicePixelRatio || 1) : 1;
};

// The whole picture, free of the edges and of the tools that stand below.
const margin = { x: 16, top: 9, bottom: 54 };
function home(v, atOnce = false) {
  const whole = v.world.getHomeBounds();
  const size = v.viewport.getContainerSize();
  const free = { x: Math.max(1, size.x - 2 * margin.x), y: Math.max(1, size.y - margin.top - margin.bottom) };
  const unit = Math.max(whole.width / free.x, whole.height / free.y);
  const [width, height] = [size.x * unit, size.y * unit];
  const left = whole.x + whole.width / 2 - width / 2;
  const top = whole.y + whole.height / 2 - (margin.top + free.y / 2) * unit;
  v.viewport.fitBounds(new OpenSeadragon.Rect(left, top, width, height), atOnce);
}

const added = (v, tiles, width) => new Promise((done, failed) => v.addTiledImage({
  tileSource: source(tiles), width, success: e => done(e.item), error: e => failed(new Error(e.message)),
}));

const open = stage => {
  const easel = stage.closest('.easel');
  const bar = easel.querySelector('.zoom');
  const say = text => { bar.hidden = false; bar.querySelector('.told').textContent = text; };
  const { look } = stage.dataset;
  const widest = Math.max(Number(stage.dataset.aWidth) || 0, Number(stage.dataset.bWidth) || 0) || 1;
  const wide = { a: (Number(stage.dataset.aWidth) || widest) / widest, b: (Number(stage.dataset.bWidth) || widest) / widest };
  const late = setTimeout(() => say('Preparing every pixel…'), 400);
  const over = waiting(document.getElementById('piece')?.dataset.piece, text => { if (text) say(text); });

  const layer = document.createElement('div');
  layer.className = 'zoomed';
  const pane = name => {
    const element = document.createElement('div');
    element.className = 'pane';
    element.setAttribute('role', 'application');
    element.setAttribute('aria-label', `${name}: arrow keys move, plus and minus zoom`);
    layer.append(element);
    return element;
  };

  (async () => {
    const [a, b, difference] = await Promise.all([
      look === 'difference' ? null : described(stage.dataset.a),
      look === 'difference' ? null : described(stage.dataset.b),
      look === 'difference' ? described(stage.dataset.difference) : null,
    ]);
    if (!stage.isConnected) return;
    stage.append(layer);
    // A viewer measures its pane when it is made, so all panes stand before.
    const panes = look === 'side' ? [pane('A'), pane('B')] : [pane(look === 'one' ? 'The picture' : 'A and B')];
    const viewers = panes.map(viewer);
    if (look === 'side') {
      await Promise.all([added(viewers[0], a, wide.a), added(viewers[1], b, wide.b)]);
      link(viewers);
    } else if (look === 'difference') {
      await added(viewers[0], difference, 1);
      places(viewers[0], difference, bar);
    } else if (a && b) {
      await added(viewers[0], a, wide.a);
      const over = await added(viewers[0], b, wide.b);
      if (look === 'wipe') wiping(viewers[0], over, stage);
      if (look === 'blink') blinking(over, bar, easel);
    } else await added(viewers[0], b ?? a, 1);
    for (const v of viewers) {
      home(v, true);
      if (stage.dataset.layer === 'alone') edge(v);
    }
    remembered(viewers[0]);
    zooming(viewers[0], bar);
    clearTimeout(late);
    over();
    bar.hidden = false;
    const swap = () => stage.classList.add('ready');
    viewers[0].addOnceHandler('tile-drawn', () => requestAnimationFrame(swap));
    setTimeout(swap, 1500);
  })().catch(e => {
    clearTimeout(late);
    over();
    layer.remove();
    say(e.message);
    for (const button of bar.querySelectorAll('button')) button.hidden = true;
  });
};

// A layer alone says nothing of where its canvas ends.
function edge(v) {
  const frame = document.createElement('div');
  frame.className = 'edge';
  v.addOverlay({ element: frame, location: v.world.getHomeBounds() });
}

// Where one is moved or zoomed, the other goes along.
function link(viewers) {
  const near = (p, q) => Math.abs(p - q) < 1e-7;
  viewers.forEach((v, i) => v.addHandler('viewport-change', () => {
    const [zoom, center, other] = [v.viewport.getZoom(true), v.viewport.getCenter(true), viewers[1 - i].viewport];
    const there = other.getCenter(true);
    if (near(zoom, other.getZoom(true)) && near(center.x, there.x) && near(center.y, there.y)) return;
    other.zoomTo(zoom, null, true);
    other.panTo(center, true);
  }));
}

function wiping(v, over, stage) {
  const range = stage.querySelector('.wipe-range');
  const handle = stage.querySelector('.handle');
  const layer = stage.querySelector('.zoomed');
  // Both stand over the tiles from now on; who wiped already goes on.
  const wasWiping = document.activeElement === range;
  layer.append(range, handle);
  if (wasWiping) range.focus();
  range.setAttribute('aria-label', 'How much of A is shown, in percent of the view');
  const clip = () => {
    const size = v.viewport.getContainerSize();
    const at = over.viewerElementToImageCoordinates(new OpenSeadragon.Point(size.x * range.value / 100, 0)).x;
    const { x: width, y: height } = over.getContentSize();
    const from = Math.min(width, Math.max(0, at));
    // Nothing at all cannot be asked for; a sliver beyond the edge is as good.
    over.setClip(from >= width ? new OpenSeadragon.Rect(width - 0.001, 0, 0.001, height) : new OpenSeadragon.Rect(from, 0, width - from, height));
    layer.style.setProperty('--wipe', `${range.value}%`);
  };
  const to = e => {
    const box = layer.getBoundingClientRect();
    range.value = Math.min(100, Math.max(0, (e.clientX - box.left) / box.width * 100));
    clip();
  };
  // The handle is taken by itself, so that the picture under it can be moved as in any other look.
  handle.addEventListener('pointerdown', e => { handle.setPointerCapture(e.pointerId); e.preventDefault(); e.stopPropagation(); });
  handle.addEventListener('pointermove', e => { if (handle.hasPointerCapture(e.pointerId)) to(e); });
  range.addEventListener('input', clip);
  for (const moved of ['viewport-change', 'resize', 'animation']) v.addHandler(moved, clip);
  clip();
}

function blinking(over, bar, easel) {
  const button = bar.querySelector('[data-blink]');
  button.hidden = false;
  let isOver = true;
  let timer = null;
  const swap = () => {
    isOver = !isOver;
    over.setOpacity(isOver ? 1 : 0);
    easel.dataset.seen = isOver ? 'b' : 'a';
  };
  const run = on => {
    clearInterval(timer);
    timer = on ? setInterval(() => (button.isConnected ? swap() : clearInterval(timer)), 700) : null;
    button.textContent = on ? 'Pause' : 'Blink';
    button.setAttribute('aria-pressed', String(on));
  };
  easel.dataset.seen = 'b';
  button.addEventListener('click', () => run(timer === null));
  run(!still.matches);
}

// The places that differ, each in a frame, gone through one after the other.
function places(v, difference, bar) {
  const box = p => new OpenSeadragon.Rect(p.x / difference.width, p.y / difference.width, p.width / difference.width, p.height / difference.width);
  difference.places.forEach((p, i) => {
    const frame = document.createElement('div');
    frame.className = 'place';
    frame.dataset.n = i + 1;
    v.addOverlay({ element: frame, location: box(p) });
  });
  const row = bar.querySelector('.places');
  const told = row.querySelector('span');
  const many = difference.places.length;
  if (many === 0) {
    told.textContent = 'No pixel differs';
    for (const button of row.querySelectorAll('button')) button.hidden = true;
  } else told.textContent = many === 1 ? '1 place differs' : `${many} places differ`;
  row.hidden = false;
  let at = -1;
  const go = step => {
    if (many === 0) return;
    at = at < 0 && step < 0 ? many - 1 : (at + step + many) % many;
    const p = difference.places[at];
    const around = box(p);
    const room = Math.max(around.width, around.height) * 0.6;
    v.viewport.fitBounds(new OpenSeadragon.Rect(around.x - room, around.y - room, around.width + 2 * room, around.height + 2 * room));
    for (const frame of v.element.querySelectorAll('.place')) frame.classList.toggle('here', Number(frame.dataset.n) === at + 1);
    told.textContent = `Place ${at + 1} of ${many}: ${p.pixels.toLocaleString('en')} px`;
  };
  row.addEventListener('click', e => {
    const button = e.target.closest('[data-place]');
    if (button) go(Number(button.dataset.place));
  });
  row.addEventListener('step', e => go(e.detail));
}

function zooming(v, bar) {
  const told = bar.querySelector('.told');
  const tell = () => {
    const percent = scale(v) * 100;
    told.textContent = `${percent < 10 ? percent.toFixed(1) : Math.round(percent)} %`;
  };
  const one = () => v.viewport.zoomTo(v.world.getItemAt(0).imageToViewportZoom(1 / (window.devicePixelRatio || 1)));
  const to = {
    in: () => v.viewport.zoomBy(1.5), out: () => v.viewport.zoomBy(1 / 1.5), fit: () => home(v), one,
    turn: () => (Math.abs(scale(v) - 1) < 0.02 ? home(v) : one()),
  };
  bar.addEventListener('click', e => { to[e.target.closest('[data-to]')?.dataset.to]?.(); v.viewport.applyConstraints(); });
  bar.addEventListener('zoom', () => to.turn());
  for (const moved of ['zoom', 'animation', 'open']) v.addHandler(moved, tell);
  v.addHandler('animation-finish', () => sessionStorage.setItem(key(), JSON.stringify({ zoom: v.viewport.getZoom(), center: v.viewport.getCenter() })));
  tell();
}

// The same place is shown when the look changes; whoever comes later begins with the whole picture.
function remembered(v) {
  const last = performance.getEntriesByType('navigation')[0]?.type === 'navigate' && !document.referrer.includes(location.pathname)
    ? null : JSON.parse(sessionStorage.getItem(key()) ?? 'null');
  if (!last || last.zoom <= v.viewport.getZoom() * 1.05) return;
  v.viewport.zoomTo(last.zoom, null, true);
  v.viewport.panTo(new OpenSeadragon.Point(last.center.x, last.center.y), true);
}

document.addEventListener('keydown', e => {
  if (e.ctrlKey || e.metaKey || e.altKey || document.querySelector('dialog[open]')) return;
  if (e.target.closest?.('input:not([type=range]), textarea, select, [contenteditable]')) return;
  const bar = document.querySelector('.zoom:not([hidden])');
  const pressed = e.key.toLowerCase();
  if (!bar || !['z', 'd'].includes(pressed)) return;
  e.preventDefault();
  if (pressed === 'z') bar.dispatchEvent(new CustomEvent('zoom'));
  else bar.querySelector('.places').dispatchEvent(new CustomEvent('step', { detail: e.shiftKey ? -1 : 1 }));
});

function ready() {
  const stage = document.querySelector('[data-zoom]:not([data-opened])');
  if (!stage || !window.OpenSeadragon) return;
  stage.dataset.opened = 'true';
  open(stage);
}
ready();
document.addEventListener('htmx:after:swap', ready);
