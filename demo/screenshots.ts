/** Takes the pictures in docs/screenshots from a running Brindle with its demo pieces: node --import tsx demo/screenshots.ts */
import { chromium } from '@playwright/test';
import sharp from 'sharp';
import { CHROMIUM } from '../e2e/chromium';
import { still, uncovered } from '../e2e/still';
import { SERVER_HEADER } from '../src/core/keeping/protocol';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { lanternModel } from './lanternModel';

const at = process.env.BRINDLE_ADDRESS ?? 'http://127.0.0.1:3000';
const browser = await chromium.launch(CHROMIUM);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.addInitScript(() => localStorage.setItem('brindle-hints', '["turn","paint","layers"]'));
/** Those of stone all over would be a megabyte each: with a palette they look the same at half of it. */
const shot = async (name: string) => {
  const png = await page.screenshot();
  await sharp(png)
    .png({ compressionLevel: 9, palette: png.length > 800_000, quality: 100 })
    .toFile(`docs/screenshots/${name}.png`);
};
/** Opens a piece and waits until all of it is drawn exactly. */
const bench = async (id: string) => {
  await page.goto(`${at}/pieces/${id}`);
  await uncovered(page);
  await still(page, 3000);
};

await page.goto(at);
await page.getByTestId('piece-card').first().waitFor();
await page.waitForFunction(() => [...document.images].every((image) => image.complete && image.naturalWidth > 0));
await shot('pieces');

await page.goto(`${at}/new`);
const glb = Buffer.from(await writeGlb(lanternModel()));
await page.getByTestId('model-files').setInputFiles({ name: 'harbour-lantern.glb', mimeType: 'model/gltf-binary', buffer: glb });
await page.getByTestId('uv-problems').waitFor();
await page.waitForTimeout(1500);
await shot('new-piece');

await bench('demo-lantern');
const pane = (await page.getByTestId('pane-model').boundingBox())!;
await page.mouse.move(pane.x + pane.width * 0.58, pane.y + pane.height * 0.42);
await page.waitForTimeout(600);
await shot('bench-model');
await page.getByRole('button', { name: /Slate/ }).click();
await page.waitForTimeout(1200);
await shot('bench-slate');
await page.getByRole('button', { name: /Plaster/ }).click();

// A brush with a tip and lines of its own, above the hand; then as it was.
await page.getByRole('button', { name: /^Brush:/ }).click();
const panel = page.getByRole('dialog', { name: 'Brush' });
await panel.getByRole('radio', { name: 'This brush' }).click();
await panel.getByRole('radio', { name: 'Square' }).click();
for (const [what, by] of [
  ['angle', 'direction'],
  ['across', 'dab'],
]) {
  await panel.getByRole('button', { name: 'Vary more' }).click();
  await panel.getByLabel('Varies', { exact: true }).selectOption(what);
  await panel.getByLabel('Driven by').selectOption(by);
}
await page.mouse.move(pane.x + pane.width * 0.4, pane.y + pane.height * 0.45);
await page.mouse.down();
for (let i = 0; i < 24; i++)
  await page.mouse.move(pane.x + pane.width * 0.4 + i * 5, pane.y + pane.height * 0.45 + Math.sin(i / 3) * 12);
await page.mouse.up();
await page.waitForTimeout(2500);
await shot('brush');
await page.keyboard.press('Escape');
await page.keyboard.press('Control+z');
await page.evaluate(() => localStorage.clear());
await bench('demo-lantern');

// The tortoise with the rack open, a brush of it in hand, mirrored.
await bench('demo-tortoise');
await page.keyboard.press('y');
await page.getByRole('button', { name: /^Brush:/ }).click();
await page.waitForTimeout(9000);
await page.getByRole('dialog', { name: 'Brush' }).getByRole('button', { name: 'Gouache', exact: true }).click();
await page.mouse.move(pane.x + pane.width * 0.56, pane.y + pane.height * 0.47);
await page.waitForTimeout(1200);
await shot('tortoise');
await page.keyboard.press('Escape');
// A plate's light middle is cloned over the next one.
await page.keyboard.press('y');
await page.keyboard.press('d');
await page.keyboard.down('Alt');
await page.mouse.click(pane.x + pane.width * 0.62, pane.y + pane.height * 0.5);
await page.keyboard.up('Alt');
await page.mouse.move(pane.x + pane.width * 0.5, pane.y + pane.height * 0.51);
await page.mouse.down();
for (let i = 0; i < 12; i++)
  await page.mouse.move(pane.x + pane.width * (0.5 + 0.004 * i), pane.y + pane.height * (0.51 + 0.02 * Math.sin(i)));
await page.mouse.up();
await page.waitForTimeout(4000);
await shot('clone');
await page.keyboard.press('Control+z');
await page.evaluate(() => localStorage.clear());
await bench('demo-lantern');

const layer = (name: string) => page.getByRole('row', { name, exact: true }).getByTestId('layer-name').click();
await layer('Edge polish, coat');
await page.getByRole('button', { name: /^Step 1/ }).click();
await page.getByRole('radio', { name: 'Over' }).click();
await page.waitForTimeout(4000);
await shot('wear');
await page.getByRole('radio', { name: 'Off', exact: true }).click();
await layer('Streaked enamel, coat');
await page.getByRole('button', { name: /^Step 2/ }).click();
await page.waitForTimeout(3000);
await shot('recipe');

// The courier's badge: a decal around the edge of a satchel, with its handles.
await bench('demo-tortoise');
await page.getByRole('button', { name: 'Side' }).click();
await page.waitForTimeout(600);
await page.mouse.move(pane.x + pane.width * 0.56, pane.y + pane.height * 0.44);
for (let i = 0; i < 7; i++) {
  await page.mouse.wheel(0, -240);
  await page.waitForTimeout(120);
}
await layer('Couriers’ badge, coat');
await page.waitForTimeout(3000);
await shot('handles');
await page.keyboard.press('Escape');

// The buoy: 64 texels, without light, shaded by its form.
await bench('demo-buoy');
await page.getByRole('button', { name: /^Unlit, with form/ }).click();
await page.getByRole('button', { name: /^Brush:/ }).click();
const rack = page.getByRole('dialog', { name: 'Brush' });
await rack.getByLabel('Find a brush').fill('dither');
await rack.getByRole('button', { name: 'Dither', exact: true }).click();
await page.waitForTimeout(6000);
await shot('buoy');
await page.keyboard.press('Escape');
await page.evaluate(() => localStorage.clear());

// The bakes of the tortoise: its cage, and what a reach that is too short misses; then the queue at work.
await bench('demo-tortoise');
await page.keyboard.press('Control+b');
const card = page.getByRole('region', { name: 'Bakes' });
await card.getByRole('button', { name: 'Normal: settings' }).click();
for (const reach of ['Outward', 'Inward']) {
  await card.getByRole('textbox', { name: reach }).fill('0.1');
  await card.getByRole('textbox', { name: reach }).press('Enter');
}
await card.getByRole('switch', { name: 'Cage' }).click();
await page.waitForTimeout(15_000);
await shot('bakes');
await card.getByRole('button', { name: 'Ambient occlusion: settings' }).click();
await card.getByLabel('Size').selectOption('2048');
await card.getByRole('button', { name: /^Bake (it|all)/ }).click();
await page.waitForTimeout(5000);
await page.goto(`${at}/jobs`);
await page.waitForTimeout(4000);
await shot('jobs');
await bench('demo-tortoise');
for (let i = 0; i < 6; i++) await page.keyboard.press('Control+z');
await page.waitForTimeout(3000);
await page.evaluate(() => localStorage.clear());

// A fence by what is baked: only the hollows take paint.
await bench('demo-lantern');
await layer('Hand: scratches, painted');
const [cx, cy] = [pane.x + pane.width * 0.5, pane.y + pane.height * 0.45];
await page
  .getByRole('button', { name: /^Fence/ })
  .first()
  .click();
await page.getByRole('button', { name: 'Add a step to the mask' }).last().click();
await page.getByRole('menuitem', { name: 'Occlusion (dirt)' }).click();
await page.waitForTimeout(6000);
await shot('fence');
await page.keyboard.press('Escape');
await page.keyboard.press('Escape');
await page.keyboard.press('Shift+O');
await page.waitForTimeout(2000);

// A made-up sign of the glassblowers as a stencil, half of it painted.
const rays = Array.from({ length: 16 }, (_, n) => {
  const [r, a] = [n % 2 ? 120 : 236, (n / 16) * Math.PI * 2];
  return `${256 + r * Math.cos(a)},${256 + r * Math.sin(a)}`;
}).join(' ');
const sign = await sharp(
  Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" width="512" height="512"><polygon points="${rays}" fill="#efe3bd"/><circle cx="256" cy="256" r="86" fill="#2f6f86"/><circle cx="256" cy="256" r="46" fill="#efe3bd"/></svg>`,
  ),
)
  .png()
  .toBuffer();
await page.getByRole('button', { name: /^Stencil: / }).click();
const [chooser] = await Promise.all([
  page.waitForEvent('filechooser'),
  page.getByRole('button', { name: 'Picture', exact: true }).click(),
]);
await chooser.setFiles({ name: 'glass sign.png', mimeType: 'image/png', buffer: sign });
await page.getByLabel('Paints').selectOption('colour');
await page.waitForTimeout(1500);
const dot = (await page.locator('[data-handle="stencil-middle"]').boundingBox())!;
await page.mouse.move(dot.x + dot.width / 2, dot.y + dot.height / 2);
await page.mouse.down();
await page.mouse.move(cx, cy - 4, { steps: 4 });
await page.mouse.up();
const corner = (await page.locator('[data-handle="stencil-corner"]').boundingBox())!;
await page.mouse.move(corner.x + corner.width / 2, corner.y + corner.height / 2);
await page.mouse.down();
await page.mouse.move(cx + 58, cy - 66, { steps: 4 });
await page.mouse.up();
await page.keyboard.press('Escape');
for (let i = 0; i < 4; i++) await page.keyboard.press(']');
await page.mouse.move(cx - 70, cy - 50);
await page.mouse.down();
for (let i = 0; i < 5; i++) {
  await page.mouse.move(cx - 4, cy - 50 + i * 24, { steps: 5 });
  await page.mouse.move(cx - 70, cy - 38 + i * 24, { steps: 5 });
}
await page.mouse.up();
await page.waitForTimeout(4000);
await page.getByRole('button', { name: /^Stencil: / }).click();
await page.waitForTimeout(800);
await shot('stencil');
// The first one puts away the hint over the picture's button, the second one the box.
await page.keyboard.press('Escape');
await page.keyboard.press('Escape');
await page.keyboard.press('/');

// A study of the harbour at dusk, made up here, pinned; its colours as a palette.
const dusk = await sharp(
  Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" width="600" height="400"><defs><linearGradient id="s" x2="0" y2="1"><stop offset="0" stop-color="#2c3a63"/><stop offset="0.55" stop-color="#c56b4a"/><stop offset="1" stop-color="#f0c07a"/></linearGradient></defs><rect width="600" height="250" fill="url(#s)"/><rect y="250" width="600" height="150" fill="#24404f"/><g fill="#1b2230"><rect x="30" y="150" width="90" height="110"/><rect x="140" y="120" width="70" height="140"/><polygon points="140,120 175,80 210,120"/><rect x="420" y="140" width="120" height="120"/></g><g fill="#f5d48a"><rect x="155" y="150" width="14" height="20"/><rect x="180" y="150" width="14" height="20"/><rect x="440" y="170" width="18" height="22"/><circle cx="175" cy="300" r="14" opacity="0.5"/></g></svg>`,
  ),
)
  .png()
  .toBuffer();
await page.keyboard.press('Shift+J');
await page.getByLabel('Pictures to pin').setInputFiles([
  { name: 'harbour at dusk.png', mimeType: 'image/png', buffer: dusk },
  { name: 'glass sign.png', mimeType: 'image/png', buffer: sign },
]);
await page.waitForTimeout(2500);
await page.getByRole('button', { name: 'Palettes', exact: true }).click();
const [study] = await Promise.all([page.waitForEvent('filechooser'), page.getByRole('button', { name: 'a picture …' }).click()]);
await study.setFiles({ name: 'harbour at dusk.png', mimeType: 'image/png', buffer: dusk });
await page.waitForTimeout(2500);
await shot('pinboard');
await page.keyboard.press('Escape');
await page.keyboard.press('Shift+J');
for (let i = 0; i < 12; i++) await page.keyboard.press('Control+z');
await page.waitForTimeout(3000);
await page.evaluate(() => localStorage.clear());

await bench('demo-setts');
await shot('bench-tile');
// The badge and its panel with a change that the server refused.
const stroke = async (y: number) => {
  const flat = (await page.getByTestId('pane-flat').boundingBox())!;
  await page.mouse.move(flat.x + 90, flat.y + y);
  await page.mouse.down();
  await page.mouse.move(flat.x + 220, flat.y + y, { steps: 4 });
  await page.mouse.up();
};
// An answer counts only if it names the server that it comes from.
const server = (await fetch(`${at}/api/health`)).headers.get(SERVER_HEADER) ?? '';
const answerOnce = async (status: number, message: string) => {
  let times = 0;
  await page.route('**/commit', (route) =>
    times++ === 0
      ? route.fulfill({
          status,
          headers: { [SERVER_HEADER]: server },
          contentType: 'application/json',
          body: JSON.stringify({ message }),
        })
      : route.continue(),
  );
};
await bench('demo-setts');
await answerOnce(413, 'This is larger than 128 MiB, the most that is taken.');
await stroke(260);
await page.locator('[data-testid="kept"][data-aside="1"]').waitFor({ timeout: 60_000 });
await page.waitForTimeout(3000);
await page.getByTestId('kept').click();
await page.waitForTimeout(800);
await page.mouse.move(700, 500);
await page.waitForTimeout(400);
await shot('kept-aside');
await page.getByRole('button', { name: 'Drop for good' }).click();
await page.getByRole('button', { name: 'Drop it' }).click();
await page.unroute('**/commit');
await page.goto(`${at}/pieces/demo-lantern/dispatch`);
await page.getByTestId('planned-files').waitFor({ timeout: 120_000 });
await page.waitForTimeout(800);
await shot('dispatch');
await browser.close();
