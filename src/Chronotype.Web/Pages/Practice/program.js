// What a program says to the share, step by step, with a key of its own.
const encode = text => btoa(String.fromCharCode(...new TextEncoder().encode(text)));

export class Program {
  constructor(url, keyUrl, token, log) {
    this.url = url;
    this.folder = url.slice(0, url.lastIndexOf('/') + 1);
    this.name = decodeURIComponent(url.slice(this.folder.length));
    Object.assign(this, { keyUrl, token, log });
  }

  place(name) {
    return this.folder + encodeURIComponent(name);
  }

  async key() {
    let held = sessionStorage.getItem('practice-key');
    if (!held) {
      const made = await fetch(this.keyUrl, { method: 'POST', body: new URLSearchParams({ __RequestVerificationToken: this.token }) });
      if (!made.ok) throw new Error('no key could be made. Load this page anew.');
      const { initials, key } = await made.json();
      held = encode(`${initials}:${key}`);
      sessionStorage.setItem('practice-key', held);
    }
    return held;
  }

  async ask(method, url, { body, headers = {}, may = [] } = {}) {
    const send = async () => fetch(url, {
      method, body, credentials: 'omit', cache: 'no-store', headers: { ...headers, Authorization: `Basic ${await this.key()}` },
    });
    let answer = await send();
    if (answer.status === 401) {
      // The key was revoked: as a person would, it gets another.
      sessionStorage.removeItem('practice-key');
      answer = await send();
    }
    this.log(method, decodeURIComponent(url.slice(this.folder.length)), answer.status, answer.ok || may.includes(answer.status));
    if (!answer.ok && !may.includes(answer.status)) throw new Error(await answer.text() || `The share answered ${answer.status}.`);
    return answer;
  }

  async read() {
    return new Uint8Array(await (await this.ask('GET', this.url)).arrayBuffer());
  }

  put(bytes, name = this.name, headers = {}) {
    return this.ask('PUT', this.place(name), { body: bytes, headers });
  }

  move(from, to, overwrite = true) {
    return this.ask('MOVE', this.place(from), { headers: { Destination: new URL(this.place(to), location.href).href, Overwrite: overwrite ? 'T' : 'F' } });
  }

  copy(from, to) {
    return this.ask('COPY', this.place(from), { headers: { Destination: new URL(this.place(to), location.href).href, Overwrite: 'T' } });
  }

  drop(name) {
    return this.ask('DELETE', this.place(name), { may: [404] });
  }

  async lock() {
    const body = '<?xml version="1.0"?><D:lockinfo xmlns:D="DAV:"><D:lockscope><D:exclusive/></D:lockscope><D:locktype><D:write/></D:locktype>'
      + '<D:owner>Practice desk</D:owner></D:lockinfo>';
    const answer = await this.ask('LOCK', this.url, { body, headers: { Timeout: 'Second-600', 'Content-Type': 'application/xml' } });
    return answer.headers.get('Lock-Token');
  }

  unlock(token) {
    return this.ask('UNLOCK', this.url, { headers: { 'Lock-Token': token } });
  }
}

const pause = ms => new Promise(done => setTimeout(done, ms));

// A way of saving is a list of steps: between any two of them a program may crash, and the step that writes may write only half.
export const ways = {
  over: {
    called: 'Over the file',
    says: 'It writes the new content over the old, in place.',
    steps: (p, bytes) => [() => p.put(bytes)],
  },
  empty: {
    called: 'An empty file first',
    says: 'It empties the file, and writes the content a moment later.',
    steps: (p, bytes) => [() => p.put(new Uint8Array(0)), () => pause(700), () => p.put(bytes)],
  },
  many: {
    called: 'Many small writes',
    says: 'It writes more and more of it, again and again.',
    steps: (p, bytes) => [0.3, 0.6, 0.9, 1].map(part => () => p.put(bytes.slice(0, Math.ceil(bytes.length * part)))),
  },
  beside: {
    called: 'A temporary file, renamed over',
    says: 'It writes a file beside it, and gives that the name of the old one.',
    steps: (p, bytes) => [() => p.put(bytes, `${p.name}.tmp`), () => p.move(`${p.name}.tmp`, p.name)],
  },
  aside: {
    called: 'The old one aside',
    says: 'It renames the old file, writes the new one, and deletes the old.',
    steps: (p, bytes) => [() => p.move(p.name, `${p.name}~`), () => p.put(bytes), () => p.drop(`${p.name}~`)],
  },
  lockfile: {
    called: 'Through a lock file',
    says: 'It puts a lock file beside it, writes, and deletes the lock file.',
    steps: (p, bytes) => [
      () => p.put(new TextEncoder().encode('practice desk'), `.~lock.${p.name}#`), () => p.put(bytes), () => p.drop(`.~lock.${p.name}#`),
    ],
  },
  lock: {
    called: 'With a lock of the share',
    says: 'It locks the file, writes, and gives the lock up.',
    steps: (p, bytes, held) => [
      async () => { held.token = await p.lock(); },
      () => p.put(bytes, p.name, { If: `(${held.token})` }),
      () => p.unlock(held.token),
    ],
  },
  backup: {
    called: 'With a backup copy',
    says: 'It copies the old file to one that ends in .bak, and writes over the old.',
    steps: (p, bytes) => [() => p.copy(p.name, `${p.name}.bak`), () => p.put(bytes)],
  },
};

// Saves in one of the ways. Returns what became of it, in words.
export async function save(program, way, bytes, mishap) {
  if (mishap === 'half') {
    const half = bytes.slice(0, Math.floor(bytes.length / 2));
    await ways[way].steps(program, half, {}).reduce((before, step) => before.then(step), Promise.resolve());
    return 'It crashed: only half of the file was written.';
  }
  if (mishap === 'lock') {
    const token = await program.lock();
    await program.put(bytes, program.name, { If: `(${token})` });
    return 'Saved. It holds its lock still, and will never give it up.';
  }
  const steps = ways[way].steps(program, bytes, {});
  const ends = mishap === 'between' ? Math.max(1, steps.length - 1) : steps.length;
  for (const step of steps.slice(0, ends)) await step();
  if (mishap === 'between') return steps.length === 1 ? 'Saved. There is nothing between two steps: it has only one.' : 'It crashed before its last step.';
  return 'Saved.';
}
