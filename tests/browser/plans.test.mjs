// What a project begins with: folder plans of the studio's own, another project, templates and parts of other pieces; and what its files
// must be.
import { test, before, after } from 'node:test';
import assert from 'node:assert/strict';
import { readFile } from 'node:fs/promises';
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

test('a plan is made of a project, changed line by line with what it lays out beside it, exported and imported', async () => {
  await page.goto('/plans');
  assert.deepEqual(await faults(page), []);
  await page.selectOption('[name=project]', 'TIDES');
  await page.click('text=Make a plan of it');
  await page.fill('[name=Title]', 'Exhibitions');
  await page.locator('#laid >> text=birds/').waitFor();
  await page.click('text=One more folder');
  const line = page.locator('[name=FolderPath]').last();
  await line.fill('elsewhere/captions');
  await page.locator('#laid >> text=The folder “elsewhere” that it lies in is not in the plan.').waitFor();
  assert.ok(await page.locator('#laid button').isDisabled());
  assert.deepEqual(await faults(page), []);
  await line.fill('documents/captions');
  await page.locator('[name=FolderRole]').last().selectOption('Documents');
  await page.locator('#laid >> text=captions/').waitFor();
  await page.locator('tr', { has: page.locator('[value="assets/birds"]') }).locator('[data-drop-row]').click();
  await page.locator('#laid >> text=birds/').waitFor({ state: 'detached' });
  await page.click('text=Make the plan “Exhibitions”');
  await page.waitForURL('**/plans/exhibitions');
  const [file] = await Promise.all([page.waitForEvent('download'), page.click('text=Export as JSON')]);
  const plan = JSON.parse(await readFile(await file.path(), 'utf8'));
  assert.ok(plan.folders.some(f => f.path === 'documents/captions' && f.role === 'documents'));
  assert.ok(!plan.folders.some(f => f.path === 'assets/birds'));

  await page.goto('/plans');
  await page.setInputFiles('[name=file]', { name: 'x.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify({ ...plan, plan: 'galleries', title: 'Galleries' })) });
  await page.click('text=Import it');
  await page.waitForSelector('text=“Galleries” is on the list.');
  await page.click('a:text-is("Galleries")');
  await page.click('text=Take it off the list');
  await page.waitForSelector('.said >> text=It is off the list');
  await page.click('.said button');
  await page.waitForSelector('.said >> text=It is on the list again');
});

test('a project begins like an earlier one, with what was chosen and nothing else', async () => {
  await page.goto('/projects/new?from=TIDES');
  assert.deepEqual(await faults(page), []);
  await page.fill('[name=Title]', 'Lighthouse');
  await page.fill('[name=Code]', 'LIGHT');
  await page.fill('[name=ClientName]', 'Tide Museum at Merrow Bay');
  await page.fill('[name=ClientCode]', 'TIM');
  // The template is chosen already.
  assert.ok(await page.locator('label', { hasText: 'TIM_leaflet_layout' }).locator('input').isChecked());
  await page.uncheck('[name=Spec][type=checkbox]');
  await page.click('button:has-text("Start the project")');
  await page.waitForURL('**/projects/LIGHT');
  await page.locator('.card >> text=Kept, 001').waitFor();
  assert.equal(await page.locator('.card').count(), 1);
  await page.goto('/tree/LIGHT/assets');
  await page.locator('[data-open]:text-is("paper-grain.png")').waitFor();
});

test('a piece begins with some layers of a version, and says where it comes from', async () => {
  await page.goto('/projects/TIDES/TIM_moonpull-poster_key?b=14');
  // A person may be quicker than the script.
  await page.route('**/Projects/project.js*', async route => {
    await new Promise(done => setTimeout(done, 2500));
    await route.continue();
  });
  await page.click('text=Start a piece from 014', { noWaitAfter: true });
  await page.locator('[data-carried] summary').click();
  await page.click('.carried label:has-text("Water/") input');
  await page.locator('[data-carried-count]:text-is("8 of 13")').waitFor();
  await page.unroute('**/Projects/project.js*');
  await page.uncheck('.carried label:has-text("Moon glow") input');
  assert.ok(await page.locator('.carried label:has-text("Sky/") input').evaluate(box => box.indeterminate && box.checked));
  assert.deepEqual(await faults(page), []);
  await page.fill('[name="slot.subject"]', 'Night sky');
  await page.locator('#resulting-name >> text=night-sky').first().waitFor();
  await page.click('text=Start the piece');
  await page.waitForURL('**/TIM_night-sky_key**');
  await page.locator('.ledger >> text=7 layers').waitFor();
  await page.locator('.ledger >> text=TIM_moonpull-poster_key_IK_014.ora').waitFor();
  await page.goto('/projects/TIDES/TIM_moonpull-poster_key?b=14');
  await page.locator('.ledger dt:text-is("Begun from it")').waitFor();
});

test('a spec shows what is off it while it is typed, and is set', async () => {
  await page.goto('/spec/TIDE-FILM');
  await page.locator('#off >> text=1 file is off the spec').waitFor();
  assert.deepEqual(await faults(page), []);
  await page.fill('[name=FrameRate]', '24');
  await page.locator('#off >> text=Set the spec; 2 files are off it').waitFor();
  await page.fill('[name=FrameRate]', 'fast');
  await page.locator('#off >> text=Frame rate: this cannot be').waitFor();
  await page.fill('[name=FrameRate]', '25');
  await page.click('button:text-is("Offset print")');
  await page.waitForURL(url => url.search.includes('preset=offset-print'));
  assert.equal(await page.inputValue('[name=Resolution]'), '300');
  assert.equal(await page.inputValue('[name=FrameRate]'), '25');
  await page.fill('[name=Resolution]', '');
  await page.selectOption('[name=Colour]', '');
  await page.fill('[name=Depth]', '');
  await page.goto('/tree/TIDE-FILM/originals/recordings');
  await page.locator('.off-spec:text-is("44.1 kHz")').waitFor();
  await page.setViewportSize({ width: 768, height: 900 });
  for (const address of ['/spec/TIDE-FILM', '/plans', '/plans/print', '/projects/new?from=TIDES', '/studio']) {
    await page.goto(address);
    assert.deepEqual(await faults(page), [], address);
    assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), `${address} scrolls sideways`);
  }
  await page.setViewportSize({ width: 1280, height: 800 });
});

test('a file is packed, and what is inside is put out again to where it was', async () => {
  await page.goto('/references/TIDES/TIM_leaflet_layout');
  await page.click('text=Store it packed');
  await page.waitForSelector('.said >> text=All that was found is inside now');
  await page.click('text=Put them out');
  await page.locator('#inside >> text=is there already, and is used').first().waitFor();
  assert.deepEqual(await faults(page), []);
  await page.click('text=Refer to the 2 files that are there');
  await page.waitForSelector('.said >> text=A new loose save refers to what was inside');
  await page.locator('.reference >> text=../assets/moon-disc.png').waitFor();
});

test('two contents of an asset stand beside one another with what changed', async () => {
  await page.goto('/tree/TIDES/assets');
  await page.locator('[data-look]', { hasText: 'paper-grain' }).click();
  await page.locator('#panel .past a:text-is("Compare")').first().click();
  await page.locator('text=% of the picture').first().waitFor();
  await page.waitForFunction(() => [...document.querySelectorAll('.contents-pair img')].filter(i => i.complete && i.naturalWidth > 0).length === 2);
  assert.deepEqual(await faults(page), []);
});
