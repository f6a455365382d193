import { expect, test, type Page } from '@playwright/test';
import { appState } from './app';
import {
  layerIdOf,
  makeCanvas,
  openPiece,
  coveredTiles,
  keptAfterStroke,
  pictureOf,
  shownAt,
  shownAtAll,
  still,
  stroke,
} from './helpers';

/** How many pixels of the panes differ between two moments, as a share; small differences are the picture's own loss. */
function differing(a: Buffer, b: Buffer): number {
  const [p, q] = [pictureOf(a), pictureOf(b)];
  let n = 0;
  for (let i = 0; i < p.data.length; i += p.channels)
    if ([0, 1, 2].some((c) => Math.abs(p.data[i + c] - q.data[i + c]) > 40)) n++;
  return n / (p.data.length / p.channels);
}

async function panes(page: Page): Promise<Buffer> {
  const box = (await page.getByTestId('panes').first().boundingBox())!;
  return page.screenshot({ clip: { ...box, y: box.y + 40, height: box.height - 120 } });
}

const exactAt = (page: Page) => page.evaluate(() => performance.getEntriesByName('brindle:exact')[0]?.startTime ?? null);

test('a piece comes back as it was left: its picture at once, its eye, its sheet, and all of it without drawing anew', async ({
  page,
}) => {
  await openPiece(page, 'demo-lantern');
  const box = (await page.getByTestId('pane-model').boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const keptLook = () => page.waitForResponse((r) => r.request().method() === 'PUT' && /\/look$/.test(r.url()) && r.ok());
  const first = keptLook();
  await page.mouse.move(x, y);
  await page.mouse.down({ button: 'right' });
  await page.mouse.move(x + 120, y - 40, { steps: 4 });
  await page.mouse.up({ button: 'right' });
  for (let n = 0; n < 3; n++) await page.mouse.wheel(0, -120);
  await first;
  // On a busy machine a look of the turning model may be kept first: then the one after it is what comes back.
  await expect(async () => {
    // What was drawn is kept once it rests.
    await page.waitForTimeout(5000);
    const left = await panes(page);

    await page.reload({ waitUntil: 'commit' });
    const look = page.getByTestId('look').first();
    await expect(look).toBeVisible();
    await expect.poll(() => look.evaluate((img: HTMLImageElement) => img.naturalWidth).catch(() => -1)).not.toBe(0);
    await still(page);
    await expect(page.getByTestId('look')).toHaveCount(0);
    // Before its texels were at hand everything was there exactly.
    expect(await exactAt(page)).not.toBeNull();
    expect(differing(left, await panes(page))).toBeLessThan(0.02);
  }).toPass({ timeout: 120_000 });
});

test('nothing is drawn while nothing changes, and a stroke made before all is at hand is painted', async ({ page }) => {
  const id = await makeCanvas(page, 'Early stroke');
  const layer = await layerIdOf(id, 'Hand');
  await stroke(page, 'flat', [
    [0.3, 0.3],
    [0.7, 0.3],
  ]);
  await keptAfterStroke(page);
  const before = (await coveredTiles(id, `${layer}/base-colour`)).size;
  expect(before).toBeGreaterThan(0);
  await page.waitForTimeout(4000);

  // The blobs come late: what was drawn is there, and the pen is down already.
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  await page.context().route('**/api/blobs', async (route) => {
    await held;
    await route.continue();
  });
  // And its texels are not kept here: the tab is left before their file goes.
  const address = page.url();
  await page.goto(new URL('/', address).href);
  await page.waitForTimeout(500);
  await page.evaluate(async () => {
    const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('drawn');
    for await (const name of (folder as unknown as { keys(): AsyncIterable<string> }).keys())
      if (name.includes('.texels.')) await folder.removeEntry(name);
  });
  await page.goto(address, { waitUntil: 'commit' });
  await expect(page.getByTestId('bench')).toBeVisible();
  await expect(page.getByTestId('bench')).toHaveAttribute('data-ready', 'false');
  await stroke(page, 'flat', [
    [0.3, 0.7],
    [0.7, 0.7],
  ]);
  release();
  await still(page);
  await keptAfterStroke(page);
  expect(await shownAt(page, 'flat', 0.5, 0.7)).toEqual(await shownAt(page, 'flat', 0.5, 0.3));

  // The card's picture is drawn once the work rests; after that nothing is.
  const drawn = () =>
    page.evaluate(async () => {
      let calls = 0;
      const clear = WebGL2RenderingContext.prototype.clear;
      WebGL2RenderingContext.prototype.clear = function (mask) {
        calls++;
        return clear.call(this, mask);
      };
      await new Promise((resolve) => setTimeout(resolve, 2500));
      WebGL2RenderingContext.prototype.clear = clear;
      return calls;
    });
  await expect.poll(drawn, { timeout: 20_000 }).toBe(0);
});

test('a piece that was never left shows its thumbnail where the model will be, until anything is drawn', async ({ page }) => {
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  await page.context().route('**/drawn/**', async (route) => {
    await held;
    await route.continue();
  });
  // No other test opens it.
  await page.goto(`http://127.0.0.1:${appState().port}/pieces/demo-tortoise`, { waitUntil: 'commit' });
  await expect(page.getByTestId('bench')).toBeVisible();
  const picture = page.getByTestId('thumbnail');
  await expect(picture).toBeVisible();
  expect(await picture.evaluate((img: HTMLImageElement) => img.naturalWidth)).toBeGreaterThan(100);
  const [over, pane] = [(await picture.boundingBox())!, (await page.getByTestId('pane-model').boundingBox())!];
  expect(Math.abs(over.x - pane.x)).toBeLessThan(2);
  expect(Math.abs(over.width - pane.width)).toBeLessThan(8);
  release();
  await still(page);
  await expect(picture).toHaveCount(0);
});

test('how a bench was left is refused where it is none, and changes nothing', async ({ request }) => {
  const at = `http://127.0.0.1:${appState().port}/api/pieces/demo-buoy/look`;
  const now = async () => {
    const answer = await request.get(at);
    return [answer.status(), (await answer.body()).toString('base64')];
  };
  const before = await now();
  for (const data of [Buffer.from('no'), Buffer.from([4, 0, 0, 0, 0x7b, 0x7d, 0x7d, 0x7d, 2, 0, 0, 0, 1, 2]), Buffer.alloc(0)]) {
    const answer = await request.put(at, { data });
    expect(answer.status()).toBe(400);
    expect(((await answer.json()) as { message: string }).message).toMatch(/expected|no JSON|cannot be read/);
  }
  expect(await now()).toEqual(before);
});

test('what strokes leave in the flat pane is what drawing all of it leaves', async ({ page }) => {
  await makeCanvas(page, 'Parts and whole');
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const shot = () => page.screenshot({ clip: { ...box, y: box.y + 40, height: box.height - 80 } });
  const away = () => page.mouse.move(box.x + box.width / 2, 4);
  await still(page);
  await away();
  const blank = await shot();
  for (const way of [
    [
      [0.3, 0.35],
      [0.7, 0.4],
      [0.5, 0.7],
    ],
    [
      [0.6, 0.3],
      [0.35, 0.6],
    ],
  ] as [number, number][][]) {
    await stroke(page, 'flat', way);
    await still(page);
  }
  await away();
  // On a busy machine the ring of the brush goes late.
  let parts = await shot();
  await expect(async () => {
    const before = parts;
    await page.waitForTimeout(500);
    parts = await shot();
    expect(parts.equals(before)).toBe(true);
  }).toPass({ timeout: 30_000 });
  expect(differing(blank, parts)).toBeGreaterThan(0.001);
  // The ground around the work is asked for anew: all is drawn.
  await page.evaluate(() => {
    const { documentElement: root } = document;
    root.setAttribute('data-scheme', root.getAttribute('data-scheme') ?? '');
  });
  await page.waitForTimeout(1500);
  // A busy machine may draw later than that.
  await expect(async () => {
    const [a, b] = [pictureOf(parts), pictureOf(await shot())];
    expect(Buffer.from(a.data.buffer).equals(Buffer.from(b.data.buffer))).toBe(true);
  }).toPass({ timeout: 30_000 });
});

test('what one browser has drawn another one shows without drawing it; where it does not come, it is drawn', async ({
  page,
  browser,
}) => {
  await makeCanvas(page, 'Drawn by one');
  const isPart = (url: string) => /\/drawn\/[^/]+\/\d+\?/.test(url);
  const given = page.waitForResponse((r) => r.request().method() === 'PUT' && isPart(r.url()) && r.ok());
  await stroke(page, 'flat', [
    [0.3, 0.4],
    [0.7, 0.5],
  ]);
  await keptAfterStroke(page);
  await still(page);
  await given;
  // The eye is kept with the piece: both show the same part of it.
  const points: [number, number][] = [
    [0.3, 0.4],
    [0.7, 0.5],
    [0.5, 0.8],
  ];
  const here = await shownAtAll(page, 'flat', points);
  expect(here[0]).not.toEqual(here[2]);
  for (const comes of [true, false]) {
    const context = await browser.newContext({ viewport: page.viewportSize() });
    const other = await context.newPage();
    if (!comes)
      await context.route(
        (url) => isPart(url.href),
        (route) => route.abort(),
      );
    const part = comes ? other.waitForResponse((r) => r.request().method() === 'GET' && isPart(r.url()) && r.ok()) : null;
    await other.goto(page.url());
    await part;
    await still(other);
    await expect.poll(() => exactAt(other), { timeout: 90_000 }).not.toBeNull();
    await still(other);
    expect(await shownAtAll(other, 'flat', points)).toEqual(here);
    await context.close();
  }
});

test('what was drawn is refused where it is none, and of no piece', async ({ request }) => {
  const at = (id: string, part: string, build = 'abc') =>
    `http://127.0.0.1:${appState().port}/api/pieces/${id}/drawn/s/${part}?build=${build}&last`;
  for (const [url, data] of [
    [at('demo-buoy', '0'), Buffer.from('no gzip')],
    [at('demo-buoy', 'x'), Buffer.from([0x1f, 0x8b, 0])],
    [at('demo-buoy', '9999'), Buffer.from([0x1f, 0x8b, 0])],
    [at('demo-buoy', '0', '../x'), Buffer.from([0x1f, 0x8b, 0])],
    [at('nobody', '0'), Buffer.from([0x1f, 0x8b, 0])],
  ] as const) {
    const answer = await request.put(url, { data });
    expect(answer.status()).toBe(400);
    expect(((await answer.json()) as { message: string }).message).toMatch(
      /^(The part was not stored|A part goes|What was drawn goes)/,
    );
  }
  expect((await request.get(at('demo-buoy', '0'))).status()).toBe(404);
});
