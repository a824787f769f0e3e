// Draws sounds on a canvas: waveforms lined up on one time axis, their loudness over it, and the bands of what is in sight.
const ink = { ground: '#676765', wave: '#d6d6d2', a: '#ffffff', b: '#8fe0d4', same: '#8b8c86', level: '#6f706b', line: '#f3f3f1', fresh: '#f3f3f1', dark: '#171717', text: '#ffffff', hair: '#ffffff2e' };
const top = 44;
// Below the time stands the bar.
const below = 57;
const side = 16;
const style = getComputedStyle(document.documentElement);
const fonts = { said: `12px ${style.getPropertyValue('--font-sans')}`, told: `12px ${style.getPropertyValue('--font-mono')}` };
const bold = `600 ${fonts.said}`;

// What is in both, and differs in how.
const bands = ['louder', 'filtered', 'moved'];

export const clock = seconds => {
  const whole = Math.max(0, seconds);
  const minutes = Math.floor(whole / 60);
  const rest = (whole - minutes * 60).toFixed(1).padStart(4, '0');
  return `${minutes}:${rest}`;
};

export class Drawing {
  constructor(canvas, view) {
    this.canvas = canvas;
    this.view = view;
    this.context = canvas.getContext('2d');
    this.bar = canvas.closest('.easel').querySelector('.listen');
  }

  draw(sounds, lined, looks, heads) {
    const { canvas, context: c } = this;
    const ratio = window.devicePixelRatio || 1;
    const box = canvas.getBoundingClientRect();
    const [width, height] = [Math.max(1, Math.round(box.width)), Math.max(1, Math.round(box.height))];
    if (canvas.width !== width * ratio || canvas.height !== height * ratio) [canvas.width, canvas.height] = [width * ratio, height * ratio];
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.clearRect(0, 0, width, height);
    Object.assign(this, { width, inner: width - 2 * side, room: height - top - below - 10 - this.bar.offsetHeight });
    if (looks === 'spectrum') this.#spectrum(sounds, heads);
    else if (looks === 'loudness') this.#loudness(sounds, heads);
    else this.#waves(sounds, lined, heads);
  }

  x(seconds, shift = 0) { return side + ((seconds - this.view.from - shift) / this.view.span) * this.inner; }

  wide(seconds) { return (seconds / this.view.span) * this.inner; }

  // The moment of the later one that stands at a place.
  moment(x) { return this.view.from + ((x - side) / this.inner) * this.view.span; }

  #waves(sounds, lined, heads) {
    const { context: c, room } = this;
    const lanes = sounds.a ? { a: [top, room * 0.42], b: [top + room * 0.58, room * 0.42] } : { b: [top, room] };
    for (const [at, tall] of Object.values(lanes)) this.#box(ink.ground, 0, at, this.width, tall);
    if (sounds.a) this.#links(lined, lanes);
    this.times = this.#tall(sounds);
    for (const name of Object.keys(lanes)) this.#wave(sounds[name], lanes[name], this.#shift(name), ink.wave);
    if (sounds.a) this.#fresh(sounds.b, lined, lanes);
    this.#ticks(top + room);
    if (this.times > 1) for (const [at] of Object.values(lanes)) this.#text(`${this.times} times as tall`, 8, at + 16, 'left', fonts.said);
    for (const name of Object.keys(lanes)) this.#head(heads[name], lanes[name], this.#shift(name), name !== heads.ear && heads.ear !== 'difference');
    c.globalAlpha = 1;
  }

  // Close up, what is quiet is drawn taller, both alike, and it is said.
  #tall(sounds) {
    if (this.view.span > 2) return 1;
    const peaks = ['a', 'b'].filter(name => sounds[name]).map(name => {
      const from = Math.max(0, (this.view.from + this.#shift(name)) * sounds[name].rate);
      const span = sounds[name].span(from, from + this.view.span * sounds[name].rate);
      return span ? Math.max(-span[0], span[1]) : 1;
    });
    return Math.max(1, Math.min(64, 2 ** Math.floor(Math.log2(0.9 / Math.max(0.01, ...peaks)))));
  }

  #shift(name) { return name === 'a' ? this.view.shift : 0; }

  #wave(sound, [at, tall], shift, colour) {
    const { context: c } = this;
    const middle = at + tall / 2;
    const half = (tall / 2 - 4) * this.times;
    const framesPerPixel = (this.view.span * sound.rate) / this.inner;
    const [first, last] = [Math.max(0, Math.floor(this.x(0, shift))), Math.min(this.width, Math.ceil(this.x(sound.seconds, shift)))];
    if (framesPerPixel < sound.bin / 2) return this.#samples(sound, middle, half, shift, framesPerPixel, colour, first, last);
    c.fillStyle = colour;
    for (let px = first; px < last; px++) {
      const from = (this.moment(px) + shift) * sound.rate;
      const span = sound.span(Math.max(0, from), Math.min(sound.frames, from + framesPerPixel));
      if (!span) continue;
      const [up, down] = [middle - span[1] * half, middle - span[0] * half];
      c.fillRect(px, up, 1, Math.max(1, down - up));
    }
  }

  #samples(sound, middle, half, shift, framesPerPixel, colour, first, last) {
    const { context: c } = this;
    const begin = (this.moment(0) + shift) * sound.rate;
    for (let channel = 0; channel < sound.channels; channel++) {
      c.strokeStyle = c.fillStyle = channel === 0 ? colour : '#a9c4c0';
      c.lineWidth = 1.25;
      c.beginPath();
      let isOn = false;
      const [from, to] = [Math.max(0, Math.floor(begin + first * framesPerPixel) - 1), Math.ceil(begin + last * framesPerPixel) + 1];
      for (let frame = from; frame <= to; frame++) {
        const value = sound.sample(frame, channel);
        if (value === null) { isOn = false; continue; }
        const [x, y] = [(frame - begin) / framesPerPixel, middle - value * half];
        if (isOn) c.lineTo(x, y);
        else c.moveTo(x, y);
        isOn = true;
        // So close that each can be told apart.
        if (framesPerPixel < 1 / 6) c.fillRect(x - 1.5, y - 1.5, 3, 3);
      }
      c.stroke();
    }
  }

  #links(lined, lanes) {
    const { context: c } = this;
    const [from, to] = [lanes.a[0] + lanes.a[1], lanes.b[0]];
    const { shift } = this.view;
    const band = (before, beforeLength, after, afterLength) => {
      c.beginPath();
      c.moveTo(this.x(before, shift), from);
      c.lineTo(this.x(before + beforeLength, shift), from);
      c.lineTo(this.x(after + afterLength), to);
      c.lineTo(this.x(after), to);
      c.closePath();
    };
    c.fillStyle = ink.same;
    for (const [before, after, length] of lined.matches) { band(before, length, after, length); c.fill(); }
    let [taken, takenBelow] = [0, 0];
    const parts = [...lined.parts].sort((p, q) => p.at[2] - q.at[2]);
    for (const part of parts) {
      const [before, beforeLength, after, afterLength] = part.at;
      if (bands.includes(part.kind)) {
        band(before, beforeLength, after, afterLength);
        c.fillStyle = ink.level;
        c.fill();
        c.strokeStyle = ink.line;
        c.setLineDash(part.kind === 'moved' ? [5, 4] : []);
        c.lineWidth = 1;
        c.stroke();
        c.setLineDash([]);
      } else if (beforeLength > 0) this.#hatch(this.x(before, shift), lanes.a[0], this.wide(beforeLength), lanes.a[1]);
    }
    for (const part of parts) {
      const [before, beforeLength, after, afterLength] = part.at;
      const isBand = bands.includes(part.kind);
      const x = isBand ? (this.x(before + beforeLength / 2, shift) + this.x(after + afterLength / 2)) / 2
        : afterLength === 0 ? this.x(before + beforeLength / 2, shift) : this.x(after + afterLength / 2);
      c.font = bold;
      const wide = c.measureText(part.label).width;
      const at = Math.max(wide / 2 + 4, Math.min(this.width - wide / 2 - 90, x));
      const isBelow = !isBand && afterLength > 0;
      if (x < -wide || x > this.width + wide || at - wide / 2 < (isBelow ? takenBelow : taken)) continue;
      if (isBelow) takenBelow = at + wide / 2 + 8;
      else taken = at + wide / 2 + 8;
      this.#text(part.label, at, isBelow ? to - 5 : isBand ? (from + to) / 2 + 4 : from + 14, 'center');
    }
  }

  // What is new stands dark on light.
  #fresh(sound, lined, { b: lane }) {
    const { context: c } = this;
    for (const { kind, at: [, , after, length] } of lined.parts) {
      if (length === 0 || bands.includes(kind)) continue;
      const [x, wide] = [this.x(after), Math.max(1, this.wide(length))];
      if (x > this.width || x + wide < 0) continue;
      c.save();
      c.beginPath();
      c.rect(x, lane[0], wide, lane[1]);
      c.clip();
      this.#box(ink.fresh, x, lane[0], wide, lane[1]);
      this.#wave(sound, lane, 0, ink.dark);
      c.restore();
    }
  }

  #hatch(x, y, wide, tall) {
    const { context: c } = this;
    c.save();
    c.beginPath();
    c.rect(x, y, wide, tall);
    c.clip();
    c.strokeStyle = '#a9a9a6';
    c.lineWidth = 2;
    c.beginPath();
    for (let at = Math.max(x, 0) - tall - (Math.max(x, 0) % 9); at < Math.min(this.width, x + wide); at += 9) { c.moveTo(at, y + tall); c.lineTo(at + tall * 0.7, y); }
    c.stroke();
    c.restore();
  }

  #head(at, [y, tall], shift, isOther) {
    if (at === null || at === undefined) return;
    const { context: c } = this;
    const x = this.x(at, shift);
    c.strokeStyle = '#fff';
    c.lineWidth = isOther ? 1.5 : 2;
    c.setLineDash(isOther ? [3, 3] : []);
    c.beginPath();
    c.moveTo(x, y);
    c.lineTo(x, y + tall);
    c.stroke();
    c.setLineDash([]);
  }

  #ticks(y) {
    const { context: c } = this;
    const steps = [0.0001, 0.0002, 0.0005, 0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600];
    const step = steps.find(s => this.wide(s) >= 84) ?? 7200;
    const digits = step >= 1 ? 0 : Math.ceil(-Math.log10(step) - 1e-9);
    for (let n = Math.max(0, Math.ceil(this.view.from / step)); n * step < this.view.from + this.view.span; n++) {
      const x = this.x(n * step);
      c.strokeStyle = '#ffffffa0';
      c.lineWidth = 1;
      c.beginPath();
      c.moveTo(x, y);
      c.lineTo(x, y + 7);
      c.stroke();
      const minutes = Math.floor((n * step + 1e-9) / 60);
      const rest = n * step - minutes * 60;
      this.#text(`${minutes}:${rest.toFixed(digits).padStart(digits ? digits + 3 : 2, '0')}`, x + 3, y + 16, 'left', fonts.told);
    }
  }

  #loudness(sounds, heads) {
    const { context: c, room } = this;
    const [loud, quiet] = [0, -60];
    const y = lufs => top + ((loud - Math.max(quiet, Math.min(loud, lufs))) / (loud - quiet)) * room;
    this.#box(ink.ground, 0, top, this.width, room);
    for (let lufs = -10; lufs >= quiet; lufs -= 10) this.#grid(y(lufs), lufs === quiet ? '−60 LUFS' : `${lufs}`.replace('-', '−'));
    for (const name of ['a', 'b']) {
      const sound = sounds[name];
      const values = sound?.loudness;
      if (!values) continue;
      c.strokeStyle = ink[name];
      c.lineWidth = name === 'b' ? 2 : 1.5;
      c.beginPath();
      let isOn = false;
      for (let step = 0; step < values.length; step++) {
        const x = this.x((step + 1) / sound.stepsPerSecond, this.#shift(name));
        if (x < -2 || x > this.width + 2) { isOn = false; continue; }
        const at = y(values[step] === -32768 ? quiet : values[step] / 100);
        if (isOn) c.lineTo(x, at);
        else c.moveTo(x, at);
        isOn = true;
      }
      c.stroke();
    }
    this.#ticks(top + room);
    this.#head(heads.b ?? heads.a, [top, room], 0, false);
    this.#legend(sounds, 'short-term loudness');
  }

  #spectrum(sounds, heads) {
    const { context: c, room } = this;
    const [loud, quiet] = [0, -100];
    const [low, high] = [20, 20000];
    const x = hertz => (Math.log(hertz / low) / Math.log(high / low)) * this.width;
    const y = decibels => top + ((loud - Math.max(quiet, Math.min(loud, decibels))) / (loud - quiet)) * room;
    this.#box(ink.ground, 0, top, this.width, room);
    for (let decibels = -20; decibels >= quiet; decibels -= 20) this.#grid(y(decibels), decibels === quiet ? '−100 dB' : `${decibels}`.replace('-', '−'));
    for (const hertz of [50, 100, 200, 500, 1000, 2000, 5000, 10000]) {
      c.strokeStyle = ink.hair;
      c.lineWidth = 1;
      c.beginPath();
      c.moveTo(x(hertz), top);
      c.lineTo(x(hertz), top + room);
      c.stroke();
      this.#text(hertz < 1000 ? `${hertz} Hz` : `${hertz / 1000} kHz`, x(hertz) + 3, top + room + 16, 'left', fonts.told);
    }
    const around = 1.5;
    for (const name of ['a', 'b']) {
      const sound = sounds[name];
      if (!sound) continue;
      const shift = this.#shift(name);
      const at = heads.isPlaying ? heads[name] : null;
      const levels = at !== null && at !== undefined ? sound.bandLevels(at - around, at + around)
        : sound.bandLevels(this.view.from + shift, this.view.from + shift + this.view.span);
      if (!levels) continue;
      c.strokeStyle = ink[name];
      c.lineWidth = name === 'b' ? 2 : 1.5;
      c.beginPath();
      levels.forEach((decibels, band) => {
        const hertz = sound.lowest * 2 ** (band / 6);
        if (hertz > sound.rate / 2) return;
        if (band === 0) c.moveTo(x(hertz), y(decibels));
        else c.lineTo(x(hertz), y(decibels));
      });
      c.stroke();
    }
    const seen = heads.isPlaying ? '3 s around what is played' : `${clock(this.view.from)} to ${clock(this.view.from + this.view.span)}`;
    this.#legend(sounds, `level of each sixth of an octave, ${seen}`);
  }

  #legend(sounds, what) {
    const names = ['a', 'b'].filter(name => sounds[name]);
    const { context: c } = this;
    let x = 14;
    c.font = bold;
    for (const name of names) {
      const text = names.length > 1 ? `${name.toUpperCase()} ${sounds[name].name}` : sounds[name].name;
      this.#box(ink[name], x, top + 14, 18, 3);
      this.#text(text, x + 24, top + 20, 'left');
      x += 42 + c.measureText(text).width;
    }
    this.#text(what, x, top + 20, 'left', fonts.said);
  }

  #grid(y, label) {
    const { context: c } = this;
    c.strokeStyle = ink.hair;
    c.lineWidth = 1;
    c.beginPath();
    c.moveTo(0, y);
    c.lineTo(this.width, y);
    c.stroke();
    this.#text(label, this.width - 6, y - 4, 'right', fonts.told);
  }

  #box(colour, x, y, wide, tall) {
    this.context.fillStyle = colour;
    this.context.fillRect(x, y, wide, tall);
  }

  #text(text, x, y, align, font = bold) {
    const { context: c } = this;
    c.font = font;
    c.textAlign = align;
    c.lineJoin = 'round';
    c.lineWidth = 3;
    c.strokeStyle = '#5c5c59';
    c.strokeText(text, x, y);
    c.fillStyle = ink.text;
    c.fillText(text, x, y);
  }
}
