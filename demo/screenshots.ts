/** Takes the pictures in docs/screenshots from a running Brindle with its demo pieces: node --import tsx demo/screenshots.ts */
import { chromium } from '@playwright/test';
import sharp from 'sharp';
import { CHROMIUM } from '../e2e/chromium';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { lanternModel } from './lantern';

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
const bench = async (id: string) => {
  await page.goto(`${at}/pieces/${id}`);
  await page.getByTestId('bench').waitFor({ timeout: 120_000 });
  // Until all is drawn exactly.
  await page.waitForTimeout(24_000);
};

await page.goto(at);
await page.getByTestId('piece-card').first().waitFor();
await page.waitForTimeout(1200);
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
await page.getByRole('radio', { name: 'Rough' }).click();
await page.waitForTimeout(1200);
await shot('map-alone');
await page.getByRole('radio', { name: 'Lit' }).click();
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
await page.evaluate(() => localStorage.clear());
await bench('demo-lantern');

const layer = (name: string) => page.getByRole('listbox').getByRole('option', { name, exact: true }).click();
await layer('Quay dust, coat');
await page.getByRole('radio', { name: 'Over' }).click();
await page.waitForTimeout(4000);
await shot('mask-over');
await page.getByRole('radio', { name: 'Off', exact: true }).click();
await layer('Verdigris into height, echo');
await page.waitForTimeout(1500);
await shot('echo');
await layer('Streaked enamel, coat');
await page.getByRole('button', { name: /^Step 2/ }).click();
await page.waitForTimeout(3000);
await shot('recipe');
await layer('Salt bloom, coat');
await page.getByRole('button', { name: /^Step 1/ }).click();
await page.getByRole('button', { name: 'Handles in the view' }).click();
await page.waitForTimeout(2500);
await shot('handles');
await page.keyboard.press('Escape');
await layer('Rope fibre, painted');
await page.getByRole('button', { name: 'Add a layer of another kind' }).click();
await page.getByRole('menuitem', { name: 'Levels', exact: true }).click();
// Until the histogram is there and all is drawn exactly again.
await page.waitForTimeout(16_000);
await shot('levels');
await page.keyboard.press('Control+z');
await page.waitForTimeout(1000);

await bench('demo-setts');
await shot('bench-tile');
await page.getByRole('button', { name: 'One texel per pixel' }).click();
const near = (await page.getByTestId('pane-model').boundingBox())!;
await page.mouse.move(near.x + 280, near.y + 330);
for (let i = 0; i < 8; i++) {
  await page.mouse.wheel(0, -240);
  await page.waitForTimeout(150);
}
await page.waitForTimeout(2500);
await shot('setts-near');
await page.keyboard.press('c');
await page.keyboard.press('Shift+c');
await page.keyboard.press('g');
await page.waitForTimeout(2500);
await shot('squint');
await page.keyboard.press('c');
await page.keyboard.press('Shift+c');
for (let i = 0; i < 3; i++) await page.keyboard.press('g');
await page.getByRole('button', { name: 'Sheet', exact: true }).click();
await page.getByRole('menuitem', { name: /Size, lie and maps/ }).click();
await page.getByRole('radio', { name: 'Rotate, flip' }).click();
await page.waitForTimeout(1500);
await shot('sheet');

// What the badge says on the day it is needed: a change that the house refused, and a piece that moved on elsewhere.
const stroke = async (y: number) => {
  const flat = (await page.getByTestId('pane-flat').boundingBox())!;
  await page.mouse.move(flat.x + 90, flat.y + y);
  await page.mouse.down();
  await page.mouse.move(flat.x + 220, flat.y + y, { steps: 4 });
  await page.mouse.up();
};
const answerOnce = async (status: number, message: string) => {
  let times = 0;
  await page.route('**/commit', (route) =>
    times++ === 0
      ? route.fulfill({ status, contentType: 'application/json', body: JSON.stringify({ message }) })
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
await page.keyboard.press('Escape');
await answerOnce(409, 'The piece was changed elsewhere in the meantime.');
await stroke(300);
await page.getByRole('alertdialog').waitFor({ timeout: 60_000 });
await page.waitForTimeout(800);
await shot('conflict');
await page.unroute('**/commit');
await page.getByRole('button', { name: 'Drop mine, open the other' }).click();
await page.getByRole('button', { name: 'Drop it' }).click();
await page.waitForTimeout(3000);

await page.goto(`${at}/pieces/demo-lantern/dispatch`);
await page.getByTestId('planned-files').waitFor({ timeout: 120_000 });
await page.waitForTimeout(800);
await shot('dispatch');
await browser.close();
