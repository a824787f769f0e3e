// The content store as people see it: what it holds, a verification while they watch, damage, and a copy that mends it.
import { test, before, after } from 'node:test';
import assert from 'node:assert/strict';
import { openSync, writeSync, closeSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { faults, launch, serve, visit } from './studio.mjs';

let studio, browser, page;
before(async () => {
  studio = await serve({ demo: true });
  browser = await launch();
  page = await visit(browser, studio.address);
  await page.goto('/sign-in');
  await page.click('text=Sign in as IK');
});
after(async () => {
  await browser?.close();
  await studio?.stop();
});

/** Overwrites some bytes in the middle of what lies on the disk. */
function damage() {
  const folder = join(studio.data, 'content', 'segments');
  const segment = join(folder, readdirSync(folder).sort()[0]);
  const file = openSync(segment, 'r+');
  writeSync(file, Buffer.from('not what was written'), 0, 20, Math.floor(statSync(segment).size * 0.8));
  closeSync(file);
}

test('a verification is started, watched, and found sound', async () => {
  await page.goto('/storage');
  await page.waitForSelector('text=as plain copies');
  await page.click('button:has-text("Verify")');
  await page.waitForSelector('.word.good:has-text("All sound")', { timeout: 30000 });
  assert.deepEqual(await faults(page), []);
});

test('damage is listed with the versions it touches, and a copy that is handed in mends it', async () => {
  const copies = {};
  for (const version of ['1', '2', '3', '4', '5']) {
    await page.goto(`/projects/TIDE-GUIDE/TIM_guide-stop-1_mix?b=${version}`);
    const link = page.locator('.actions a[download]').first();
    copies[await link.getAttribute('title')] = await (await page.request.get(await link.getAttribute('href'))).body();
  }
  damage();
  await page.goto('/storage');
  await page.click('button:has-text("Verify")');
  await page.waitForSelector('.word.bad', { timeout: 30000 });
  assert.deepEqual(await faults(page), []);
  const names = await page.locator('.strays li a').allTextContents();
  const name = names.find(n => copies[n]);
  assert.ok(name, `none of ${names} was looked at before`);
  await page.setInputFiles('input[name=file]', { name: 'from my disk.wav', mimeType: 'audio/wav', buffer: copies[name] });
  await page.waitForSelector(`.said:has-text("${name} is whole again")`);
  await page.click('button:has-text("Verify")');
  await page.waitForSelector('.word.ask:has-text("All saves are whole")', { timeout: 30000 });
  assert.deepEqual(page.troubles, []);
});
