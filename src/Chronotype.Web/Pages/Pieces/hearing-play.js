// Plays two sounds as they are lined up. Both run at once and only one is heard, so that the ear goes from one to the other without a gap;
// the other is led back to the same place wherever only one of them has something.
const drift = 0.04;

export class Players {
  constructor(elements, lined, loudness) {
    Object.assign(this, { elements, lined, loudness, ear: 'b', isEqual: false, isPlaying: false });
    for (const element of Object.values(elements)) {
      element.preload = 'auto';
      element.addEventListener('ended', () => { if (element === this.heard) this.pause(); });
    }
    this.apply();
  }

  get heard() { return this.elements[this.ear]; }

  get at() { return this.heard.currentTime; }

  // Where each is, as the one that is heard is.
  places() {
    const { at } = this;
    if (!this.elements.a) return { b: at };
    if (this.ear === 'a') return { a: at, b: this.lined.later(at).at };
    return { a: this.lined.earlier(at).at, b: at };
  }

  async play() {
    this.isPlaying = true;
    this.apply();
    this.follow(true);
    try {
      await this.heard.play();
    } catch (e) {
      this.isPlaying = false;
      if (e.name !== 'AbortError') throw e;
    }
  }

  pause() {
    this.isPlaying = false;
    for (const element of Object.values(this.elements)) element.pause();
  }

  // To a moment of the later one.
  seek(b) {
    const at = this.ear === 'a' ? this.lined.later(b) && this.lined.earlier(b).at : b;
    this.heard.currentTime = Math.max(0, at);
    this.follow(true);
  }

  async hear(ear) {
    if (ear === this.ear) return;
    const { at } = this;
    const to = ear === 'a' ? (this.ear === 'a' ? at : this.lined.earlier(at).at) : this.ear === 'a' ? this.lined.later(at).at : at;
    const next = this.elements[ear];
    if (Math.abs(next.currentTime - to) > drift || next.paused) next.currentTime = to;
    const wasPlaying = this.isPlaying;
    this.ear = ear;
    if (wasPlaying && next.paused) await next.play();
    this.apply();
    this.follow(true);
  }

  // Only one is heard; the louder one no louder than the other, where that is asked for.
  apply() {
    const known = ['a', 'b'].map(name => this.loudness[name]).filter(l => l !== null);
    const quietest = Math.min(...known);
    for (const [name, element] of Object.entries(this.elements)) {
      element.muted = name !== this.ear;
      const own = this.loudness[name];
      element.volume = this.isEqual && known.length === 2 && own !== null && own !== undefined ? Math.min(1, 10 ** ((quietest - own) / 20)) : 1;
    }
  }

  // What is not heard goes along.
  follow(atOnce = false) {
    for (const name of ['a', 'b']) {
      const other = this.elements[name];
      if (!other || name === this.ear) continue;
      const place = this.ear === 'a' ? this.lined.later(this.at) : name === 'a' ? this.lined.earlier(this.at) : { at: this.at, isThere: true };
      const isDue = place.isThere && place.at < other.duration;
      if (Math.abs(other.currentTime - place.at) > drift && (atOnce || isDue)) other.currentTime = place.at;
      if (this.isPlaying && isDue && other.paused) other.play().catch(() => {});
      else if ((!isDue || !this.isPlaying) && !other.paused) other.pause();
    }
  }
}
