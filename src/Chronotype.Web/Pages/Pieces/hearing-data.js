// What is known of one sound: its description at once, its waveform block by block at whatever scale is looked at, its samples where that
// is close enough. What is not there yet is asked for, and whoever draws is told when it came.
export class Sound {
  constructor(address, changed) {
    this.address = address;
    this.changed = changed;
    this.blocks = new Map();
  }

  async describe() {
    const answer = await fetch(`${this.address}/sound/chart`);
    const told = answer.headers.get('content-type')?.includes('json') ? await answer.json() : {};
    if (!answer.ok) throw new Error(told.error ?? 'This could not be prepared just now. Load the page again.');
    Object.assign(this, told);
    this.seconds = this.frames / this.rate;
    return this;
  }

  // The array behind an address, or null while it is on its way.
  get(path, type) {
    const known = this.blocks.get(path);
    if (known !== undefined) return known;
    this.blocks.set(path, null);
    fetch(`${this.address}/sound/${path}?of=${this.of}`)
      .then(answer => (answer.ok ? answer.arrayBuffer() : Promise.reject(new Error(`${answer.status}`))))
      .then(bytes => { this.blocks.set(path, new type(bytes)); this.changed(); })
      // It is asked for again when it is next looked at.
      .catch(() => this.blocks.delete(path));
    return null;
  }

  get loudness() { return this.get('loudness', Int16Array); }
  get spectrum() { return this.get('spectrum', Uint8Array); }

  // The lowest and the highest sample between two frames, from -1 to 1, by the finest scale that has no more than a few bins for it.
  span(from, to) {
    const level = Math.max(0, Math.min(this.levels.length - 1, Math.floor(Math.log((to - from) / this.bin) / Math.log(this.factor))));
    const size = this.bin * this.factor ** level;
    let [low, high, known] = [0, 0, false];
    const last = Math.min(this.levels[level] - 1, Math.ceil(to / size) - 1);
    for (let bin = Math.max(0, Math.floor(from / size)); bin <= last; bin++) {
      const block = this.get(`waveform/${level}/${Math.floor(bin / this.block)}`, Int16Array);
      if (!block) return this.coarse(from, to, level + 1);
      const at = (bin % this.block) * 2;
      low = Math.min(low, block[at]);
      high = Math.max(high, block[at + 1]);
      known = true;
    }
    return known ? [low / 32767, high / 32767] : null;
  }

  // What a coarser scale knows already, until the finer one has come.
  coarse(from, to, level) {
    for (; level < this.levels.length; level++) {
      const size = this.bin * this.factor ** level;
      const bin = Math.floor(from / size);
      const block = this.blocks.get(`waveform/${level}/${Math.floor(bin / this.block)}`);
      if (block && bin < this.levels[level]) return [block[(bin % this.block) * 2] / 32767, block[(bin % this.block) * 2 + 1] / 32767];
    }
    return null;
  }

  // One sample of a channel, from -1 to 1; null where it is not known yet or there is none.
  sample(frame, channel) {
    if (frame < 0 || frame >= this.frames) return null;
    const block = this.get(`samples/${Math.floor(frame / this.samples)}`, Int16Array);
    return block ? block[(frame % this.samples) * this.channels + channel] / 32767 : null;
  }

  // The mean level of each band between two moments, in decibels; null while it is not known.
  bandLevels(from, to) {
    const { spectrum } = this;
    if (!spectrum) return null;
    const first = Math.max(0, Math.min(this.steps - 1, Math.floor(from * this.stepsPerSecond)));
    const last = Math.max(first, Math.min(this.steps - 1, Math.ceil(to * this.stepsPerSecond) - 1));
    const levels = new Array(this.bands).fill(0);
    const stride = Math.max(1, Math.floor((last - first + 1) / 4000));
    let steps = 0;
    for (let step = first; step <= last; step += stride, steps++) {
      for (let band = 0; band < this.bands; band++) {
        const byte = spectrum[step * this.bands + band];
        if (byte > 0) levels[band] += 10 ** ((byte / 2 - 120) / 10);
      }
    }
    return levels.map(power => (power > 0 ? 10 * Math.log10(power / steps) : -120));
  }
}

// Two sounds as they are lined up: which moment of one is which of the other.
export class Lined {
  constructor(told) {
    this.matches = told?.matches ?? [];
    this.parts = (told?.parts ?? []).map(p => ({ kind: 'added', ...p }));
  }

  get isKnown() { return this.matches.length > 0; }

  // A moment of the earlier for one of the later: where it is, or would be, and whether it is there at all.
  earlier(at) { return this.#other(at, 1, 0); }

  later(at) { return this.#other(at, 0, 1); }

  #other(at, from, to) {
    let before = null;
    let next = null;
    for (const match of this.matches) {
      const into = at - match[from];
      if (into >= 0 && into < match[2]) return { at: match[to] + into, isThere: true };
      if (into >= 0 && (!before || match[from] > before[from])) before = match;
      if (into < 0 && (!next || match[from] < next[from])) next = match;
    }
    if (!this.isKnown) return { at, isThere: true };
    return { at: before ? before[to] + before[2] : next[to], isThere: false };
  }
}
