// Drawings, sounds, edits and scenes: an honest change to the real content of each.
const text = bytes => new TextDecoder().decode(bytes);
const bytesOf = written => new TextEncoder().encode(written);

export class Drawing {
  static open(bytes) {
    const drawing = new Drawing();
    drawing.svg = new DOMParser().parseFromString(text(bytes), 'image/svg+xml');
    if (drawing.svg.querySelector('parsererror')) throw new Error('It is no drawing that can be read.');
    return drawing;
  }

  // All colours are turned around the wheel by as much.
  restyle(degrees = 40) {
    const turn = hex => {
      const [r, g, b] = [1, 3, 5].map(i => parseInt(hex.slice(i, i + 2), 16) / 255);
      const [most, least] = [Math.max(r, g, b), Math.min(r, g, b)];
      const span = most - least;
      let hue = span === 0 ? 0 : most === r ? ((g - b) / span) % 6 : most === g ? (b - r) / span + 2 : (r - g) / span + 4;
      hue = (hue * 60 + degrees + 360) % 360;
      const channel = n => {
        const k = (n + hue / 60) % 6;
        return Math.round(255 * (most - span * Math.max(0, Math.min(k, 4 - k, 1)))).toString(16).padStart(2, '0');
      };
      return `#${channel(5)}${channel(3)}${channel(1)}`;
    };
    const root = this.svg.documentElement;
    for (const element of [root, ...root.querySelectorAll('*')]) {
      for (const name of ['fill', 'stroke', 'style', 'stop-color']) {
        const value = element.getAttribute(name);
        if (value?.includes('#')) element.setAttribute(name, value.replace(/#[0-9a-fA-F]{6}\b/g, turn));
      }
      if (element.nodeName === 'style') element.textContent = element.textContent.replace(/#[0-9a-fA-F]{6}\b/g, turn);
    }
  }

  add() {
    const root = this.svg.documentElement;
    const [x, y, w, h] = (root.getAttribute('viewBox') ?? '0 0 100 100').split(/[\s,]+/).map(Number);
    const dot = this.svg.createElementNS('http://www.w3.org/2000/svg', 'circle');
    for (const [key, value] of Object.entries({ cx: x + w * Math.random(), cy: y + h * Math.random(), r: Math.min(w, h) / 12, fill: '#d0562f' })) dot.setAttribute(key, `${typeof value === 'number' ? value.toFixed(2) : value}`);
    root.append(dot);
  }

  write() {
    return bytesOf(new XMLSerializer().serializeToString(this.svg));
  }
}

// WAVE with plain samples of 16 or 24 bits (RIFF, "fmt " 1 or extensible).
export class Sound {
  static open(bytes) {
    const sound = new Sound();
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    sound.chunks = [];
    for (let at = 12; at + 8 <= bytes.length;) {
      const id = text(bytes.slice(at, at + 4));
      const size = Math.min(view.getUint32(at + 4, true), bytes.length - at - 8);
      sound.chunks.push({ id, bytes: bytes.slice(at + 8, at + 8 + size) });
      at += 8 + size + (size & 1);
    }
    const format = sound.chunks.find(c => c.id === 'fmt ');
    sound.data = sound.chunks.find(c => c.id === 'data');
    if (!format || !sound.data) throw new Error('It is no sound that can be read.');
    const f = new DataView(format.bytes.buffer, format.bytes.byteOffset);
    Object.assign(sound, { channels: f.getUint16(2, true), rate: f.getUint32(4, true), block: f.getUint16(12, true), bits: f.getUint16(14, true) });
    if (![16, 24].includes(sound.bits)) throw new Error(`Sounds of ${sound.bits} bits are not changed here.`);
    return sound;
  }

  get seconds() {
    return this.data.bytes.length / this.block / this.rate;
  }

  cut(seconds = 1) {
    const frames = this.data.bytes.length / this.block;
    const gone = Math.min(Math.floor(frames / 2), Math.round(seconds * this.rate));
    const from = Math.floor((frames - gone) / 2) * this.block;
    const kept = new Uint8Array(this.data.bytes.length - gone * this.block);
    kept.set(this.data.bytes.subarray(0, from));
    kept.set(this.data.bytes.subarray(from + gone * this.block), from);
    this.data.bytes = kept;
  }

  mix(hertz = 440, level = 0.1) {
    const { bytes } = this.data;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const width = this.bits / 8;
    const full = 2 ** (this.bits - 1);
    for (let frame = 0, at = 0; at + this.block <= bytes.length; frame++) {
      const tone = Math.round(level * full * Math.sin(2 * Math.PI * hertz * frame / this.rate));
      for (let channel = 0; channel < this.channels; channel++, at += width) {
        const old = width === 2 ? view.getInt16(at, true) : (view.getUint16(at, true) | view.getInt8(at + 2) << 16);
        const now = Math.max(-full, Math.min(full - 1, old + tone));
        if (width === 2) view.setInt16(at, now, true);
        else {
          view.setUint16(at, now & 0xffff, true);
          view.setInt8(at + 2, now >> 16);
        }
      }
    }
  }

  write() {
    const size = 4 + this.chunks.reduce((sum, c) => sum + 8 + c.bytes.length + (c.bytes.length & 1), 0);
    const out = new Uint8Array(size + 8);
    const view = new DataView(out.buffer);
    out.set(bytesOf('RIFF'));
    view.setUint32(4, size, true);
    out.set(bytesOf('WAVE'), 8);
    let at = 12;
    for (const chunk of this.chunks) {
      out.set(bytesOf(chunk.id), at);
      view.setUint32(at + 4, chunk.bytes.length, true);
      out.set(chunk.bytes, at + 8);
      at += 8 + chunk.bytes.length + (chunk.bytes.length & 1);
    }
    return out;
  }
}

// Edits (OpenTimelineIO) and scenes (glTF) are JSON; what is retimed is what says a time in them.
export class Timed {
  static open(bytes) {
    const timed = new Timed();
    timed.json = JSON.parse(text(bytes));
    timed.isEdit = 'OTIO_SCHEMA' in timed.json;
    return timed;
  }

  clips(of = this.json, found = []) {
    if (of?.OTIO_SCHEMA?.startsWith('Clip') && of.source_range) found.push(of);
    for (const child of Array.isArray(of) ? of : Object.values(of ?? {})) if (child && typeof child === 'object') this.clips(child, found);
    return found;
  }

  get says() {
    return this.isEdit ? `${this.clips().length} clips` : `${(this.json.nodes ?? []).length} nodes`;
  }

  // Every other clip becomes a fifth shorter; in a scene, what is placed is moved.
  retime() {
    if (this.isEdit) {
      this.clips().forEach((clip, i) => {
        const { duration } = clip.source_range;
        if (i % 2 === 0) duration.value = Math.max(1, Math.round(duration.value * 0.8));
      });
    } else {
      for (const node of this.json.nodes ?? []) {
        const [x, y, z] = node.translation ?? [0, 0, 0];
        node.translation = [x, y + 0.25, z];
      }
    }
  }

  write() {
    return bytesOf(JSON.stringify(this.json, null, 2));
  }
}
