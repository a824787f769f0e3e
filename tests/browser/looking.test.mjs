// Comparing pictures closely: every look, two at one place, to single pixels; the places that differ; a layer alone; and without scripts.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { faults, launch, serve, soon, visit } from './studio.mjs';

const poster = '/projects/TIDES/TIM_moonpull-poster_key';
const pair = `${poster}?a=11&b=14`;
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

const opened = () => page.waitForSelector('[data-zoom].ready');
const percent = async () => parseFloat(await page.textContent('.zoom .told'));

// The colours in the middle of a pane, as they are on the screen.
const pixels = (n, points) => page.evaluate(([n, points]) => {
  const canvas = document.querySelectorAll('.zoomed .pane canvas')[n];
  const pen = canvas.getContext('2d');
  return points.map(([x, y]) => [...pen.getImageData(Math.round(canvas.width * x), Math.round(canvas.height * y), 1, 1).data]);
}, [n, points]);

test('two pictures side by side are moved and zoomed as one, to single pixels and back', async () => {
  await page.goto(`${pair}&look=side`);
  await opened();
  const whole = await percent();
  await page.click('.zoom >> text=1:1');
  await page.waitForFunction(() => document.querySelector('.zoom .told').textContent === '100 %');
  const grid = Array.from({ length: 40 }, (_, i) => [(i % 8 + 1) / 9, (Math.floor(i / 8) + 1) / 6]);
  await soon(async () => {
    const [a, b] = [await pixels(0, grid), await pixels(1, grid)];
    // Of the same place of two versions most is the same, and it is a picture, not the empty easel.
    const same = a.filter((p, i) => p.every((v, k) => Math.abs(v - b[i][k]) < 3)).length;
    assert.ok(same >= 20, `${same} of 40 pixels are the same`);
    assert.ok(new Set(a.map(String)).size > 10);
  });
  await page.keyboard.press('z');
  await page.waitForFunction(was => Math.abs(parseFloat(document.querySelector('.zoom .told').textContent) - was) < 1, whole);
  assert.deepEqual(await faults(page), []);
});

test('the wipe shows A on one side of its handle and B on the other, by mouse and by key', async () => {
  await page.goto(`${pair}&look=wipe`);
  await opened();
  const range = page.locator('.wipe-range');
  const box = await page.locator('.zoomed').boundingBox();
  const handle = await page.locator('.zoomed .handle').boundingBox();
  await page.mouse.move(handle.x + 1, handle.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 4, handle.y + 60, { steps: 4 });
  await page.mouse.up();
  assert.ok(Math.abs(Number(await range.inputValue()) - 25) < 2);
  await range.focus();
  await page.keyboard.press('Home');
  await page.waitForTimeout(300);
  // The dates are only in 014.
  const spots = Array.from({ length: 60 }, (_, i) => [0.36 + (i % 20) / 200, 0.19 + Math.floor(i / 20) / 60]);
  const b = await pixels(0, spots);
  await page.keyboard.press('End');
  await soon(async () => assert.notDeepEqual(await pixels(0, spots), b));
  assert.deepEqual(await faults(page), []);
});

test('the difference frames every place that differs, and keys go from one to the next', async () => {
  await page.goto(`${pair}&look=difference`);
  await opened();
  const told = page.locator('.zoom .places span');
  const [, many] = /^(\d+) places differ$/.exec(await told.textContent());
  assert.ok(many > 3 && many <= 40);
  assert.equal(await page.locator('.easel .place').count(), Number(many));
  await page.keyboard.press('d');
  assert.match(await told.textContent(), new RegExp(`^Place 1 of ${many}: [\\d,]+ px$`));
  await page.keyboard.press('d');
  await page.keyboard.press('Shift+D');
  assert.match(await told.textContent(), /^Place 1 /);
  assert.equal(await page.locator('.place.here').count(), 1);
  assert.deepEqual(await faults(page), []);
});

test('blinking shows one after the other, and stops when asked', async () => {
  await page.goto(`${pair}&look=blink`);
  await opened();
  const seen = () => page.getAttribute('.easel', 'data-seen');
  await page.waitForFunction(() => document.querySelector('.easel').dataset.seen === 'a');
  await page.click('[data-blink]');
  assert.equal(await page.textContent('[data-blink]'), 'Blink');
  const stopped = await seen();
  await page.waitForTimeout(1600);
  assert.equal(await seen(), stopped);
});

test('a layer is looked at alone, in both and as their difference', async () => {
  await page.goto(pair);
  await page.click('.ledger td a:has-text("Swell 5")');
  await page.waitForSelector('.alone:has-text("Swell 5")');
  await opened();
  assert.equal(await page.locator('.easel .edge').count(), 2);
  await page.click('.tools >> text=Difference');
  await page.waitForSelector('.alone:has-text("Swell 5")');
  await opened();
  assert.match(await page.textContent('.zoom .places span'), /differ/);
  await page.goBack();
  await page.click('.ledger td a:has-text("Gulls")');
  await page.waitForSelector('.alone:has-text("only in B")');
  await opened();
  assert.deepEqual(await faults(page), []);
  await page.click('.alone >> text=Whole picture');
  await page.waitForSelector('.tag.a:has-text("A 011")');
  assert.equal(await page.locator('.alone').count(), 0);
});

test('without scripts every look has its picture', async () => {
  const context = await browser.newContext({ baseURL: studio.address, javaScriptEnabled: false });
  const plain = await context.newPage();
  await plain.goto('/sign-in');
  await plain.click('text=Sign in as IK');
  for (const look of ['side', 'difference', 'blink', 'wipe', 'difference&layer=4']) {
    await plain.goto(`${pair}&look=${look}`);
    const image = plain.locator('.easel img').first();
    await image.waitFor();
    assert.ok((await image.boundingBox()).width > 100, look);
  }
  await context.close();
});

test('nothing went wrong in the browser, and nothing was asked of another host', () => assert.deepEqual(page.troubles, []));
