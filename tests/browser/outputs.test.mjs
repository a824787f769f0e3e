// Copies for use: made by recipes, matched when they come from elsewhere, masters, cut lines, and parts that become pieces.
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { after, before, test } from 'node:test';
import { faults, launch, serve, untilSaid, visit } from './studio.mjs';

const poster = 'TIM_moonpull-poster_key';
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
});

const said = () => page.textContent('.said');

test('a recipe is made with its example beside it, and by it an output of the newest version', async () => {
  await page.goto('/recipes/TIDES?kind=Picture');
  await page.fill('[name="Form.Name"]', 'Window, half size');
  await page.selectOption('[name="Form.File"]', 'Png');
  await page.fill('[name="Form.Width"]', '100');
  await page.fill('[name="Form.Height"]', '100');
  // A print without its resolution is none, and says so while it is typed.
  await page.waitForSelector('#example >> text=needs its resolution');
  await page.fill('[name="Form.Dpi"]', '72');
  await page.selectOption('[name="Form.Fit"]', 'Fill');
  await page.waitForSelector('#example >> text=283 × 283 px');
  assert.deepEqual(await faults(page), []);
  await page.click('text=Make it a recipe of TIDES');
  assert.match(await said(), /Window, half size is set, for TIDES/);

  await page.goto(`/outputs/TIDES/${poster}?recipe=window-half-size`);
  assert.match(await page.textContent('h1'), /100x100mm\.png/);
  assert.match(await page.textContent('.ledger'), /13 layers become one/);
  await page.keyboard.press('Enter');
  await page.waitForSelector('text=Download it', { timeout: 60_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), page.click('text=Download it')]);
  assert.match(download.suggestedFilename(), /_100x100mm\.png$/);
  assert.deepEqual(await faults(page), []);
});

test('several are made at once, and what is not of the newest version is made anew with one key', async () => {
  await page.goto(`/outputs/TIDES/${poster}`);
  await page.click('text=Several at once');
  const several = page.locator('details.several', { hasText: 'Several at once' });
  await several.evaluate(e => e.querySelectorAll('input:checked').forEach(box => { box.checked = false; }));
  await several.locator('label', { hasText: 'For mails' }).locator('input').check();
  for (const number of ['013', '014']) await several.locator('label', { hasText: new RegExp(`^\\s*${number}\\s*$`) }).locator('input').check();
  await several.locator('button').click();
  assert.match(await said(), /2 outputs are being made/);
  await page.keyboard.press('o');
  await page.waitForFunction(() => /being made|newest versions already/.test(document.querySelector('.said')?.textContent ?? ''));
  await untilSaid(page, page.url(), /699x1080px \(2\)\.webp/);
});

test('a file that came says why it is taken to be of a version, and one that is not certain is asked about', async () => {
  await page.goto('/projects/TIDES');
  await page.click('text=tides-for-the-press.webp');
  await page.waitForSelector('text=Taken to be of 013');
  assert.match(await page.textContent('[data-panel]'), /alike by (9\d|100) %/);
  await page.goto('/projects/TIDES');
  await page.click('text=ticket-proof.png');
  await page.waitForSelector('text=Of which version is it?');
  await page.click('text=Of none of these');
  assert.match(await said(), /is of no version here/);
  await page.goto('/projects/TIDES');
  assert.equal(await page.locator('text=ticket-proof.png').count(), 0);
  assert.deepEqual(await faults(page), []);
});

test('a version becomes the master under its own name, and can be none again', async () => {
  await page.goto(`/projects/TIDES/TIM_foyer-banner_key`);
  await page.click('text=Mark 002 as master');
  await page.waitForSelector('text=002 is the master');
  assert.match(await page.textContent('.ledger dl'), /Master\s*TIM_foyer-banner_key_MASTER_\d{8}\.ora/);
  assert.ok(await page.locator('svg title', { hasText: '002: master' }).count());
  await page.click('.said >> text=Take it back');
  await page.waitForSelector('text=Mark 002 as master');
  // A flat one is refused, with what to do.
  await page.goto('/projects/TIDES/TIM_moon-study_sketch');
  await page.click('text=Mark 001 as master');
  await page.waitForSelector('text=in a format for copies');
});

test('cut lines are read back by the stand-in for a machine, and drawn', async () => {
  await page.goto('/outputs/TIDES/TIM_wall-high-water_icon?recipe=cut-hpgl');
  assert.match(await page.textContent('.ledger'), /6 strokes, [\d.]+ m cut/);
  assert.equal(await page.locator('.easel svg path').count(), 2);
  assert.deepEqual(await faults(page), []);
});

test('layers of another piece are put in as a loose save, and a region begins a piece', async () => {
  await page.goto('/parts/TIDES/TIM_wall-low-water_icon');
  await page.click('a:has-text("TIM_leaflet_layout")');
  await page.locator('input[name=parts]').first().check();
  await page.click('text=Put them in as a loose save');
  await page.waitForSelector('text=The parts are in');
  assert.match(await page.textContent('.head'), /1 loose save/);

  await page.goto(`/projects/TIDES/${poster}?b=14`);
  await page.click('text=Start a piece from 014');
  await page.fill('[name="slot.subject"]', 'Moon detail');
  await page.click('text=Only a region of it');
  await page.fill('[name=cutX]', '300');
  await page.fill('[name=cutY]', '200');
  await page.fill('[name=cutWidth]', '400');
  await page.fill('[name=cutHeight]', '300');
  await page.click('button:has-text("Start the piece")');
  await page.waitForURL(/TIM_moon-detail/);
  await page.waitForSelector('text=400 × 300 px', { timeout: 60_000 });
});

test('what a format is for is said by an owner', async () => {
  await page.goto('/formats?of=.gull');
  await page.fill('[name=Name]', 'Gull drawing');
  await page.check('input[name=IsNative][value=true]');
  await page.fill('[name=OpenedBy]', 'the two desks by the window');
  await page.click('text=Set it');
  assert.match(await said(), /what is said of \.gull holds/);
  assert.match(await page.textContent('table'), /the two desks by the window/);
  assert.deepEqual(await faults(page), []);
});

test('documents are made: a print with its bleed, and a contact sheet', async () => {
  await page.goto(`/outputs/TIDES/${poster}?recipe=print-a3-pdf`);
  await page.waitForSelector('text=/about [\\d.]+ [kM]B/');
  await page.keyboard.press('Enter');
  await page.waitForSelector('text=Download it', { timeout: 60_000 });
  const made = [await page.getAttribute('a:has-text("Download it")', 'href')];
  for (const sheet of ['/sheets/TIDES', `/sheets/TIDES/${poster}`]) {
    // Its pictures are drawn first, and the page says how far they are until then.
    await page.goto(sheet);
    await page.waitForSelector('text=as a PDF', { timeout: 120_000 });
    made.push(await page.getAttribute('a:has-text("Download it")', 'href'));
  }
  for (const address of made) {
    const answer = await page.request.get(address);
    assert.equal(answer.status(), 200);
    assert.equal((await answer.body()).subarray(0, 5).toString(), '%PDF-');
  }
});

test('texts whose typeface is at hand become outlines, and the others are named before', async () => {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 512 512" width="512" height="512"><g id="Words">
    <text x="20" y="140" font-family="DejaVu Sans" font-size="64">High Water</text><text x="20" y="240" font-family="Fjordline" font-size="40">14:20</text></g></svg>`;
  await page.goto('/projects/TIDES/TIM_wall-moon_icon');
  await page.setInputFiles('#save-file', { name: 'moon.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) });
  await page.waitForSelector('text=1 loose save');
  await untilSaid(page, page.url(), /2 layers|2 texts|Words/);
  await page.click('button:has-text("Keep as")');
  await page.waitForLoadState('networkidle');
  await page.goto('/outputs/TIDES/TIM_wall-moon_icon?recipe=plain-svg');
  await page.waitForSelector('text=no file of its typeface Fjordline is at hand');
  assert.match(await page.textContent('.ledger'), /1 text does not become outlines \(1 does\)/);
  assert.deepEqual(await faults(page), []);
  await page.click('button:has-text("Make")');
  await page.waitForSelector('text=Download it', { timeout: 60_000 });
  const href = await page.getAttribute('text=Download it', 'href');
  const made = await page.evaluate(at => fetch(at).then(r => r.text()), href);
  assert.ok(!made.includes('High Water</text>') && made.includes('14:20</text>') && made.includes('<path'));
});

test('a recipe goes out as a file, and comes in as one that is looked at before it is set', async () => {
  await page.goto('/recipes/TIDES?key=print-a2-300');
  const [download] = await Promise.all([page.waitForEvent('download'), page.click('text=Download print-a2-300 as a file')]);
  const recipe = JSON.parse(readFileSync(await download.path()));
  recipe.recipe = 'corner';
  recipe.name = 'The upper corner';
  recipe.picture.region = { x: 0, y: 0, width: 300, height: 300 };
  const hand = text => page.setInputFiles('input[accept*=json]', { name: 'x.json', mimeType: 'application/json', buffer: Buffer.from(text) });
  await hand(JSON.stringify(recipe));
  await page.click('text=Open it');
  assert.match(await said(), /Nothing is set yet/);
  assert.equal(await page.inputValue('[name="Form.RegionWidth"]'), '300');
  assert.equal(await page.getAttribute('.example svg svg', 'viewBox'), '0 0 300 300');
  assert.equal(await page.locator('text=The upper corner').count(), 0);
  assert.deepEqual(await faults(page), []);
  await page.click('text=Make it a recipe of TIDES');
  assert.match(await said(), /The upper corner is set/);
  await hand('{"recipe": 3}');
  await page.click('text=Open it');
  assert.match(await said(), /holds no recipe, and nothing was set/);
});
