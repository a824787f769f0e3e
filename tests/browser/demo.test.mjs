// The demo studio: every screen of it, in the wide window and the narrow one, by keyboard alone, and without scripts.
import { test, before, after } from 'node:test';
import assert from 'node:assert/strict';
import { faults, launch, serve, visit } from './studio.mjs';

let studio, browser, page;
before(async () => {
  studio = await serve({ demo: true });
  browser = await launch();
  page = await visit(browser, studio.address);
});
after(async () => {
  await browser?.close();
  await studio?.stop();
});

const poster = '/projects/TIDES/TIM_moonpull-poster_key';
const screens = [
  '/', '/?order=project&more=1', '/?project=NOWHERE', '/jobs', '/projects', '/projects/new', '/projects/TIDES', '/projects/TIDE-GUIDE', '/people', '/me', '/convention', '/convention/codes', '/storage', poster, `${poster}?a=11&b=14`, `${poster}?a=11&b=14&look=wipe`,
  `${poster}?a=11&b=14&look=difference`, `${poster}?table=true`, `${poster}?b=7`, `${poster}?from=1&to=6`, '/projects/TIDES/TIM_wall-seabirds_icon', '/projects/TIDES/TIM_floor-map_layout',
  '/projects/TIDES/TIM_room-texts_layout', '/projects/TIDE-GUIDE/TIM_guide-stop-1_mix', '/projects/TIDE-GUIDE/TIM_guide-stop-1_mix?a=2&b=5', '/nowhere',
  '/tree/TIDES', '/tree/TIDES/assets', '/web/TIDES', '/web/TIDES?table=true', '/references/TIDES', '/references/TIDES/TIM_leaflet_layout', '/then/TIDES', '/deleted', '/spec/TIDES', '/spec/TIDE-FILM', '/plans', '/plans/animation', '/plans/new', '/projects/new?from=TIDES', '/studio', '/tidy/TIDES', '/tidy/TIDES/TIM_leaflet_layout',
];

test('the demo’s people are on the sign-in page', async () => {
  await page.goto('/');
  await page.waitForSelector('text=Ilse Korhonen');
  assert.deepEqual(await faults(page), []);
  await page.click('text=Sign in as IK');
  // The poster is in hand as long as the demo is fresh.
  await page.waitForSelector('text=/[34] pieces need you/');
});

for (const [width, height] of [[1280, 800], [768, 1024]]) {
  test(`no screen has a serious fault or runs over its edge at ${width} x ${height}`, async () => {
    await page.setViewportSize({ width, height });
    for (const screen of screens) {
      await page.goto(screen);
      await page.waitForLoadState('networkidle');
      assert.deepEqual([screen, await faults(page)], [screen, []]);
      assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), `${screen} scrolls sideways`);
    }
  });
}

test('the piece screen needs no scrolling at 1280 x 800', async () => {
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(poster);
  assert.ok(await page.evaluate(() => document.documentElement.scrollHeight <= innerHeight));
});

test('the poster has its history: fourteen versions, two milestones, loose saves waiting', async () => {
  await page.goto(`${poster}?table=true`);
  const rows = await page.locator('.facts tbody tr').allTextContents();
  assert.equal(rows.filter(r => r.includes('○ loose')).length, 3);
  assert.equal(rows.filter(r => r.includes('⚑')).length, 2);
  assert.equal(rows.length, 17);
  await page.goto(`${poster}?a=11&b=14`);
  await page.waitForSelector('.ledger td:has-text("added")');
  assert.match(await page.locator('.ledger').textContent(), /8 of 13 layers differ/);
});

test('a sound is shown on one time axis with the one before', async () => {
  await page.goto('/projects/TIDE-GUIDE/TIM_guide-stop-1_mix?a=2&b=5');
  await page.waitForSelector('.ledger >> text=s put in');
  // Nobody reloads: the stage comes anew with what was measured.
  await page.waitForSelector('.lined .fresh', { state: 'attached' });
  const [a, b] = await page.locator('.lined > svg > image').evaluateAll(all => all.map(i => +i.getAttribute('width')));
  assert.ok(a < b && b === 1000);
  assert.equal(await page.locator('.lined .same').count(), 2);
  assert.equal(await page.locator('.lined .level').count(), 2);
  assert.deepEqual(await page.locator('.lined .label').allTextContents(), ['−3.1 dB', 'put in 1.5 s', '+1.2 dB', 'put in 5.5 s']);
  assert.deepEqual(await page.locator('.ledger tbody td.what').allTextContents(), ['quieter', 'put in', 'louder', 'put in']);
  assert.match(await page.textContent('.ledger'), /Loudness.*LUFS, was −[\d.]+.*True peak/s);
  assert.equal(await page.locator('.player audio').count(), 2);
  assert.deepEqual(await faults(page), []);
});

test('every action is reached with the tab key alone', async () => {
  await page.goto(poster);
  const seen = new Set();
  for (let i = 0; i < 60; i++) {
    await page.keyboard.press('Tab');
    const at = await page.evaluate(() => (document.activeElement.textContent || document.activeElement.name || document.activeElement.getAttribute('aria-label') || '').trim());
    seen.add(at);
  }
  for (const wanted of [/^Keep as 015/, /^Milestone/, /^Download this save/, /^As a table/, /^Set$/, /^file$/, /^Bench$/, /^Sign out/]) {
    assert.ok([...seen].some(s => wanted.test(s)), `${wanted} among ${[...seen].join(' · ')}`);
  }
});

test('without scripts a piece is still kept, marked and brought back', async () => {
  const context = await browser.newContext({ baseURL: studio.address, javaScriptEnabled: false });
  const plain = await context.newPage();
  await plain.goto('/sign-in');
  await plain.click('text=Sign in as OB');
  await plain.goto('/projects/TIDES/TIM_wall-seabirds_icon');
  await plain.click('button:has-text("Keep as 002")');
  await plain.waitForSelector('text=Kept as 002: TIM_wall-seabirds_icon_OB_002.svg');
  await plain.goto('/projects/TIDES/TIM_wall-seabirds_icon?b=1');
  await plain.click('button:has-text("Bring 001 back on top")');
  await plain.waitForSelector('text=001 is back as a loose save on top');
  await context.close();
});

test('nothing went wrong in the browser, and nothing was asked of another host', () => assert.deepEqual(page.troubles, []));
