// A project's tree as a user works in it: files are dropped on folders, replaced, moved, deleted and taken back; links are broken and
// mended; and the web shows who uses what.
import { test, before, after } from 'node:test';
import assert from 'node:assert/strict';
import { createHash, randomBytes } from 'node:crypto';
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

const row = name => page.locator('[data-row]', { has: page.locator(`[data-open]:text-is("${name}")`) });
const drop = async (selector, ...files) => {
  const transfer = await page.evaluateHandle(given => {
    const data = new DataTransfer();
    for (const [name, text] of given) data.items.add(new File([text], name));
    return data;
  }, files);
  for (const type of ['dragenter', 'dragover', 'drop']) await page.dispatchEvent(selector, type, { dataTransfer: transfer });
};
const text = async address => (await page.request.get(address)).text();

test('files that are dropped on a folder of the plan are stored there', async () => {
  await page.goto('/tree/TIDES/assets');
  assert.deepEqual(await faults(page), []);
  await Promise.all([
    page.waitForEvent('load'),
    drop('.tree-plan [data-folder="documents"]', ['quote.txt', '1200 for all of it'], ['letter.txt', 'Dear museum']),
  ]);
  await page.goto('/tree/TIDES/documents');
  await row('letter.txt').waitFor();
  assert.ok(await row('quote.txt').isVisible());
});

test('what takes the place of an asset says first who needs what is there, and its past stays', async () => {
  await page.goto('/tree/TIDES/assets');
  await drop('.folder', ['paper-grain.png', 'no picture, but a new content'], ['new.txt', 'new']);
  const dialog = page.locator('dialog.many');
  await dialog.locator('text=4 versions of 1 piece saw what is there').waitFor();
  assert.deepEqual(await faults(page), []);
  await dialog.locator('button:has-text("Store 2 files")').click();
  await dialog.locator('text=2 of 2 stored').waitFor();
  await dialog.locator('button:text-is("Done")').click();
  await row('new.txt').waitFor();
  await row('paper-grain.png').locator('[data-look]').click();
  await page.waitForSelector('#panel >> text=Replaced 3 times');
  assert.equal(await page.locator('#panel .past > li').count(), 4);
  await page.locator('#panel .past > li', { hasText: 'third' }).locator('button:text-is("Bring back")').click();
  await page.waitForSelector('.said >> text=is back, on top of the others');
  await page.waitForSelector('#panel >> text=Replaced 4 times');
  assert.deepEqual(await faults(page), []);
});

test('a second original of a name stands beside the first, and a piece is started from one', async () => {
  await page.goto('/tree/TIDES/originals');
  await drop('.folder', ['tide-tables.txt', 'other tables']);
  await page.locator('dialog.many >> text=It is stored as tide-tables (2).txt').waitFor();
  await page.click('dialog.many >> text=Done');
  await row('tide-tables (2).txt').locator('[data-look]').click();
  await page.waitForSelector('#panel >> text=It is never changed');
  await page.click('text=Start a piece from this');
  await page.fill('[name="slot.subject"]', 'Tide tables');
  await page.waitForSelector('#resulting-name >> text=tide-tables');
  await page.click('text=Start the piece');
  await page.waitForSelector('.said >> text=stays as it was received');
  await page.click('dd >> text=originals/tide-tables (2).txt');
  await page.waitForSelector('#panel >> text=TIM_tide-tables_');
});

test('a large file goes on where its connection broke', async () => {
  await page.goto('/tree/TIDES/assets');
  let cut = 0;
  await page.route('**/uploads/*', route => route.request().method() === 'PATCH' && cut++ === 0 ? route.abort('connectionreset') : route.continue());
  const bytes = randomBytes(12e6);
  await page.setInputFiles('[data-tree-input]:not([webkitdirectory])', { name: 'long.bin', mimeType: 'application/octet-stream', buffer: bytes });
  await row('long.bin').waitFor({ timeout: 30000 });
  assert.ok(cut > 1);
  await page.unroute('**/uploads/*');
  const id = await row('long.bin').getAttribute('data-id');
  const held = await (await page.request.get(`/files/${id}`)).body();
  assert.equal(createHash('sha256').update(held).digest('hex'), createHash('sha256').update(bytes).digest('hex'));
});

test('a file is renamed by key and moved by hand, and both can be undone', async () => {
  await page.goto('/tree/TIDES/assets');
  await row('new.txt').focus();
  await page.keyboard.press('r');
  await page.locator('#sight [name=name]').fill('con.txt');
  await page.click('#sight >> text=Rename >> nth=1');
  await page.waitForSelector('.said.bad >> text=Windows keeps');
  await row('new.txt').focus();
  await page.keyboard.press('r');
  await page.locator('#sight [name=name]').fill('palette.txt');
  await page.keyboard.press('Enter');
  await row('palette.txt').waitFor();
  await row('palette.txt').dragTo(page.locator('.tree-plan [data-folder="documents"]'));
  await page.click('#sight button:has-text("Move palette.txt")');
  await page.waitForSelector('.said >> text=stands in documents/ now');
  assert.equal(await row('palette.txt').count(), 0);
  await page.click('.said button');
  await page.waitForSelector('.said >> text=All of it is where it was');
  await row('palette.txt').waitFor();
});

test('an asset that an old version needs is deleted with that in sight, and taken back', async () => {
  await page.goto('/tree/TIDES/assets');
  await row('moon-disc.png').focus();
  await page.keyboard.press('Delete');
  await page.waitForSelector('#sight >> text=Would lead nowhere: TIM_leaflet_layout (line 5)');
  await page.waitForSelector('#sight >> text=TIM_leaflet_layout 002–004');
  assert.deepEqual(await faults(page), []);
  await page.click('text=Delete 1 file, which 3 versions need');
  await page.waitForSelector('.said >> text=what versions saw of it stays with them');
  await page.goto('/references/TIDES/TIM_leaflet_layout');
  await page.waitForSelector('text=3 are not found');
  await page.click('text=Take it back');
  await row('moon-disc.png').waitFor();
});

// A busy machine reads a save later, and then all that follows from it is there.
async function shown(what) {
  for (let tries = 0; tries < 60 && !await page.locator(what).first().isVisible(); tries++) {
    await page.waitForTimeout(1000);
    await page.reload();
  }
  await page.waitForSelector(what);
}

test('a link that leads nowhere is mended as a new loose save', async () => {
  await page.goto('/projects/TIDES');
  assert.deepEqual(await faults(page), []);
  await page.click('.health >> text=TIM_leaflet_layout >> nth=0');
  await page.waitForSelector('text=it holds what the link led to before');
  assert.deepEqual(await faults(page), []);
  await page.click('text=Use this');
  await page.waitForSelector('.said >> text=1 link leads to what you chose');
  await shown('text=One is not found');
  await page.waitForSelector('text=../assets/birds/seabirds.svg');
  // What leads to somebody's desk is put among the assets, and then led to.
  await page.setInputFiles('.reference.broken [name=file]', { name: 'qr.png', mimeType: 'image/png', buffer: Buffer.from('a picture') });
  await page.waitForSelector('text=it has the same name');
  await page.click('text=Use this');
  await shown('text=The newest save refers to 4 files');
  assert.equal(await page.locator('.reference.broken').count(), 0);
  // The version that was kept is as it was.
  await page.selectOption('[name=b]', '4');
  await page.waitForSelector('text=004 refers to 4 files');
  assert.ok(await page.isVisible('text=../assets/gulls.svg'));
});

test('links follow a file that is renamed, and a whole project is mended at once', async () => {
  await page.goto('/tree/TIDES/assets');
  await row('moon-disc.png').focus();
  await page.keyboard.press('r');
  await page.locator('#sight [name=name]').fill('full moon.png');
  await page.check('#sight [name=links]');
  await page.click('#sight button:text-is("Rename")');
  await page.waitForSelector('.said >> text=The links of TIM_leaflet_layout lead there, as new loose saves');
  await page.goto('/references/TIDES/TIM_leaflet_layout');
  await page.waitForSelector('text=../assets/full%20moon.png');
  await page.goto('/references/TIDE-FILM');
  assert.deepEqual(await faults(page), []);
  await page.waitForSelector('text=2 links to mend');
  await page.click('text=Mend the chosen links');
  await page.waitForSelector('.said >> text=1 link leads to what you chose, in 1 new loose save');
  await page.waitForSelector('text=1 link to mend');
});

test('the project is seen as it stood, and given back as it was', async () => {
  await page.goto('/then/TIDES');
  assert.deepEqual(await faults(page), []);
  // How many moments stand together as one stretch depends on how long ago they were.
  const moment = page.locator('.past-strip .mark', { has: page.locator('title', { hasText: /leaflet_layout_TV_003(?!.*open this stretch)/ }) });
  const stretches = page.locator('.past-strip .mark', { has: page.locator('title', { hasText: 'open this stretch' }) });
  async function found(depth) {
    if (await moment.count()) return true;
    const at = page.url();
    for (let i = 0; depth < 3 && i < await stretches.count(); i++) {
      await stretches.nth(i).click();
      await page.waitForURL(url => url.href !== at);
      if (await found(depth + 1)) return true;
      await page.goto(at);
    }
    return false;
  }
  assert.ok(await found(0));
  await moment.first().click();
  await page.waitForSelector('h1 >> text=As it stood');
  await page.waitForSelector('text=gulls.svg');
  assert.equal(await page.locator('.files >> text=seabirds.svg').count(), 0);
  const zip = await page.request.get(await page.locator('text=Download all').getAttribute('href'));
  assert.equal((await zip.body()).subarray(0, 2).toString(), 'PK');
  await page.goto('/references/TIDES/TIM_leaflet_layout?b=3');
  const gathered = await (await page.request.get(await page.locator('text=Download 003 with what it saw').getAttribute('href'))).body();
  for (const name of ['assets/gulls.svg', 'assets/moon-disc.png', 'assets/paper-grain.png', 'working/TIM_leaflet_layout.svg']) assert.ok(gathered.includes(`_as-it-was/${name}`), name);
});

test('the web shows who uses what, by keyboard and as a table', async () => {
  await page.goto('/web/TIDES');
  assert.deepEqual(await faults(page), []);
  await page.focus('.web .node >> nth=0');
  await page.keyboard.press('ArrowRight');
  assert.equal(await page.evaluate(() => document.activeElement.dataset.rank), '1');
  await page.locator('.web .node', { hasText: 'paper-grain' }).click();
  await page.waitForSelector('#panel >> text=Used today by');
  assert.equal(await page.locator('.web .edge.on-way').count(), 1);
  await page.click('text=as a table');
  await page.locator('.web-table tr', { hasText: 'working/TIM_leaflet_layout.svg' }).locator('text=seabirds.svg').waitFor();
  assert.deepEqual(await faults(page), []);
  await page.goto('/web/TIDE-FILM?state=Broken');
  assert.equal(await page.locator('.web .node.nowhere').count(), 1);
  assert.ok(await text('/web/TIDE-FILM?state=Unused').then(t => t.includes('surf.wav')));
});

test('nothing went wrong on the way', () => assert.deepEqual(
  // The one connection that was cut on purpose.
  page.troubles.filter(t => !t.includes('ERR_CONNECTION_RESET')), []));
