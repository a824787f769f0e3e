// A whole day's work in an empty studio, first by mouse, then by keyboard alone, then with scripts off.
import { test, before, after } from 'node:test';
import assert from 'node:assert/strict';
import { faults, kept, launch, serve, visit } from './studio.mjs';
import { ora } from './files.mjs';

let studio, browser, page;
const poster = (...colour) => ora({ Sky: colour, Moon: [240, 230, 200] });
const svg = size => Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="20" height="20"><rect width="${size}" height="9"/></svg>`);

before(async () => {
  studio = await serve();
  browser = await launch();
  page = await visit(browser, studio.address);
});
after(async () => {
  await browser?.close();
  await studio?.stop();
});

const dropAll = async files => {
  await page.waitForLoadState('load');
  const transfer = await page.evaluateHandle(all => {
    const data = new DataTransfer();
    for (const [n, bytes] of all) data.items.add(new File([Uint8Array.from(atob(bytes), c => c.charCodeAt(0))], n));
    return data;
  }, files.map(([n, content]) => [n, content.toString('base64')]));
  for (const type of ['dragenter', 'dragover', 'drop']) await page.dispatchEvent('body', type, { dataTransfer: transfer });
};
const piece = '/projects/TIDES/TIM_moonpull-poster_key';
const said = text => page.waitForSelector(`.said:has-text("${text}")`);

test('the first steps lead from nothing to the second version', async () => {
  await page.goto('/');
  for (const [field, value] of [['studioName', 'Spring Tide'], ['name', 'Ilse Korhonen'], ['initials', 'IK'], ['password', 'a few plain words']])
    await page.fill(`[name=${field}]`, value);
  await page.click('text=Found the studio');
  assert.equal(await page.locator('.steps li').count(), 4);
  assert.deepEqual(await faults(page), []);
  await page.click('.steps li.next a');
  for (const [field, value] of [['Title', 'Tides'], ['Code', 'TIDES'], ['ClientName', 'Tide Museum'], ['ClientCode', 'TIM']])
    await page.fill(`[name=${field}]`, value);
  await page.click('button:has-text("Start the project")');
  await page.waitForURL('**/projects/TIDES');
  assert.match(await page.textContent('.steps li.next'), /Drop in the file/);
  await dropAll([['Moonpull poster key.ora', poster(40, 60, 120)]]);
  await page.waitForSelector('#resulting-name >> text=TIM_moonpull-poster_key_IK_001');
  await page.click('button:has-text("Start the piece")');
  await page.waitForURL(`**${piece}`);
  await kept(page, '001');
  await dropAll([['Moonpull poster key.ora', poster(20, 20, 80)]]);
  await page.waitForSelector('text=Keep as 002');
  assert.match(await page.textContent('.steps li.next'), /Keep it/);
  await page.click('text=Keep as 002');
  await kept(page, '002');
  await page.reload();
  assert.equal(await page.locator('.steps').count(), 0);
});

test('a save that is known says so, and one that is cut off waits beside the current file', async () => {
  await dropAll([['poster.ora', poster(40, 60, 120)]]);
  await said('the same as 001');
  assert.match(await page.textContent('.ledger'), /nothing new on disk/);
  await page.goto('/');
  await page.waitForSelector('text=Everything is kept');
  await page.goto(piece);
  await dropAll([['poster.ora', poster(1, 2, 3).subarray(0, 400)]]);
  await said('cannot be read');
  assert.match(await page.textContent('.easel .tag'), /no number yet/);
  assert.ok(await page.isVisible('.easel img'));
  await page.click('.said >> text=Discard it');
  await said('can be taken back for 30 days');
  await page.click('.said >> text=Take it back');
  await said('cannot be read');
  await page.click('.said >> text=Discard it');
  await said('can be taken back');
});

test('a name with a number offers it and the next, with a word on why', async () => {
  await dropAll([['TIM_moonpull-poster_key_IK_014.ora', poster(9, 9, 90)]]);
  await said('above all numbers used so far');
  await page.waitForSelector('button:has-text("Keep as 014, as its name says")');
  await page.click('text=or as 003, the next');
  await kept(page, '003');
});

test('several files at once show where each goes, and go there', async () => {
  await page.goto('/');
  await dropAll([['moonpull poster key.ora', poster(7, 7, 70)], ['gull icon.svg', svg(4)], ['gull icon 2.svg', svg(6)]]);
  await page.waitForSelector('dialog.many');
  const rows = page.locator('.many-row');
  const places = (await rows.locator('select').evaluateAll(all => all.map(s => s.selectedOptions[0].text.split(':')[0]))).sort();
  assert.deepEqual(places, ['a new piece TIM_gull_icon in TIDES', 'a save of TIM_moonpull-poster_key', 'the next save of TIM_gull_icon']);
  assert.deepEqual(await faults(page), []);
  await page.click('dialog.many >> text=Store 3 files');
  await page.waitForSelector('text=3 of 3 stored, in 2 pieces.');
  await page.click('dialog.many >> text=Done');
  await page.waitForSelector('h1:has-text("Nothing needs you")');
  assert.equal(await page.locator('#in-hand .bench-row').count(), 2);
});

test('it is found as one types, and the key / leads there', async () => {
  await page.goto('/');
  await page.keyboard.press('/');
  await page.waitForURL('**/find');
  await page.keyboard.type('moonp 003');
  await page.waitForSelector('.found >> text=TIM_moonpull-poster_key_IK_003.ora');
  await page.waitForURL('**q=moonp*');
  await page.fill('[name=q]', 'nothing so called');
  await page.waitForSelector('text=Nothing is called so');
  assert.deepEqual(await faults(page), []);
});

test('a piece is renamed with all its files, and gets its names back', async () => {
  await page.goto('/tidy/TIDES/TIM_moonpull-poster_key');
  await page.fill('[name="slot.subject"]', 'Harvest poster');
  await page.click('button:has-text("Rename 4 files")');
  await said('TIM_harvest-poster_key now');
  await page.goto(piece);
  assert.match(page.url(), /TIM_harvest-poster_key$/);
  await page.goto('/tidy/TIDES/TIM_harvest-poster_key');
  assert.deepEqual(await faults(page), []);
  await page.click('text=Give these names back');
  await said('TIM_moonpull-poster_key again');
});

test('a piece is deleted with what it frees, and taken back; one that is all kept is put away', async () => {
  await page.goto('/tidy/TIDES/TIM_gull_icon');
  await page.click('button:has-text("Put it away")');
  await said('not kept');
  await page.click('button:has-text("Delete it with 1 version")');
  await said('can be taken back for 30 days');
  await page.goto('/deleted');
  assert.match(await page.textContent('main'), /TIM_gull_icon\.svg/);
  assert.deepEqual(await faults(page), []);
  await page.click('text=Take it back');
  await page.waitForURL('**/TIM_gull_icon');
  await page.click('text=Keep as 002');
  await kept(page, '002');
  await page.goto('/tidy/TIDES/TIM_gull_icon');
  await page.click('button:has-text("Put it away")');
  await said('is put away');
  await page.goto('/?state=away');
  await page.waitForSelector('.bench-row:has-text("TIM_gull_icon")');
});

test('a draft of the convention outlives a link and a reload', async () => {
  await page.goto('/convention');
  await page.fill('[name=filler]', 'open');
  await page.press('[name=filler]', 'Tab');
  await page.waitForSelector('text=Your draft is kept.');
  await page.reload();
  assert.equal(await page.inputValue('[name=filler]'), 'open');
  await page.goto('/projects');
  await page.goto('/convention');
  assert.equal(await page.inputValue('[name=filler]'), 'tbd');
  await page.click('text=Go on with your draft');
  assert.equal(await page.inputValue('[name=filler]'), 'open');
  await page.click('text=Drop the draft');
  await said('The draft is dropped');
});

test('one’s own page: the dark room, the dates, the sessions', async () => {
  await page.goto('/me');
  await page.check('[name=theme][value=Dark]');
  await page.check('[name=dates][value=YearFirst]');
  await page.click('button:has-text("Change it") >> nth=0');
  await said('It is changed');
  const ground = () => page.evaluate(() => getComputedStyle(document.documentElement).backgroundColor);
  assert.equal(await ground(), 'rgb(30, 30, 29)');
  for (const path of ['/me', '/', piece, '/projects', '/find?q=moon', '/convention', '/storage']) {
    await page.goto(path);
    assert.deepEqual(await faults(page), [], path);
  }
  const elsewhere = await visit(browser, studio.address);
  await elsewhere.goto('/sign-in');
  await elsewhere.fill('[name=initials]', 'IK');
  await elsewhere.fill('[name=password]', 'a few plain words');
  await elsewhere.click('button:has-text("Sign in")');
  await elsewhere.waitForURL('**/');
  await page.goto('/me');
  await page.click('text=End it');
  await said('1 session is ended');
  await elsewhere.goto('/projects');
  assert.match(elsewhere.url(), /sign-in/);
  await page.check('[name=theme][value=Light]');
  await page.click('button:has-text("Change it") >> nth=0');
  await said('It is changed');
});

test('the strip is walked from anywhere on the page, and the cursor stays', async () => {
  await page.goto(piece);
  const mark = () => page.evaluate(() => document.activeElement.getAttribute('data-mark'));
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  const at = await mark();
  assert.ok(at);
  await page.keyboard.press('a');
  await page.waitForURL(`**?a=${at}`);
  assert.equal(await mark(), at);
  assert.equal(await page.locator('#strip svg a[tabindex="0"]').count(), 1);
  await page.click('nav.tools >> text=Wipe');
  await page.waitForURL('**look=wipe');
  assert.equal(await page.evaluate(() => document.activeElement.textContent), 'Wipe');
});

test('the same by keyboard alone', async () => {
  const reach = async text => {
    for (let i = 0; i < 120; i++) {
      await page.keyboard.press('Tab');
      if ((await page.evaluate(() => document.activeElement.innerText ?? document.activeElement.getAttribute('aria-label') ?? '')).includes(text)) return;
    }
    assert.fail(`“${text}” is not reached with the tab key`);
  };
  await page.goto('/projects');
  await page.keyboard.press('n');
  await page.waitForURL('**/projects/new');
  const type = async (label, text) => {
    for (let i = 0; i < 60; i++) {
      if ((await page.evaluate(() => document.activeElement.getAttribute('name'))) === label) break;
      await page.keyboard.press('Tab');
    }
    await page.keyboard.press('Control+A');
    await page.keyboard.type(text);
  };
  await type('Title', 'Gull songs');
  await type('Code', 'SONGS');
  await type('ClientName', 'Tide Museum');
  await type('ClientCode', 'TIM');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/projects/SONGS');
  await page.keyboard.press('n');
  await page.keyboard.type('Gull chorus');
  await page.waitForSelector('#resulting-name >> text=TIM_gull-chorus');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/TIM_gull-chorus_*');
  // A file chooser is the browser's own; what it hands over is put there.
  await page.setInputFiles('#save-file', { name: 'chorus.ora', mimeType: 'x/y', buffer: poster(3, 3, 3) });
  await kept(page, '001');
  await page.setInputFiles('#save-file', { name: 'chorus.ora', mimeType: 'x/y', buffer: poster(8, 3, 3) });
  await page.waitForSelector('text=Keep as 002');
  await page.keyboard.press('k');
  await kept(page, '002');
  // The page that follows has the focus where the keys go on, as soon as its scripts have run.
  await page.waitForFunction(() => document.activeElement.tagName !== 'BODY');
  await page.keyboard.press('m');
  await page.keyboard.type('before the gulls');
  await page.keyboard.press('Enter');
  await said('milestone M01');
  await reach('Tidy…');
  await page.keyboard.press('Enter');
  await page.waitForURL('**/tidy/SONGS/*');
  await type('slot.subject', 'Gull choir');
  await page.waitForSelector('button:has-text("Rename 4 files")');
  await page.keyboard.press('Enter');
  await said('TIM_gull-choir');
  await page.keyboard.press('/');
  await page.waitForURL('**/find');
  await page.keyboard.type('before the gu');
  await page.waitForSelector('.found .hit:has-text("milestone")');
});

test('with scripts off the day goes on', async () => {
  const state = await page.context().storageState();
  const context = await browser.newContext({ baseURL: studio.address, javaScriptEnabled: false, storageState: state });
  const plain = await context.newPage();
  await plain.goto(piece);
  await plain.setInputFiles('#save-file', { name: 'poster.ora', mimeType: 'x/y', buffer: poster(77, 3, 3) });
  assert.ok((await plain.locator('#save-file').boundingBox()).width > 60, 'the chosen file is seen');
  await plain.click('button:has-text("Send it")');
  await plain.waitForSelector('text=loose');
  await plain.fill('.ledger [name=reason]', 'the blue one');
  await plain.click('button:has-text("Mark it")');
  await plain.waitForSelector('.said:has-text("milestone M01")');
  await plain.goto('/find?q=blue');
  assert.match(await plain.textContent('.found'), /the blue one/);
  await plain.goto('/tidy/TIDES/TIM_moonpull-poster_key');
  await plain.fill('[name="slot.subject"]', 'Plain poster');
  await plain.click('button:has-text("Rename it")');
  await plain.waitForSelector('.said:has-text("TIM_plain-poster_key now")');
  await plain.goto('/?project=TIDES');
  await plain.waitForSelector('text=TIM_plain-poster_key');
  await context.close();
});

// What is made here is made as people would: projects by their form, pieces by dropping a folder's worth of files at once.
test('with 300 pieces in 12 projects all that need somebody are seen, found and kept', async () => {
  const things = 'anchor beacon candle dune ember ferry gull harbour island jetty kelp lantern marsh nettle oyster pebble quay reef shell tern urchin vessel wharf yarrow zenith'.split(' ');
  const places = 'amber brass cedar denim ebony flint gold hazel iron jade khaki linen'.split(' ');
  const before = await page.goto('/').then(() => page.locator('#at-risk article, .bench-row:has(.atrisk)').count());
  for (const place of places) {
    await page.goto('/projects/new');
    const code = place.toUpperCase();
    for (const [field, value] of [['Title', `The ${place} rooms`], ['Code', code], ['ClientName', 'Tide Museum'], ['ClientCode', 'TIM']])
      await page.fill(`[name=${field}]`, value);
    await page.click('button:has-text("Start the project")');
    await page.waitForURL(`**/projects/${code}`);
    await dropAll(things.map((thing, i) => [`${thing} ${place} icon.svg`, svg(i + 1)]));
    await page.click('dialog.many >> text=Store 25 files');
    await page.waitForSelector('text=25 of 25 stored, in 25 pieces.', { timeout: 60000 });
    await page.click('dialog.many >> text=Done');
  }
  await page.goto('/');
  assert.equal(await page.locator('#at-risk article, .bench-row:has(.atrisk)').count(), before);
  const risky = places.flatMap(place => things.slice(0, 7).map((thing, i) => [`${thing} ${place} icon 2.svg`, svg(i + 31)]));
  await dropAll(risky);
  const go = page.locator('dialog.many >> text=Store 84 files');
  await go.waitFor({ timeout: 60000 });
  assert.equal(await page.locator('.many-row select').evaluateAll(all => all.filter(s => s.selectedOptions[0].text.startsWith('the next save of')
    || s.selectedOptions[0].text.startsWith('a save of')).length), 84);
  await go.click();
  await page.waitForSelector('text=84 of 84 stored, in 84 pieces.', { timeout: 90000 });
  await page.click('dialog.many >> text=Done');

  await page.waitForSelector(`h1:has-text("${84 + before - 6} pieces need you")`);
  assert.equal(await page.locator('#at-risk article, .bench-row:has(.atrisk)').count(), 84 + before);
  assert.deepEqual(await faults(page), []);
  await page.selectOption('[name=project]', 'JADE');
  await page.waitForSelector('h1:has-text("1 piece needs you")');
  assert.equal(await page.locator('#at-risk article, .bench-row:has(.atrisk)').count(), 7);
  await page.click('button:has-text("Keep as 002") >> nth=0');
  await said('Kept as 002');
  await page.waitForSelector('h1:has-text("Nothing needs you")');
  assert.equal(await page.locator('#at-risk article, .bench-row:has(.atrisk)').count(), 6);

  await page.goto('/projects');
  assert.equal(await page.locator('main a[href^="/projects/"]:has-text("The jade rooms")').count(), 1);
  assert.match(await page.textContent('main'), /7 at risk/);
  assert.deepEqual(await faults(page), []);
  await page.goto('/projects/FLINT');
  assert.ok(await page.evaluate(() => document.documentElement.scrollHeight) < 2600, 'a project is no endless scroll');
  assert.deepEqual(await faults(page), []);
  await page.keyboard.press('/');
  await page.waitForURL('**/find');
  await page.keyboard.type('oyster fl');
  await page.waitForSelector('.found >> text=TIM_oyster-flint_icon');
  for (const path of ['/', '/?more=1&order=project', '/projects', '/projects/FLINT', '/find?q=gull'])
    assert.ok((await (await page.request.get(path)).body()).length < 150_000, `${path} is heavy`);

  const plain = await (await browser.newContext({ baseURL: studio.address, javaScriptEnabled: false, storageState: await page.context().storageState() })).newPage();
  await plain.goto('/?project=JADE');
  assert.equal(await plain.locator('#at-risk article, .bench-row:has(.atrisk)').count(), 6);
  await plain.click('button:has-text("Keep as 002") >> nth=0');
  await plain.waitForSelector('.said:has-text("Kept as 002")');
  await plain.goto('/projects/FLINT');
  assert.match(await plain.textContent('main'), /TIM_anchor-flint_icon/);
  await plain.goto('/find?q=oyster+flint');
  assert.match(await plain.textContent('.found'), /TIM_oyster-flint_icon/);
  await plain.context().close();
});

test('at 768 pixels nothing runs out of the page', async () => {
  const narrow = await visit(browser, studio.address, { width: 768, height: 1000 });
  await narrow.goto('/sign-in');
  await narrow.fill('[name=initials]', 'IK');
  await narrow.fill('[name=password]', 'a few plain words');
  await narrow.click('button:has-text("Sign in")');
  await narrow.waitForURL('**/');
  for (const path of ['/', '/projects', '/projects/TIDES', '/projects/FLINT', '/projects/TIDES/TIM_plain-poster_key', '/find?q=poster', '/me', '/deleted', '/tidy/TIDES', '/tidy/TIDES/TIM_plain-poster_key']) {
    await narrow.goto(path);
    assert.ok(await narrow.evaluate(() => document.documentElement.scrollWidth <= innerWidth), `${path} is wider than the window`);
  }
  await narrow.goto('/projects/TIDES/TIM_plain-poster_key');
  assert.ok(await narrow.evaluate(() => { const s = document.getElementById('strip'); return s.scrollWidth <= s.clientWidth || s.scrollLeft > 0; }), 'the strip opens at now');
  assert.deepEqual(narrow.troubles, []);
});

test('the browser reported nothing on the way', () => assert.deepEqual(page.troubles, []));
