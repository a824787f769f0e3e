// Takes the pictures of docs/screenshots from a fresh demo studio: `node docs/screenshots.mjs`, after ./check has built it.
import { launch, serve, visit } from '../tests/browser/studio.mjs';

const poster = '/projects/TIDES/TIM_moonpull-poster_key';
const pictures = [
  ['bench', '/'],
  ['project', '/projects/TIDES'],
  ['start-project', '/projects/new'],
  ['tree', '/tree/TIDES/assets', async page => {
    await page.locator('[data-look]', { hasText: 'paper-grain' }).click();
    await page.waitForSelector('#panel >> text=Needed by versions');
  }],
  ['spec', '/spec/TIDE-FILM'],
  ['references', '/references/TIDES/TIM_leaflet_layout'],
  ['web', '/web/TIDES', page => page.locator('.web .node', { hasText: 'paper-grain' }).click()],
  ['then', '/then/TIDES', async page => {
    await page.locator('.past-strip .mark .kept.mile').nth(1).click();
    await page.waitForSelector('text=As it stood');
  }],
  ['outputs', '/outputs/TIDES/TIM_moonpull-poster_key?recipe=harrow-a2'],
  ['many', '/', async page => {
    const file = name => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.alloc(48_000, name) });
    await page.setInputFiles('[data-many-input] >> nth=0', ['Moonpul poster FINAL (2).ora', 'wall gulls icon.svg', 'wall gulls icon v2.svg', 'guide stop 1 mix take 3.wav', 'room texts.txt'].map(file));
    await page.waitForSelector('dialog.many');
  }],
  ['convention', '/convention'],
  ['convention-two-readings', '/convention', async page => {
    for (const [field, value] of [['s.2.kind', 'words'], ['s.2.join', '-']]) {
      const answer = page.waitForResponse(r => r.url().includes('handler=Draft'));
      await page.selectOption(`[name="${field}"]`, value);
      await answer;
    }
    await page.waitForSelector('#verdict .reading');
    await page.evaluate(() => scrollTo(0, 400));
    await page.waitForTimeout(500);
  }],
  ['storage', '/storage', async page => {
    await page.click('button:has-text("Verify")');
    await page.waitForSelector('.word.good');
  }],
  ['practice', '/practice/TIDES/TIM_moonpull-poster_key', page => page.waitForSelector('#tools >> text=Paint a band')],
  ['piece', poster],
  ['piece-wipe', `${poster}?a=11&b=14&look=wipe`, async page => {
    await page.waitForSelector('.ledger td:has-text("repainted")');
    await page.waitForSelector('[data-zoom].ready');
  }],
  ['piece-difference', `${poster}?a=11&b=14&look=difference`, page => page.waitForSelector('[data-zoom].ready')],
  ['piece-scene', '/projects/TIDE-FILM/TIM_buoy_model?a=1&b=3', async page => {
    await page.waitForSelector('.ledger td:has-text("moved")');
    await page.waitForSelector('.turned canvas');
    await page.waitForTimeout(1500);
  }],
  ['piece-sound', '/projects/TIDE-GUIDE/TIM_guide-stop-1_mix?a=2&b=5', async page => {
    await page.waitForSelector('.hear.heard canvas');
    await page.evaluate(() => document.querySelector('.hear').hearing.players.seek(8.4));
    await page.waitForTimeout(1200);
  }],
];

const studio = await serve({ demo: true });
const browser = await launch();
try {
  const page = await visit(browser, studio.address);
  await page.goto('/sign-in');
  await page.click('text=Sign in as IK');
  for (const [name, address, ready] of pictures) {
    await page.goto(address);
    await page.waitForLoadState('networkidle');
    await ready?.(page);
    await page.waitForLoadState('networkidle');
    await page.screenshot({ path: `docs/screenshots/${name}.png` });
  }
} finally {
  await browser.close();
  await studio.stop();
}
