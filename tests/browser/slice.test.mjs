// The whole slice, as a new user walks it: an empty studio, a project, a file, its versions, and all of it back again.
import { test, before, after } from 'node:test';
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { faults, kept, launch, serve, visit } from './studio.mjs';
import { ora } from './files.mjs';

let studio, browser, page;
const first = ora({ Sky: [40, 60, 120], Moon: [240, 230, 200] });
const second = ora({ Sky: [10, 20, 60], Moon: [240, 230, 200] });

before(async () => {
  studio = await serve();
  browser = await launch();
  page = await visit(browser, studio.address);
});
after(async () => {
  await browser?.close();
  await studio?.stop();
});

const piece = '/projects/TIDES/TIM_moonpull-poster_key';
const drop = async (name, content) => {
  const transfer = await page.evaluateHandle(([n, bytes]) => {
    const data = new DataTransfer();
    data.items.add(new File([Uint8Array.from(atob(bytes), c => c.charCodeAt(0))], n));
    return data;
  }, [name, content.toString('base64')]);
  for (const type of ['dragenter', 'dragover', 'drop']) await page.dispatchEvent('body', type, { dataTransfer: transfer });
};
const download = async link => {
  const [file] = await Promise.all([page.waitForEvent('download'), page.click(link)]);
  return { name: file.suggestedFilename(), bytes: readFileSync(await file.path()) };
};

test('an empty studio makes its owner', async () => {
  await page.goto('/');
  await page.fill('[name=studioName]', 'Spring Tide');
  await page.fill('[name=name]', 'Ilse Korhonen');
  await page.fill('[name=initials]', 'ik');
  await page.fill('[name=password]', 'a few plain words');
  await page.click('text=Found the studio');
  await page.waitForSelector('text=Nothing is on the bench yet');
  assert.deepEqual(await faults(page), []);
});

test('a project starts with its plan in sight', async () => {
  await page.click('text=Start a project');
  await page.fill('[name=Title]', 'An exhibition about tides');
  assert.equal(await page.inputValue('[name=Code]'), 'EXHIBITI');
  await page.fill('[name=Code]', 'TIDES');
  await page.fill('[name=ClientName]', 'Tide Museum');
  assert.equal(await page.inputValue('[name=ClientCode]'), 'TM');
  await page.fill('[name=ClientCode]', 'tim');
  assert.ok(await page.isVisible('.tree[data-plan=print] >> text=milestones/'));
  await page.check('#plan-audio');
  assert.ok(await page.isVisible('.tree[data-plan=audio] >> text=mixes/'));
  assert.ok(!await page.isVisible('.tree[data-plan=print]'));
  await page.check('#plan-print');
  assert.deepEqual(await faults(page), []);
  await page.click('button:has-text("Start the project")');
  await page.waitForURL('**/projects/TIDES');
  await page.click('nav.switch >> text=Tree');
  await page.waitForSelector('.tree-plan >> text=originals/');
  await page.click('nav.switch >> text=Pieces');
  await page.waitForURL('**/projects/TIDES');
});

test('a file dropped on the project becomes a piece, its name shown while it is typed', async () => {
  await drop('Moonpull Poster.ora', first);
  await page.waitForSelector('#resulting-name >> text=TIM_moonpull-poster_key_IK_001');
  assert.equal(await page.inputValue('[name="slot.subject"]'), 'moonpull-poster');
  await page.fill('[name="slot.subject"]', '🌊');
  await page.waitForSelector('#resulting-name >> text=needs at least one letter');
  await page.fill('[name="slot.subject"]', 'Moonpull, poster');
  await page.waitForSelector('#resulting-name >> text=TIM_moonpull-poster_key_IK_001');
  assert.deepEqual(await faults(page), []);
  await page.click('button:has-text("Start the piece")');
  await page.waitForURL(`**${piece}`);
  await kept(page, '001');
  assert.match(await page.content(), /TIM_moonpull-poster_key_IK_001\.ora/);
  await page.waitForFunction(() => document.querySelector('.easel img')?.naturalWidth > 0);
});

test('the next save is loose until it is kept, with a note', async () => {
  await drop('moonpull poster (2) final.ora', second);
  await page.waitForSelector('button:has-text("Keep as 002")');
  await page.waitForSelector('text=At risk');
  await page.waitForSelector('.ledger >> text=repainted');
  await page.fill('textarea[name=note]', 'Night');
  await page.click('button:has-text("Keep as 002")');
  await page.waitForSelector('text=Kept as 002: TIM_moonpull-poster_key_IK_002.ora');
  assert.equal(await page.inputValue('textarea[name=note]'), 'Night');
  assert.deepEqual(await faults(page), []);
});

test('the same save again takes no number', async () => {
  await drop('again.ora', second);
  await page.waitForSelector('text=Nothing changed since 002');
  assert.equal(await page.locator('button:has-text("Keep as")').count(), 0);
});

test('a milestone is marked with a reason, by keyboard', async () => {
  await page.keyboard.press('m');
  await page.waitForSelector('dialog[open]');
  assert.deepEqual(await faults(page), []);
  await page.keyboard.type('client round 1');
  await page.keyboard.press('Enter');
  await page.waitForSelector('text=002 is milestone M01');
  assert.deepEqual(await page.locator('.strip text.m').allTextContents(), ['client round 1']);
});

test('versions leave under their exact names, byte for byte', async () => {
  assert.deepEqual(await download('a:has-text("Download 002")'), { name: 'TIM_moonpull-poster_key_IK_002.ora', bytes: second });
  await page.click('summary:has-text("More")');
  assert.deepEqual(await download('a:has-text("Download as M01")'), { name: 'TIM_moonpull-poster_key_M01.ora', bytes: second });
});

test('an older version comes back on top', async () => {
  await page.goto(`${piece}?b=1`);
  await page.click('button:has-text("Bring 001 back on top")');
  await page.waitForSelector('text=001 is back as a loose save on top');
  await page.keyboard.press('k');
  await page.waitForSelector('text=This is 001 again');
  await page.click('button:has-text("Keep as 003 anyway")');
  await page.waitForSelector('text=Kept as 003');
  assert.deepEqual(await download('a:has-text("Download 003")'), { name: 'TIM_moonpull-poster_key_IK_003.ora', bytes: first });
});

test('the strip is walked and picked from by keyboard', async () => {
  await page.goto(piece);
  await page.locator('#strip a[tabindex="0"]').focus();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  assert.equal(await page.evaluate(() => document.activeElement.dataset.mark), '1');
  await page.keyboard.press('a');
  await page.waitForURL('**a=1*');
  await page.waitForSelector('.tag.a:has-text("A 001")');
  await page.waitForSelector('.tag.b:has-text("B 003")');
  await page.click('.tools >> text=Wipe');
  await page.waitForSelector('.ready .wipe-range', { state: 'attached' });
  await page.locator('.wipe-range').focus();
  await page.keyboard.press('Home');
  assert.equal(await page.evaluate(() => getComputedStyle(document.querySelector('.zoomed')).getPropertyValue('--wipe').trim()), '0%');
  assert.deepEqual(await faults(page), []);
  await page.locator('#strip a[data-mark="2"]').click({ modifiers: ['Shift'], position: { x: 8, y: 60 } });
  await page.waitForSelector('.tag.b:has-text("B 002")');
});

test('the table says the same as the strip', async () => {
  await page.goto(piece);
  await page.click('text=As a table');
  await page.waitForSelector('.facts');
  assert.deepEqual(await page.locator('.facts tbody tr td:first-child').allTextContents(), ['003', '002', '001']);
  assert.deepEqual(await faults(page), []);
});

test('a file that cannot be read waits at a question and is there all the same', async () => {
  await page.goto(piece);
  const cut = second.subarray(0, 700);
  await drop('crashed.ora', cut);
  await page.waitForSelector('text=A save waits');
  assert.ok(await page.isVisible('.easel img'), 'the last sound version is still what is seen');
  await page.click('.said >> text=Look at it');
  await page.waitForSelector('text=cut short or damaged');
  assert.deepEqual(await faults(page), []);
  assert.deepEqual((await download('a:has-text("Download this save")')).bytes, cut);
});

test('a name is reserved before there is a file, and the first save begins the piece', async () => {
  await page.goto('/projects/TIDES');
  await page.keyboard.press('n');
  await page.keyboard.type('Floor map');
  await page.click('button:has-text("Start the piece")');
  await page.waitForSelector('text=The name is reserved');
  assert.deepEqual(await faults(page), []);
  await page.setInputFiles('input[type=file]', { name: 'map.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60"><rect width="90" height="60" fill="teal"/></svg>') });
  await kept(page, '001');
  assert.match(await page.content(), /TIM_floor-map_key_IK_001\.svg/);
});

test('a proposal comes from what the file is, leaves what a person chose, and what is shown is stored', async () => {
  const sign = { name: 'sign.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40"><circle r="9"/></svg>') };
  await page.goto('/projects/TIDES');
  await page.keyboard.press('n');
  await page.fill('[name="slot.subject"]', 'Shore sign');
  await page.selectOption('[name="slot.function"]', 'mark');
  await page.setInputFiles('#start-piece input[name=file]', sign);
  await page.waitForSelector('#resulting-name >> text=TIM_shore-sign_mark');
  assert.equal(await page.inputValue('[name="slot.function"]'), 'mark');

  await page.goto('/projects/TIDES');
  await page.keyboard.press('n');
  await page.fill('[name="slot.subject"]', 'Shore sign');
  // However long the answer takes, the name that is shown is the one of what is chosen in the end.
  await page.route('**handler=File**', async route => { await new Promise(r => setTimeout(r, 700)); await route.continue(); });
  await page.setInputFiles('#start-piece input[name=file]', sign);
  await page.waitForSelector('#resulting-name >> text=TIM_shore-sign_icon');
  await page.unroute('**handler=File**');
  await page.click('button:has-text("Start the piece")');
  await kept(page, '001');
  assert.match(await page.content(), /TIM_shore-sign_icon_IK_001\.svg/);
});

test('the bench keeps what is at risk', async () => {
  await page.goto('/');
  // What cannot be read is told at once, whoever is at it.
  await page.waitForSelector('text=1 piece needs you');
  await page.waitForSelector('#at-risk >> text=The newest save cannot be read');
  assert.deepEqual(await faults(page), []);
});

test('two files at once and a broken connection are told, and nothing is lost', async () => {
  await page.goto(piece);
  await page.route('**/saves', route => route.abort('connectionreset'));
  await drop('more.ora', second);
  await page.waitForSelector('.progress >> text=The connection broke');
  await page.unroute('**/saves');
  await page.reload();
  await page.waitForSelector('button:has-text("Keep as 004 anyway")');
});

test('what arrives meanwhile cuts nothing off that is being sent', async () => {
  let go;
  await page.route('**/saves', async route => { await new Promise(then => { go = then; }); await route.continue(); });
  await drop('mine.ora', ora({ Sky: [90, 60, 20], Moon: [240, 230, 200] }));
  await page.waitForSelector('.progress >> text=mine.ora');
  const other = await page.context().newPage();
  await other.goto(piece);
  await other.setInputFiles('#save-file', { name: 'theirs.ora', mimeType: 'x/y', buffer: ora({ Sky: [20, 90, 60], Moon: [240, 230, 200] }) });
  await other.waitForSelector('.said:has-text("It is stored")');
  await other.close();
  await page.waitForSelector('[data-arrived]');
  assert.ok(await page.isVisible('.progress >> text=mine.ora'));
  const [answer] = await Promise.all([page.waitForResponse(r => r.url().endsWith('/saves')), go()]);
  assert.ok(answer.ok());
  await page.waitForSelector('[data-arrived]', { state: 'detached' });
  await page.unroute('**/saves');
});

test('nothing went wrong in the browser, and nothing was asked of another host', () =>
  assert.deepEqual(page.troubles.filter(t => !t.includes('ERR_CONNECTION_RESET')), []));
