/** Every page and every state that can be opened: axe-core finds no violation, and no label, value or select is cut. */
import { expect, test, type Page } from '@playwright/test';
import axe, { type AxeResults } from 'axe-core';
import { address } from './app';
import { cutTexts } from './cutTexts';
import { openPiece } from './helpers';

interface Found {
  where: string;
  rule: string;
  html: string;
}

/** The checker is read by a page once: it is 500 kB. It runs on what can be seen, target sizes too. */
async function violations(page: Page, where: string, within?: string): Promise<Found[]> {
  if (!(await page.evaluate('!!window.axe'))) await page.evaluate(axe.source);
  const parts = within ? `{ include: ${JSON.stringify([[within]])} }` : 'document';
  const options = "{ resultTypes: ['violations'], rules: { 'target-size': { enabled: true } } }";
  const { violations: found } = (await page.evaluate(`window.axe.run(${parts}, ${options})`)) as AxeResults;
  const cut = await cutTexts(page, within);
  return [
    ...found.flatMap((v) => v.nodes.map((n) => ({ where, rule: v.id, html: n.html.slice(0, 160) }))),
    ...cut.map((text) => ({ where, rule: 'cut', html: text })),
  ];
}

const OPENED = '[data-radix-popper-content-wrapper], [role=dialog], [role=menu]';

/** Opens whatever can be opened, one after another, and looks at each. */
async function everythingOpen(page: Page, where: string): Promise<Found[]> {
  const triggers = page.locator('[aria-haspopup]:visible, [data-opens]:visible');
  const out: Found[] = [];
  const seen = new Set<string>();
  const count = await triggers.count();
  for (let n = 0; n < count; n++) {
    const trigger = triggers.nth(n);
    // Of those that are made by the same code (cells of one kind, rows) one is enough.
    const kind = await trigger
      .evaluate((e) => `${e.tagName} ${e.className} ${e.innerHTML.replace(/"[^"]*"|[^<>]+(?=<)/g, '')}`)
      .catch(() => '');
    if (kind.length > 80 && seen.has(kind)) continue;
    seen.add(kind);
    const name = (
      (await trigger.getAttribute('aria-label').catch(() => null)) ?? (await trigger.innerText().catch(() => ''))
    ).split('\n')[0];
    if (!(await trigger.isEnabled().catch(() => false))) continue;
    await trigger.click({ timeout: 3000 }).catch(() => {});
    await page.waitForTimeout(150);
    if ((await page.locator(OPENED).count()) > 0) out.push(...(await violations(page, `${where} › ${name}`, OPENED)));
    await page.keyboard.press('Escape');
    await page.waitForTimeout(100);
  }
  return out;
}

/** Each kind once, with where it was seen first. */
const told = (found: readonly Found[]): string[] => [
  ...new Map(found.map((f) => [`${f.rule} ${f.html}`, `${f.where}: ${f.rule}: ${f.html}`])).values(),
];

test('the pages', async ({ page }) => {
  const found: Found[] = [];
  for (const path of [
    '/',
    '/new',
    '/jobs',
    '/pieces/demo-lantern/dispatch',
    '/pieces/demo-lantern/pins',
    '/pieces/no-such-piece',
    '/nowhere',
  ]) {
    await page.goto(address() + path, { waitUntil: 'domcontentloaded' });
    if (path.endsWith('dispatch')) found.push(...(await violations(page, `${path} while it loads`)));
    await page.waitForLoadState('networkidle');
    found.push(...(await violations(page, path)), ...(await everythingOpen(page, path)));
  }
  expect(told(found)).toEqual([]);
});

test('the bench of a model', async ({ page }) => {
  await openPiece(page, 'demo-lantern');
  const found = [...(await violations(page, 'lantern')), ...(await everythingOpen(page, 'lantern'))];
  expect(told(found)).toEqual([]);
});

test('layers of every kind, open; the command search, the keys, a sheet’s shape; a tool after another', async ({ page }) => {
  await openPiece(page, 'demo-lantern');
  const found: Found[] = [];
  for (const name of ['Verdigris', 'Tarnish from the foot', 'Verdigris into height', 'Weather', 'Runs from the edges']) {
    await page
      .getByRole('row', { name: new RegExp(`^${name}, `) })
      .getByTestId('layer-name')
      .click();
    found.push(...(await violations(page, name, 'aside')));
    const steps = page.getByRole('button', { name: /^Step \d/ });
    if ((await steps.count()) > 0) {
      await steps.first().click();
      found.push(...(await violations(page, `${name}, its first step`, 'aside')));
    }
  }
  await page.keyboard.press('Control+k');
  found.push(...(await violations(page, 'the command search', '[role=dialog]')));
  await page.keyboard.press('Escape');
  const tools = page.getByRole('group', { name: 'Tools' }).getByRole('button');
  for (let n = 0; n < (await tools.count()); n++) {
    await tools.nth(n).click();
    found.push(...(await violations(page, `tool ${n}`, 'section[aria-label=Hand]')));
  }
  expect(told(found)).toEqual([]);
});

test('a model that is reviewed, and a piece that is made of it with notes', async ({ page }) => {
  await page.goto(`${address()}/new`);
  const obj =
    'mtllib gone.mtl\no Plate\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0.1 0.1\nvt 0.9 0.1\nvt 0.9 0.9\nvt 0.1 0.9\nf 1/1 2/2 3/3 4/4\nl 1 2\n';
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'plate.obj', mimeType: 'text/plain', buffer: Buffer.from(obj) });
  await expect(page.getByRole('button', { name: 'Make the piece' })).toBeVisible();
  // What the file lacks, and what it has that does not come in, is said here.
  await expect(page.getByText(/gone\.mtl/)).toBeVisible();
  await expect(page.getByText(/lines/).first()).toBeVisible();
  expect(told(await violations(page, 'a model reviewed'))).toEqual([]);
});

test('the bench of a canvas', async ({ page }) => {
  await openPiece(page, 'demo-setts');
  const found = [...(await violations(page, 'setts')), ...(await everythingOpen(page, 'setts'))];
  expect(told(found)).toEqual([]);
});
