// The studio's convention: edited in place, proved as it is edited, put into use, moved to and back; and names that are read.
import { test, before, after } from 'node:test';
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { faults, kept, launch, serve, visit } from './studio.mjs';

let studio, browser, page;
before(async () => {
  studio = await serve({ demo: true });
  browser = await launch();
  page = await visit(browser, studio.address);
  await page.goto('/sign-in');
  await page.click('text=Sign in as IK');
  await page.waitForURL('**/');
});
after(async () => {
  await browser?.close();
  await studio?.stop();
});

const word = '#draft .word';
const labels = () => page.locator('#draft .slot-card input[name$=".label"]').evaluateAll(all => all.map(i => i.value));
const name = () => page.locator('#draft .name .sr-only').textContent();
// Every edit is answered by the draft anew, with all that was found about it.
const edited = async act => {
  const answer = page.waitForResponse(r => r.url().includes('handler=Draft'));
  await act();
  await answer;
  await page.waitForTimeout(100);
};
const choose = (field, value) => edited(() => page.selectOption(`[name="${field}"]`, value));
const write = (field, value) => edited(async () => {
  await page.fill(`[name="${field}"]`, value);
  await page.press(`[name="${field}"]`, 'Tab');
});

test('the screen shows the convention as it reads in a name, and all kept names legal under it', async () => {
  await page.click('nav >> text=Convention');
  assert.deepEqual(await labels(), ['client', 'subject', 'function', 'hand', 'version', 'milestone']);
  assert.match(await page.textContent(word), /Every name reads in one way, (\d+) of \1 kept names legal/);
  assert.equal(await name(), 'TIM_guide-stop-1_mix_TV_005.wav');
  assert.ok(await page.isDisabled('text=Use for new projects'));
});

test('a draft with two readings shows such a name, and the step can be taken back', async () => {
  await choose('s.2.kind', 'words');
  await choose('s.2.join', '-');
  assert.match(await page.textContent(word), /Some names read in two ways/);
  assert.match(await page.textContent('#verdict'), /TIM_\w+-\w+-\w+/);
  assert.equal(await page.locator('#verdict .reading').count(), 2);
  assert.ok(await page.isDisabled('text=Use for new projects'));
  assert.deepEqual(await faults(page), []);
  await edited(() => page.click('text=Undo'));
  assert.match(await page.textContent(word), /Every name reads in one way/);
  await edited(() => page.click('text=Undo'));
  assert.match(await page.textContent(word), /Every name reads in one way, (\d+) of \1/);
  assert.deepEqual([await page.inputValue('[name="s.2.kind"]'), await page.inputValue('[name="s.2.join"]')], ['code', '_']);
});

test('slots are added, moved by keyboard and by dragging, and removed', async () => {
  await edited(() => page.click('text=Add a slot'));
  assert.deepEqual((await labels()).at(-1), 'part');
  await page.focus('[name="s.6.label"]');
  await edited(() => page.keyboard.press('Alt+ArrowLeft'));
  assert.deepEqual((await labels()).slice(-2), ['part', 'milestone']);
  assert.equal(await page.evaluate(() => document.activeElement.name), 's.5.label');
  await edited(() => page.dragAndDrop('[data-slot="5"] .bar', '[data-slot="1"] .bar'));
  assert.deepEqual((await labels()).slice(0, 3), ['client', 'part', 'subject']);
  await edited(() => page.click('[aria-label="Remove part"]'));
  assert.deepEqual(await labels(), ['client', 'subject', 'function', 'hand', 'version', 'milestone']);
});

test('a fault stands at its slot until it is mended', async () => {
  await write('s.4.width', '0');
  assert.match(await page.textContent('[data-slot="4"] .fault'), /width of 1 to 9/);
  assert.match(await page.textContent(word), /1 fault/);
  await write('s.4.width', '4');
  await write('s.4.lead', 'v');
  assert.equal(await name(), 'TIM_guide-stop-1_mix_TV_v0005.wav');
  assert.equal(await page.locator('#draft .fault').count(), 0);
});

test('forms are put together slot by slot', async () => {
  for (const slot of ['client', 'subject', 'function']) await edited(() => page.click(`label[title="${slot} in the master form"]`));
  await edited(() => page.click('text=Add a slot'));
  await choose('s.6.kind', 'state');
  assert.match(await page.textContent('#draft tbody tr:nth-child(4)'), /_guide-stop-1\s+function\s+_mix[\s\S]*_MASTER/);
  await edited(() => page.click('label[title="subject in the current form"]'));
  assert.match(await page.textContent('#verdict'), /has no words, so a piece could not be called anything/);
  await edited(() => page.click('text=Undo'));
  await edited(() => page.click('[aria-label="Remove part"]'));
  for (const slot of ['client', 'subject', 'function']) await edited(() => page.click(`label[title="${slot} in the master form"]`));
});

test('what it would rename is shown, and nothing is renamed by putting it into use', async () => {
  await page.click('text=See what moving TIDE-GUIDE would rename');
  await page.waitForSelector('text=would rename 5 of 7 names');
  await page.click('text=Use for new projects');
  await page.waitForSelector('text=Nothing that is there was renamed');
  await page.goto('/projects/TIDE-GUIDE/TIM_guide-stop-1_mix');
  assert.equal(await page.textContent('.name .sr-only'), 'TIM_guide-stop-1_mix_TV_005.wav');
  await page.goto('/projects/new');
  assert.match((await page.textContent('text=Names will read so')).replace(/\s/g, ''), /SMT_tide-poster_key_IK_v0001/);
});

test('a project moves when asked, as a whole, and back again', async () => {
  await page.goto('/convention');
  await page.click('text=See what moving TIDE-GUIDE would rename');
  await page.click('text=Move TIDE-GUIDE, rename 5 names');
  await page.waitForSelector('text=TIDE-GUIDE holds the studio’s convention now: 5 names changed');
  await page.goto('/projects/TIDE-GUIDE/TIM_guide-stop-1_mix');
  assert.equal(await page.textContent('.name .sr-only'), 'TIM_guide-stop-1_mix_TV_v0005.wav');
  await page.goto('/convention');
  await page.click('text=Undo the move, give the old names back');
  await page.waitForSelector('text=The old names are back: 5 names');
  await page.goto('/projects/TIDE-GUIDE/TIM_guide-stop-1_mix');
  assert.equal(await page.textContent('.name .sr-only'), 'TIM_guide-stop-1_mix_TV_005.wav');
});

test('the convention leaves as a file and comes back as a draft; a faulty file changes nothing', async () => {
  await page.goto('/convention');
  const [file] = await Promise.all([page.waitForEvent('download'), page.click('text=Export')]);
  const text = readFileSync(await file.path(), 'utf8');
  assert.equal(JSON.parse(text).slots[4].lead, 'v');
  const bring = async (called, content) => {
    await page.click('#import summary');
    await page.setInputFiles('#import input[type=file]', { name: called, mimeType: 'application/json', buffer: Buffer.from(content) });
    await page.click('text=Draft from this file');
  };
  await bring('ours.json', text.replace('"width": 4', '"width": 5').replace('"code": "mix"', '"code": "mixdown"'));
  await page.waitForSelector('text=ours.json is the draft below');
  assert.equal(await page.inputValue('[name="s.4.width"]'), '5');
  assert.match(await page.textContent('[aria-label="Projects"]'), /TIDES/);
  await bring('broken.json', text.replace('"kind": "hand"', '"kind": "foot"'));
  await page.waitForSelector('text=broken.json was not imported');
  assert.match(await page.textContent('.said.bad >> nth=1'), /slots\[3\]\.kind: There is no kind “foot”/);
  assert.equal(await page.inputValue('[name="s.4.width"]'), '4');
  assert.deepEqual(await faults(page), []);
});

test('a draft is learned from pasted names, with what speaks for it', async () => {
  await page.click('#learn summary');
  await page.fill('#learn textarea', ['gull', 'kelp', 'low-water', 'storm'].flatMap(s => [1, 2, 3].map(n => `TIM_${s}_v0${n}.ora`)).concat('notes (2).txt').join('\n'));
  await page.click('text=Draft from these names');
  await page.waitForSelector('text=explains 12 of 13 names');
  assert.deepEqual(await labels(), ['client', 'subject', 'version']);
  await page.click('summary:has-text("What speaks for each slot")');
  await page.waitForSelector('text=notes (2).txt');
  assert.match(await page.textContent(word), /Not enough for a studio yet/);
});

test('codes have their meanings, and stay while something is called by them', async () => {
  await page.goto('/convention/codes');
  assert.deepEqual(await faults(page), []);
  await page.fill('[aria-label="A new code of function"]', 'proof');
  await page.fill('[aria-label="What the new code of function means"]', 'a proof for the printer');
  await page.click('text=Add to function');
  await page.waitForSelector('text=proof is on the list function');
  await page.fill('[aria-label="A new code of function"]', 'KEY');
  await page.click('text=Add to function');
  await page.waitForSelector('text=some file systems take “KEY” for the same');
  assert.ok(await page.isDisabled('button:has-text("in use key")'));
  await page.click('button:has-text("take off proof")');
  await page.waitForSelector('text=proof is off the list function');
});

const hand = async (called, content = 'a save') => page.setInputFiles('input[name=file]', { name: called, mimeType: 'application/octet-stream', buffer: Buffer.from(content) });

test('a badly named file dropped on a project says where it belongs, and goes there', async () => {
  await page.goto('/projects/TIDES');
  await hand('Moonpul poster FINAL 12.03.2026 (2).ora');
  await page.waitForSelector('text=“moonpul” is in its subject');
  assert.match(await page.textContent('#proposal'), /“FINAL” is a copy mark; “12\.03\.2026” is 12 Mar 2026 or 3 Dec 2026; “\(2\)” is a copy mark/);
  assert.equal(await page.inputValue('[name="slot.subject"]'), 'moonpul-poster');
  assert.deepEqual(await faults(page), []);
  await page.click('[formaction$="/TIM_moonpull-poster_key/saves"]');
  await page.waitForURL('**/projects/TIDES/TIM_moonpull-poster_key');
  await page.waitForSelector('text=4 loose saves since 014');
});

test('a file dropped on the wrong piece is taken all the same, and may be given to the right one', async () => {
  await page.goto('/projects/TIDES/TIM_floor-map_layout');
  await hand('start.txt', 'the first');
  await kept(page, '001');
  await hand('room texts copy.txt', 'another text');
  await page.waitForSelector('text=its name speaks for TIM_room-texts_layout');
  assert.deepEqual(await faults(page), []);
  await page.click('text=Add it to TIM_room-texts_layout too');
  await page.waitForURL('**/TIM_room-texts_layout');
  await page.waitForSelector('text=It lies here as a loose save too');
});

test('someone who is not the owner may draft, but not put into use', async () => {
  const other = await visit(browser, studio.address);
  await other.goto('/sign-in');
  await other.click('text=Sign in as OB');
  await other.goto('/convention');
  await other.waitForSelector('text=The studio’s owner puts it into use');
  assert.equal(await other.locator('text=Use for new projects').count(), 0);
  assert.equal(await other.locator('text=Move TIDES').count(), 0);
  assert.deepEqual(other.troubles, []);
});

test('the browser reported nothing on the way', () => assert.deepEqual(page.troubles, []));
