// Layered pictures (OpenRaster): layers are painted on, added, hidden, and made into one.
import { strFromU8, strToU8, unzipSync, zipSync } from '../fflate.js';

const png = canvas => new Promise((done, fail) => canvas.toBlob(b => b ? b.arrayBuffer().then(a => done(new Uint8Array(a))) : fail(new Error('No picture came of it.')), 'image/png'));
const canvasOf = (width, height) => Object.assign(document.createElement('canvas'), { width, height });

export class LayeredPicture {
  static async open(bytes) {
    const picture = new LayeredPicture();
    picture.files = unzipSync(bytes);
    picture.stack = new DOMParser().parseFromString(strFromU8(picture.files['stack.xml']), 'application/xml');
    const image = picture.stack.documentElement;
    [picture.width, picture.height] = ['w', 'h'].map(a => Number(image.getAttribute(a)));
    picture.layers = [];
    for (const element of picture.stack.querySelectorAll('layer')) {
      const src = element.getAttribute('src');
      const drawn = await createImageBitmap(new Blob([picture.files[src]], { type: 'image/png' }));
      const canvas = canvasOf(drawn.width, drawn.height);
      canvas.getContext('2d').drawImage(drawn, 0, 0);
      picture.layers.push({ element, src, canvas, isPainted: false });
    }
    picture.chosen = 0;
    return picture;
  }

  name(layer) {
    return layer.element.getAttribute('name') || layer.src;
  }

  isHidden(layer) {
    for (let e = layer.element; e && e.nodeName !== 'image'; e = e.parentElement) if (e.getAttribute('visibility') === 'hidden') return true;
    return false;
  }

  at(layer) {
    let [x, y] = [0, 0];
    for (let e = layer.element; e && e.nodeName !== 'image'; e = e.parentElement) {
      x += Number(e.getAttribute('x') || 0);
      y += Number(e.getAttribute('y') || 0);
    }
    return [x, y];
  }

  // From the bottom to the top; the stack lists the topmost first.
  drawOn(context) {
    context.clearRect(0, 0, this.width, this.height);
    for (const layer of [...this.layers].reverse()) {
      if (this.isHidden(layer)) continue;
      const mode = (layer.element.getAttribute('composite-op') || '').replace('svg:', '');
      context.globalCompositeOperation = ['', 'src-over', 'plus'].includes(mode) ? 'source-over' : mode;
      context.globalAlpha = Number(layer.element.getAttribute('opacity') || 1);
      context.drawImage(layer.canvas, ...this.at(layer));
    }
    context.globalAlpha = 1;
    context.globalCompositeOperation = 'source-over';
  }

  paint(points, colour, size) {
    const layer = this.layers[this.chosen];
    const [x, y] = this.at(layer);
    const context = layer.canvas.getContext('2d');
    Object.assign(context, { strokeStyle: colour, lineWidth: size, lineCap: 'round', lineJoin: 'round' });
    context.beginPath();
    points.forEach(([px, py], i) => context[i ? 'lineTo' : 'moveTo'](px - x, py - y));
    context.stroke();
    layer.isPainted = true;
  }

  // A band right across, for whoever has no pointer.
  band(colour) {
    const y = this.height * (0.2 + 0.6 * Math.random());
    this.paint([[0, y], [this.width, y + this.height * 0.05]], colour, Math.max(4, this.height / 12));
  }

  add() {
    const element = this.stack.createElement('layer');
    const src = `data/practice-${Date.now().toString(36)}.png`;
    for (const [key, value] of Object.entries({ name: `Practice ${this.layers.length + 1}`, src, x: '0', y: '0', opacity: '1.0', visibility: 'visible' })) element.setAttribute(key, value);
    this.stack.querySelector('image > stack').prepend(element);
    this.layers.unshift({ element, src, canvas: canvasOf(this.width, this.height), isPainted: true });
    this.chosen = 0;
  }

  toggle() {
    const { element } = this.layers[this.chosen];
    element.setAttribute('visibility', element.getAttribute('visibility') === 'hidden' ? 'visible' : 'hidden');
  }

  flatten() {
    const canvas = canvasOf(this.width, this.height);
    this.drawOn(canvas.getContext('2d'));
    const stack = this.stack.querySelector('image > stack');
    for (const layer of this.layers) delete this.files[layer.src];
    stack.replaceChildren();
    this.layers = [];
    this.chosen = 0;
    const element = this.stack.createElement('layer');
    for (const [key, value] of Object.entries({ name: 'All in one', src: 'data/flat.png', x: '0', y: '0' })) element.setAttribute(key, value);
    stack.append(element);
    this.layers.push({ element, src: 'data/flat.png', canvas, isPainted: true });
  }

  async write() {
    for (const layer of this.layers.filter(l => l.isPainted)) this.files[layer.src] = await png(layer.canvas);
    const merged = canvasOf(this.width, this.height);
    this.drawOn(merged.getContext('2d'));
    const scale = Math.min(1, 256 / Math.max(this.width, this.height));
    const small = canvasOf(Math.max(1, Math.round(this.width * scale)), Math.max(1, Math.round(this.height * scale)));
    small.getContext('2d').drawImage(merged, 0, 0, small.width, small.height);
    this.files['mergedimage.png'] = await png(merged);
    this.files['Thumbnails/thumbnail.png'] = await png(small);
    this.files['stack.xml'] = strToU8(new XMLSerializer().serializeToString(this.stack));
    // The kind of file stands first, as it is (OpenRaster, file layout).
    const { mimetype, ...rest } = this.files;
    return zipSync({ mimetype: [mimetype ?? strToU8('image/openraster'), { level: 0 }], ...Object.fromEntries(Object.entries(rest).map(([k, v]) => [k, [v, { level: k.endsWith('.png') ? 0 : 6 }]])) });
  }
}
