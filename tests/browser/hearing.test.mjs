// Comparing sounds closely: lined up, to single samples, played from one place and switched between, and what is left of one.
import assert from 'node:assert/strict';
import { after, before, test } from 'node:test';
import { faults, launch, serve, soon, visit } from './studio.mjs';

const mix = '/projects/TIDE-GUIDE/TIM_guide-stop-1_mix';
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

// What was not measured yet is shown first as it stands, and lined up when it is.
const opened = (many = 2) => page.waitForSelector(`.hear.heard${many > 1 ? '[data-lined^="{"]' : ''} canvas`);
const players = () => page.evaluate(() => {
  const { elements, ear } = document.querySelector('.hear').hearing.players;
  const of = e => ({ at: e.currentTime, isHeard: !e.muted && !e.paused, volume: e.volume });
  return { ear, ...Object.fromEntries(Object.entries(elements).map(([name, e]) => [name, of(e)])) };
});
// How many points of a part of the canvas are bright, dark or neither.
const points = (x, y, width, height) => page.evaluate(([x, y, width, height]) => {
  const canvas = document.querySelector('.hear canvas');
  const { data } = canvas.getContext('2d').getImageData(canvas.width * x, canvas.height * y, canvas.width * width, canvas.height * height);
  const counts = { bright: 0, dark: 0, all: data.length / 4 };
  for (let i = 0; i < data.length; i += 4) {
    if (data[i] > 190) counts.bright++;
    if (data[i] < 60 && data[i + 3] > 200) counts.dark++;
  }
  return counts;
}, [x, y, width, height]);

test('two sounds stand on one axis, and what was put in stands dark on light', async () => {
  await page.goto(`${mix}?a=2&b=5`);
  await opened();
  // From 17.5 s of 23 on only B has something.
  await soon(async () => {
    const fresh = await points(0.80, 0.5, 0.15, 0.25);
    assert.ok(fresh.bright > fresh.all * 0.7, JSON.stringify(fresh));
    assert.ok(fresh.dark > 50, JSON.stringify(fresh));
  });
  const common = await points(0.3, 0.5, 0.15, 0.25);
  assert.ok(common.bright > 100 && common.bright < common.all * 0.6, JSON.stringify(common));
  assert.deepEqual(await faults(page), []);
});

test('the ear goes from one to the other at the same place while it plays, and through what only one has', async () => {
  await page.goto(`${mix}?a=2&b=5`);
  await opened();
  await page.keyboard.press('Space');
  await page.waitForFunction(() => document.querySelector('.hear').hearing.players.elements.b.currentTime > 0.5);
  let now;
  await soon(async () => {
    now = await players();
    assert.ok(now.b.isHeard && !now.a.isHeard);
    assert.ok(Math.abs(now.a.at - now.b.at) < 0.15, `A ${now.a.at}, B ${now.b.at}`);
  });
  await page.keyboard.press('x');
  now = await players();
  assert.ok(now.a.isHeard && !now.b.isHeard);
  // After the second and a half that was put in, A is that much behind.
  await page.evaluate(() => document.querySelector('.hear').hearing.players.seek(8));
  await soon(async () => {
    now = await players();
    assert.ok(Math.abs(now.b.at - now.a.at - 1.5) < 0.15, `A ${now.a.at}, B ${now.b.at}`);
  });
  await page.keyboard.press('e');
  now = await players();
  // A is the louder one, by 0.6 LU.
  assert.ok(now.a.volume < 0.97 && now.a.volume > 0.9, `${now.a.volume}`);
  assert.equal(now.b.volume, 1);
  await page.keyboard.press('Space');
  assert.ok(!(await players()).a.isHeard);
});

test('what is left of B when A is taken from it can be heard', async () => {
  await page.goto(`${mix}?a=2&b=5`);
  await opened();
  const answer = page.waitForResponse(r => r.url().includes('/against/') && r.url().endsWith('/sound'));
  await page.click('[data-ear=difference]');
  assert.ok([200, 206].includes((await answer).status()));
  await page.waitForFunction(() => document.querySelector('.hear').hearing.players.ear === 'difference');
  const [a, b] = await page.evaluate(() => ['a', 'b'].map(n => document.querySelector('.hear').dataset[n]));
  // Where the two are the same it is silent, and where only B has something it is that.
  const heard = await page.evaluate(async ([a, b]) => {
    const bytes = await (await fetch(`${b}/against/${a.split('/').pop()}/sound`)).arrayBuffer();
    const samples = new Int16Array(bytes.slice(44));
    const loudest = (from, to) => samples.subarray(from * 96000, to * 96000).reduce((most, s) => Math.max(most, Math.abs(s)), 0);
    return { same: loudest(13, 17), fresh: loudest(19, 22) };
  }, [a, b]);
  assert.ok(heard.same <= 1, JSON.stringify(heard));
  assert.ok(heard.fresh > 1000, JSON.stringify(heard));
});

test('it is looked at as closely as single samples, by key, and all of it again', async () => {
  await page.goto(`${mix}?a=2&b=5`);
  await opened();
  await page.focus('.hear canvas');
  const block = page.waitForResponse(r => r.url().includes('/sound/samples/'));
  for (let i = 0; i < 12; i++) await page.keyboard.press('+');
  assert.equal((await block).status(), 200);
  const { span } = await page.evaluate(() => ({ ...document.querySelector('.hear').hearing.view }));
  assert.ok(span < 0.02, `${span} s are in sight`);
  await page.keyboard.press('0');
  assert.equal(await page.evaluate(() => document.querySelector('.hear').hearing.view.span), 23);
});

test('loudness and bands of both are drawn', async () => {
  await page.goto(`${mix}?a=2&b=5`);
  await opened();
  for (const [view, path] of [['loudness', '/sound/loudness'], ['spectrum', '/sound/spectrum']]) {
    const both = Promise.all(['a', 'b'].map(n => page.waitForResponse(async r =>
      r.url().includes(path) && r.url().includes(await page.evaluate(m => document.querySelector('.hear').dataset[m], n)))));
    await page.click(`[data-view=${view}]`);
    await both;
    await soon(async () => {
      const drawn = await points(0, 0.2, 1, 0.5);
      assert.ok(drawn.bright > 300, `${view}: ${JSON.stringify(drawn)}`);
    });
  }
  assert.deepEqual(await faults(page), []);
});

test('one sound by itself is shown and played', async () => {
  await page.goto(`${mix}?b=3`);
  await opened(1);
  await page.keyboard.press('Space');
  await page.waitForFunction(() => document.querySelector('.hear').hearing.players.at > 0.3);
  await page.keyboard.press('Space');
  assert.deepEqual(await faults(page), []);
});

test('without scripts there is the waveform and a player', async () => {
  const plain = await browser.newContext({ javaScriptEnabled: false, baseURL: studio.address });
  const other = await plain.newPage();
  await other.goto('/');
  await other.click('text=Sign in as IK');
  await other.goto(`${mix}?a=2&b=5`);
  assert.equal(await other.locator('.player audio').count(), 2);
  assert.ok(await other.locator('.hear svg').first().isVisible());
  await plain.close();
});
