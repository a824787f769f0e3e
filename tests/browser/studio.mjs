// Starts a real studio for a browser test, and a real browser to visit it with.
import { spawn, execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { chromium } from 'playwright-core';
import axe from 'axe-core';

const root = resolve(import.meta.dirname ?? new URL('.', import.meta.url).pathname, '../..');
const bin = name => join(root, 'src', name, 'bin/Release/net10.0', `${name}.dll`);

// The demo is made once for all files of a run, which have the process that runs them in common. The first to come makes it.
async function made() {
  const program = bin('Chronotype.Demo');
  const folder = join(tmpdir(), `chronotype-browser-demo-${process.ppid}-${statSync(program).mtimeMs}`);
  const [done, failed] = [join(folder, 'made'), join(folder, 'failed')];
  if (mkdirSync(folder, { recursive: true })) {
    try {
      execFileSync('dotnet', [program, join(folder, 'studio')]);
      writeFileSync(done, '');
    } catch (e) {
      writeFileSync(failed, e.stack);
      throw e;
    }
  }
  for (const end = Date.now() + 600_000; !existsSync(done); await new Promise(later => setTimeout(later, 100)))
    if (existsSync(failed) || Date.now() > end)
      throw new Error(`The demo was not made: ${existsSync(failed) ? readFileSync(failed, 'utf8') : 'nobody says why'}`);
  return join(folder, 'studio');
}

export async function serve({ demo = false } = {}) {
  const data = mkdtempSync(join(tmpdir(), 'chronotype-browser-'));
  if (demo) cpSync(await made(), data, { recursive: true });
  const server = spawn('dotnet', [bin('Chronotype.Web'), '--data', data, '--port', '0'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const address = await new Promise((ready, failed) => {
    let text = '';
    server.stdout.on('data', chunk => {
      text += chunk;
      const found = /ready: (http:\S+)/.exec(text);
      if (found) ready(found[1]);
    });
    server.on('exit', code => failed(new Error(`The server ended with ${code}: ${text}`)));
  });
  return {
    address,
    data,
    async stop() {
      server.removeAllListeners('exit');
      server.kill('SIGTERM');
      await new Promise(done => server.on('exit', done));
      rmSync(data, { recursive: true, force: true });
    },
  };
}

export const launch = () => chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
});

/** A page that fails its test when the browser reports an error or asks another host for anything. */
export async function visit(browser, address, viewport = { width: 1280, height: 800 }) {
  const context = await browser.newContext({ baseURL: address, viewport, acceptDownloads: true });
  // However busy the machine is: what waits, waits for a state.
  context.setDefaultTimeout(120_000);
  const page = await context.newPage();
  const troubles = [];
  page.on('pageerror', e => troubles.push(e.stack));
  page.on('console', m => { if (m.type() === 'error' && !/status of (4|5)\d\d/.test(m.text())) troubles.push(m.text()); });
  page.on('request', r => { if (!r.url().startsWith(address) && !/^(blob|data):/.test(r.url())) troubles.push(`asked for ${r.url()}`); });
  // Nobody is asked whether to leave after what was sent has arrived.
  page.on('dialog', d => { troubles.push(`a ${d.type()} dialog at ${page.url()}`); d.accept(); });
  page.troubles = troubles;
  return page;
}

/** The serious faults that axe finds, as one line each. The engine goes in through the debugger, past the page's own policy. */
export async function faults(page) {
  for (let tries = 0; ; tries++) {
    try {
      await page.evaluate(axe.source);
      const result = await page.evaluate(() => window.axe.run(document, { resultTypes: ['violations'] }));
      return result.violations.filter(v => ['serious', 'critical'].includes(v.impact))
        .map(v => `${v.id}: ${v.nodes.map(n => n.target.join(' ')).slice(0, 4).join(' | ')}`);
    } catch (e) {
      // A page that follows what arrives may have loaded itself anew meanwhile; then it is looked at as it is now.
      if (tries === 5 || !/context was destroyed|navigation|axe/.test(e.message)) throw e;
      await page.waitForLoadState();
    }
  }
}

/** Waits until the page of a piece shows that a save has its number: at once, or by itself when a busy machine has read it. */
export const kept = (page, number) => page.waitForFunction(
  n => document.querySelector('#piece')?.dataset.coming === 'false' && document.body.innerHTML.includes(`_${n}.`)
    && ![...document.querySelectorAll('button')].some(b => b.textContent.includes(`Keep as ${n}`)),
  number,
);

// What is drawn comes a moment after what it is drawn from: it is looked at again until it is as it should be, or is not for long.
export async function soon(look, seconds = 20) {
  for (const end = Date.now() + seconds * 1000; ;) {
    try {
      return await look();
    } catch (e) {
      if (Date.now() > end) throw e;
      await new Promise(later => setTimeout(later, 100));
    }
  }
}

// Waits until the page of an address says something. What a page waits for by a promise of its own is not waited for by the browser's driver.
export async function untilSaid(page, address, pattern, seconds = 60) {
  let said = '';
  for (const end = Date.now() + seconds * 1000; Date.now() < end;) {
    said = await page.evaluate(at => fetch(at).then(r => r.text()), address);
    if (pattern.test(said)) return;
    await page.waitForTimeout(500);
  }
  throw new Error(`${address} did not say ${pattern} within ${seconds} s.`);
}
