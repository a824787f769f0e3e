// The practice desk: a save in each of the ways of desktop programs appears on the open page, is kept, and comes back.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { faults, launch, serve, untilSaid, visit } from './studio.mjs';

let studio, browser, desk, page;
const poster = '/projects/TIDES/TIM_moonpull-poster_key';

before(async () => {
  studio = await serve({ demo: true });
  browser = await launch();
  desk = await visit(browser, studio.address);
  await desk.goto('/');
  await desk.click('text=Sign in as IK');
  page = await desk.context().newPage();
});
after(async () => {
  await browser?.close();
  await studio?.stop();
});

const opened = () => desk.waitForSelector('#state:has-text("As it is on the share")');
const edit = async tool => {
  await desk.click(`#tools >> text=${tool}`);
  await desk.waitForSelector('#state:has-text("Not saved yet")');
};
const saved = async (way, says = /^Saved/, mishap = '') => {
  await desk.selectOption('#way', way);
  await desk.selectOption('#mishap', mishap);
  await desk.click('#save');
  await desk.waitForFunction(() => !/Saving|Not saved yet/.test(document.getElementById('state').textContent));
  assert.match(await desk.textContent('#state'), says);
};

test('from the bench of the demo the desk is found, and opens a layered picture', async () => {
  await desk.goto('/');
  await desk.click('text=practice desk');
  await desk.waitForSelector('h1:has-text("Practice desk")');
  assert.deepEqual(await faults(desk), []);
  await desk.selectOption('#file', { label: 'TIDES/working/TIM_moonpull-poster_key.ora' });
  await opened();
  assert.deepEqual(await faults(desk), []);
});

test('each way of saving is one save, which appears on the open page', async () => {
  await page.goto(poster);
  let loose = 3;
  for (const way of ['over', 'empty', 'beside', 'aside', 'lockfile', 'lock', 'backup']) {
    await edit('Paint a band');
    await saved(way);
    loose++;
    await page.waitForSelector(`text=${loose} loose saves`, { timeout: 25_000 });
  }
  // Nothing of the ways is left that anybody would be asked about.
  await page.goto('/projects/TIDES');
  assert.doesNotMatch(await page.textContent('main'), /Came on the share/);
});

test('many small writes end in what was written last', async () => {
  await edit('Paint a band');
  await saved('many');
  const before = await page.evaluate(at => fetch(at).then(r => r.text()), poster);
  const loose = text => Number(/(\d+) loose saves/.exec(text)?.[1] ?? 0);
  // On a machine that is busy a part of it may be a save of its own; the last one is whole.
  await untilSaid(page, poster, new RegExp(`${loose(before) + 1} loose saves|${loose(before) + 2} loose saves`), 25);
  await desk.click('#again');
  await opened();
  await page.goto(poster);
  assert.doesNotMatch(await page.textContent('main'), /cannot be read/);
});

test('what was saved is kept, and an older version comes back under the same name', async () => {
  await page.goto(poster);
  await page.keyboard.press('k');
  await page.waitForSelector('.said:has-text("015")');
  await page.goto(`${poster}?b=12`);
  await page.click('text=Bring 012 back on top');
  await page.waitForSelector('text=is back as a loose save');
  await desk.click('#again');
  await opened();
  const layers = await desk.locator('#layer option').count();
  await page.goto(`${poster}?b=12`);
  assert.match(await page.textContent('.ledger'), new RegExp(`${layers} layers`));
});

test('a crash with half of the file leaves the last sound one, and a lock that is never given up is told', async () => {
  await edit('Add a layer');
  await saved('over', /only half/, 'half');
  await page.goto(poster);
  await page.waitForSelector('text=cannot be read', { timeout: 25_000 });
  await desk.click('#again');
  await opened();
  await edit('Hide or show it');
  await saved('over', /holds its lock/, 'lock');
  await page.goto(poster);
  await page.waitForSelector('#open-by');
  assert.deepEqual(await faults(page), []);
  await page.click('text=End a forgotten lock');
  await page.waitForSelector('.said:has-text("The lock is ended")');
  assert.equal(await page.locator('#open-by').count(), 0);
});

test('drawings, sounds and edits are changed for real', async () => {
  for (const [file, tool, piece] of [
    ['TIDES/working/TIM_wall-moon_icon.svg', 'Turn its colours', '/projects/TIDES/TIM_wall-moon_icon'],
    ['TIDE-GUIDE/mix/TIM_guide-stop-1_mix.wav', 'Cut a second out', '/projects/TIDE-GUIDE/TIM_guide-stop-1_mix'],
    ['TIDE-FILM/scenes/TIM_foyer-film_edit.otio', 'Shorten every other clip', '/projects/TIDE-FILM/TIM_foyer-film_edit'],
  ]) {
    const name = file.split('/').pop();
    const label = await desk.locator('#file option').filter({ hasText: name }).first().textContent();
    await desk.selectOption('#file', { label });
    await opened();
    await edit(tool);
    await saved('beside');
    await untilSaid(page, piece, /At risk/, 25);
  }
});

test('the bench says what needs somebody, follows what arrives, and its title counts', async () => {
  await page.goto('/');
  assert.match(await page.title(), /^\d+ at risk · Bench/);
  const before = Number((await page.title()).match(/^\d+/)[0]);
  await desk.selectOption('#file', { label: await desk.locator('#file option').filter({ hasText: 'high-water' }).first().textContent() });
  await opened();
  await edit('Add a dot');
  await page.bringToFront();
  await desk.selectOption('#way', 'over');
  await desk.evaluate(() => document.getElementById('save').click());
  await page.waitForFunction(n => document.title.startsWith(`${n} at risk`), before + 1, { timeout: 25_000 });
  assert.match(await page.textContent('#in-hand'), /high-water/);
  assert.deepEqual(await faults(page), []);
});

test('a notice of the browser says what is not kept, for who wants it, when no page is in sight', async () => {
  const other = await browser.newContext({ baseURL: studio.address, permissions: ['notifications'] });
  const mine = await other.newPage();
  // What the browser would show is caught; and the page is one that nobody has in sight.
  await mine.addInitScript(() => {
    window.shown = [];
    const Real = window.Notification;
    window.Notification = class { constructor(name, options) { window.shown.push({ name, ...options }); } };
    Object.defineProperty(window.Notification, 'permission', { get: () => Real.permission });
    window.Notification.requestPermission = () => Real.requestPermission();
    Object.defineProperty(document, 'hidden', { get: () => true });
  });
  await mine.goto('/sign-in');
  await mine.click('text=Sign in as IK');
  await mine.goto('/me');
  await mine.check('#notices');
  const listens = mine.waitForResponse(r => r.url().endsWith('/arriving'));
  await mine.goto('/projects');
  await listens;
  await edit('Add a dot');
  await saved('beside');
  await mine.waitForFunction(() => window.shown.length === 1, null, { timeout: 25_000 });
  const [notice] = await mine.evaluate(() => window.shown);
  assert.match(`${notice.name} ${notice.body}`, /high-water.*Keep it\?/);
  // One for each piece is enough for a while, and none for who wants none.
  await mine.goto('/me');
  await mine.uncheck('#notices');
  await mine.goto('/projects');
  await edit('Add a dot');
  await saved('beside');
  await untilSaid(mine, '/projects/TIDES/TIM_wall-high-water_icon', /[3-9] loose saves/, 25);
  assert.equal(await mine.evaluate(() => window.shown.length), 0);
  await other.close();
});

test('an alt is left for and comes home, and the share follows', async () => {
  await page.goto(`${poster}?b=12`);
  await page.click('text=Alt from 012…');
  await page.fill('input[name=alt]', 'Fog');
  assert.deepEqual(await faults(page), []);
  await page.click('text=Leave the line here and go on there');
  await page.waitForSelector('.said:has-text("Work goes on on alt “fog”")');
  await page.waitForSelector('#line:has-text("Work goes on here")');
  await desk.goto('/practice/TIDES/TIM_moonpull-poster_key');
  await opened();
  await edit('Paint a band');
  await saved('beside');
  await page.waitForSelector('text=1 loose save', { timeout: 25_000 });
  assert.deepEqual(await faults(page), []);
  await page.keyboard.press('k');
  await page.waitForSelector('.said:has-text("001")');
  await page.click('text=Bring it home');
  await page.waitForSelector('.said:has-text("016 of the main line")');
  // Both alts are drawn below; a block is laid beside what is looked at.
  const words = await page.locator('.strip svg text').allTextContents();
  assert.deepEqual(words.filter(w => w.startsWith('alt ')).sort(), ['alt “daybreak”, set aside', 'alt “fog”, set aside']);
});
