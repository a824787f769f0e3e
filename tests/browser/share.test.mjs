// Saves arrive by themselves: what a program writes on the share appears on the open page, and keys are made and revoked.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { faults, launch, serve, untilSaid, visit } from './studio.mjs';

let studio, browser, page, key;

before(async () => {
  studio = await serve({ demo: true });
  browser = await launch();
  page = await visit(browser, studio.address);
  await page.goto('/');
  await page.click('text=Sign in as IK');
});
after(async () => {
  await browser?.close();
  await studio?.stop();
});

const icon = 'working/TIM_wall-moon_icon.svg';
const dav = (method, path, body, headers = {}) => fetch(`${studio.address}/share/TIDES/${path}`, {
  method, body, headers: { Authorization: `Basic ${Buffer.from(`IK:${key}`).toString('base64')}`, ...headers },
});

test('a key is shown once, and opens the share', async () => {
  await page.goto('/me');
  await page.fill('input[name=key][type=text], input[name=key]:not([type])', 'The big desk');
  await page.click('text=Make a key');
  key = (await page.textContent('#made-key')).trim();
  assert.match(key, /^([a-z2-9]{5}-){5}[a-z2-9]{5}$/);
  assert.deepEqual(await faults(page), []);
  assert.equal((await dav('GET', icon)).status, 200);
  await page.goto('/me');
  assert.equal(await page.locator('#made-key').count(), 0);
  assert.match(await page.textContent('#share'), /The big desk\s*last used/);
});

test('a save on the share appears on the open page, and what is chosen there is not taken away', async () => {
  await page.goto('/projects/TIDES/TIM_wall-moon_icon');
  await page.waitForSelector('text=All kept');
  const was = await (await dav('GET', icon)).text();
  assert.equal((await dav('PUT', icon, was.replace(/#[0-9a-f]{6}/, '#336699'))).status, 204);
  await page.waitForSelector('text=1 loose save', { timeout: 20_000 });
  // An older version is looked at: it stays, and the news is told.
  await page.goto('/projects/TIDES/TIM_wall-moon_icon?b=2');
  await page.waitForTimeout(300);
  assert.equal((await dav('PUT', icon, was.replace(/#[0-9a-f]{6}/, '#993366'))).status, 204);
  await page.waitForSelector('[data-arrived]', { timeout: 20_000 });
  assert.deepEqual(await faults(page), []);
  await page.click('text=Show it');
  await page.waitForSelector('text=2 loose saves');
});

test('a current file that is deleted on the share comes back from its page, and a stranger among the files is placed', async () => {
  assert.equal((await dav('DELETE', icon)).status, 204);
  await page.goto('/projects/TIDES/TIM_wall-moon_icon');
  await page.click('text=Put it back on the share');
  await page.waitForSelector('text=stands on the share again');
  assert.equal((await dav('GET', icon)).status, 200);
  assert.equal((await dav('PUT', 'working/gull-notes.svg', '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"/>')).status, 201);
  // It is looked at when nothing more has come for a while.
  await untilSaid(page, '/projects/TIDES', /Came on the share/, 20);
  await page.goto('/projects/TIDES');
  assert.deepEqual(await faults(page), []);
  await page.locator('form:has-text("gull-notes.svg") >> text=Take it off').click();
  assert.match(await page.textContent('.said'), /is off the share/);
});
