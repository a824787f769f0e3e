// What is inside files of other kinds: closed natives by their faces, scenes that are turned, timelines, documents and films; and saves
// of two pieces beside one another.
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, before, test } from 'node:test';
import { pdf, png } from './files.mjs';
import { faults, launch, serve, soon, visit } from './studio.mjs';

const folder = mkdtempSync(join(tmpdir(), 'chronotype-inside-'));
const ticket = '/projects/TIDES/TIM_ticket_layout';
let studio, browser, page;

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
  rmSync(folder, { recursive: true, force: true });
});

// Sends a file to a piece as its page does; the first one begins the piece.
async function send(where, name, bytes, fields = {}) {
  await page.goto('/projects/TIDES');
  const answer = await page.evaluate(async ([where, name, data, fields]) => {
    const form = new FormData();
    form.append('__RequestVerificationToken', document.querySelector('input[name=__RequestVerificationToken]').value);
    for (const [key, value] of Object.entries(fields)) form.append(key, value);
    form.append('file', new File([Uint8Array.from(atob(data), c => c.charCodeAt(0))], name));
    return (await fetch(where, { method: 'POST', body: form, headers: { Accept: 'application/json' } })).json();
  }, [where, name, Buffer.from(bytes).toString('base64'), fields]);
  assert.equal(answer.error, null);
  return answer.location;
}
const begin = (subject, name, bytes) => send('/projects/TIDES/pieces', name, bytes, { 'slot.subject': subject, 'slot.function': 'layout' });

test('a closed native is seen and compared by its face, and says so', async () => {
  await page.goto(`${ticket}?a=2&b=3&look=side`);
  await page.waitForSelector('[data-zoom].ready');
  assert.equal(await page.textContent('.faced'), 'by their faces');
  assert.match(await page.textContent('.ledger'), /Told by their faces/);
  assert.match(await page.textContent('.ledger'), /Face:\s*ticket\.png/);
  assert.deepEqual(await faults(page), []);
});

test('a picture beside a native becomes its face at once, and may be made a save instead', async () => {
  await begin('Door sign', 'door sign.gull', Buffer.concat([Buffer.from('GULL LAYOUT'), Buffer.alloc(3000, 7)]));
  await page.goto('/projects/TIDES/TIM_door-sign_layout');
  assert.match(await page.textContent('.ledger'), /Only the program that made it can open this/);
  await page.setInputFiles('#save-file', { name: 'door sign.png', mimeType: 'image/png', buffer: png(80, 50, [200, 40, 40]) });
  await page.waitForSelector('.said >> text=is the face of 001 now');
  await page.waitForSelector('.faced');
  await page.click('text=Make it a save instead');
  await page.waitForSelector('.said >> text=loose save');
  assert.equal(await page.locator('.faced').count(), 0);
  // By hand it is a face again.
  await page.goto('/projects/TIDES/TIM_door-sign_layout?b=1');
  await page.setInputFiles('.facts-of input[type=file]', { name: 'other.png', mimeType: 'image/png', buffer: png(80, 50, [40, 40, 200]) });
  await page.waitForSelector('.faced');
  await page.click('text=Take it off');
  await page.waitForSelector('.said >> text=is taken off');
});

test('two scenes are turned as one, and nothing outside the file is asked for', async () => {
  await page.goto('/projects/TIDE-FILM/TIM_buoy_model?a=1&b=3');
  await page.waitForSelector('.turned canvas');
  const pictures = () => page.evaluate(() => [...document.querySelectorAll('.turned canvas')].map(c => c.toDataURL().length));
  assert.equal((await pictures()).length, 2);
  const seen = () => page.locator('.turned canvas').nth(1).screenshot();
  const first = await seen();
  // What is turned in A is turned in B.
  await page.locator('.turned canvas').first().focus();
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight');
  await soon(async () => assert.ok(!first.equals(await seen()), 'B was not turned with A'));
  await page.click('text=Play its animation');
  await page.waitForSelector('text=Pause');
  assert.deepEqual(await faults(page), []);
});

test('two timelines stand on one scale, with each clip told', async () => {
  await page.goto('/projects/TIDE-FILM/TIM_foyer-film_edit?a=1&b=2');
  await page.waitForSelector('.timelines .added');
  assert.equal(await page.locator('.timelines rect.added').count(), 1);
  const buoy = page.locator('.timelines rect.changed', { hasText: 'The buoy' });
  assert.equal(await buoy.count(), 2);
  const wide = await buoy.evaluateAll(all => all.map(r => Number(r.getAttribute('width'))));
  // 7 s and 9 s on one scale.
  assert.ok(Math.abs(wide[1] / wide[0] - 9 / 7) < 0.02, String(wide));
});

test('documents are drawn page by page, and told by what is written on them', async () => {
  const at = await begin('Boat times', 'leaflet.pdf', pdf([['Moonpull', 'Opening hours 10 to 18'], ['By boat']]));
  await send(`${at.split('?')[0]}/saves`, 'leaflet.pdf', pdf([['Moonpull', 'Opening hours 9 to 17'], ['By boat']]));
  await page.goto(`${at}?a=1`);
  await page.waitForFunction(() => document.querySelectorAll('canvas[data-drawn]').length === 2);
  // Something is written on both, dark on white.
  // A page is drawn anew when its place changes its size, so it may be empty for a moment.
  await page.waitForFunction(() => [...document.querySelectorAll('canvas[data-drawn]')].filter(c =>
    c.getContext('2d').getImageData(0, 0, c.width, c.height).data.reduce((n, v, i, d) => n + (i % 4 === 0 && v < 100 && d[i + 3] > 200 ? 1 : 0), 0) > 50).length === 2);
  await page.waitForSelector('.ledger >> text=Page 1 reworded');
  await page.click('.tools >> text=Next');
  await page.waitForSelector('.tools >> text=Page 2 of 2');
  await page.waitForFunction(() => document.querySelectorAll('canvas[data-drawn]').length === 2);
});

test('films are played beside one another', async () => {
  for (const [name, seconds] of [['a', 2], ['b', 3]])
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', `testsrc=size=160x90:rate=25:duration=${seconds}`, '-c:v', 'libvpx', join(folder, `${name}.webm`)]);
  const { readFileSync } = await import('node:fs');
  const at = await begin('Trailer', 'trailer.webm', readFileSync(join(folder, 'a.webm')));
  await send(`${at.split('?')[0]}/saves`, 'trailer.webm', readFileSync(join(folder, 'b.webm')));
  await page.goto(`${at}?a=1`);
  await page.waitForFunction(() => [...document.querySelectorAll('video')].length === 2 && [...document.querySelectorAll('video')].every(v => v.readyState > 0));
  assert.match(await page.textContent('.ledger'), /1\.0 s longer/);
  await page.evaluate(() => document.querySelectorAll('video')[1].play());
  await page.waitForFunction(() => [...document.querySelectorAll('video')].every(v => v.currentTime > 0.2));
});

test('a save of another piece is laid beside this one', async () => {
  await page.goto('/projects/TIDES/TIM_moonpull-poster_key?b=14');
  await page.click('text=Compare with another piece…');
  await page.fill('#across [name=with]', 'TIDES/TIM_ticket_layout');
  await page.fill('#across [name=number]', '2');
  await page.click('#across >> text="Compare"');
  await page.waitForSelector('.tag.a >> text=TIM_ticket_layout 002');
  await page.waitForSelector('.ledger >> text=of the area differs');
  await page.goto('/projects/TIDES/TIM_moonpull-poster_key?b=14');
  await page.click('text=Compare with another piece…');
  await page.fill('#across [name=with]', 'TIDES/no-such-piece');
  await page.click('#across >> text="Compare"');
  await page.waitForSelector('.said >> text=There is no piece no-such-piece');
});

test('the browser reported nothing on the way', () => assert.deepEqual(page.troubles, []));
