import { SERVER_HEADER } from '../src/core/keeping/protocol';
import { execFileSync } from 'node:child_process';
import { chromium, expect, test } from '@playwright/test';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { address, appState, passwordOfDatabase, startDatabase, startWeb } from './app';
import { CHROMIUM } from './chromium';
import { coveredTiles, downloadBy, kept, keptAfterStroke, layerIdOf, makeCanvas, openPiece, stored, stroke } from './helpers';

test('killing the browser, the application and PostgreSQL loses nothing', async () => {
  const profile = mkdtempSync(join(tmpdir(), 'brindle-profile-'));
  const launch = () => chromium.launchPersistentContext(profile, { ...CHROMIUM, viewport: { width: 1280, height: 800 } });
  let context = await launch();
  let page = context.pages()[0];
  const id = await makeCanvas(page, 'Sturdy tile');
  const layer = await layerIdOf(id, 'Hand');
  await stroke(page, 'flat', [
    [0.3, 0.4],
    [0.5, 0.4],
  ]);
  await keptAfterStroke(page);
  const first = await coveredTiles(id, `${layer}/base-colour`);
  expect(first.size).toBeGreaterThan(0);

  // The application dies; a stroke made now waits in the browser and is shown as waiting.
  process.kill(appState().webPid, 'SIGKILL');
  await stroke(page, 'flat', [
    [0.3, 0.6],
    [0.6, 0.6],
  ]);
  await expect(page.getByTestId('kept')).toHaveAttribute('data-state', 'offline');
  await expect(page.getByTestId('kept')).toHaveAttribute('data-waiting', '1');

  // The browser dies too, without any chance to say goodbye.
  const pids = execFileSync('pgrep', ['-f', profile]).toString().trim().split('\n').map(Number);
  for (const pid of pids)
    try {
      process.kill(pid, 'SIGKILL');
    } catch {
      // Gone with its parent.
    }
  await context.close().catch(() => undefined);

  // And PostgreSQL, before everything comes back.
  const { port, databaseUrl } = appState();
  const postgres = await startDatabase();
  process.kill(await postgres.pid(), 'SIGKILL');
  await expect.poll(() => alive(postgres.port), { timeout: 20_000 }).toBe(false);
  await new Promise((resolve) => setTimeout(resolve, 1000));
  await startDatabase(postgres.port);
  await startWeb(port, databaseUrl);

  // What was kept is there; what was finished is there after reopening in the same browser.
  expect((await stored(id)).position).toBe(1);
  expect(await coveredTiles(id, `${layer}/base-colour`)).toEqual(first);
  context = await launch();
  page = context.pages()[0];
  await openPiece(page, id);
  await kept(page);
  await expect.poll(async () => (await stored(id)).position).toBe(2);
  const both = await coveredTiles(id, `${layer}/base-colour`);
  const sum = (m: Map<number, number>) => [...m.values()].reduce((a, b) => a + b, 0);
  expect(sum(both)).toBeGreaterThan(sum(first) * 1.5);
  await context.close();
  rmSync(profile, { recursive: true, force: true });
});

async function alive(port: number): Promise<boolean> {
  const { Client } = await import('pg');
  const client = new Client({
    host: '127.0.0.1',
    port,
    user: 'brindle',
    password: passwordOfDatabase(),
    database: 'postgres',
  });
  client.on('error', () => undefined);
  return client.connect().then(
    () => client.end().then(() => true),
    () => false,
  );
}

test('PostgreSQL killed and back while the bench is open: the badge says offline, then kept', async ({ page }) => {
  const id = await makeCanvas(page, 'Patient tile');
  const postgres = await startDatabase();
  process.kill(await postgres.pid(), 'SIGKILL');
  await expect.poll(() => alive(postgres.port), { timeout: 20_000 }).toBe(false);
  await stroke(page, 'flat', [
    [0.4, 0.4],
    [0.6, 0.6],
  ]);
  await expect(page.getByTestId('kept')).toHaveAttribute('data-state', 'offline');
  await startDatabase(postgres.port);
  await page.getByTestId('kept').click();
  await kept(page);
  expect((await stored(id)).position).toBe(1);
});

test('the piece open in two browsers: the later one is asked, and keeps its stroke in a copy', async ({ page, browser }) => {
  const id = await makeCanvas(page, 'Shared tile');
  const elsewhere = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const other = await elsewhere.newPage();
  await openPiece(other, id);
  await stroke(other, 'flat', [
    [0.3, 0.3],
    [0.5, 0.3],
  ]);
  await keptAfterStroke(other);
  await elsewhere.close();
  await stroke(page, 'flat', [
    [0.3, 0.7],
    [0.5, 0.7],
  ]);
  await expect(page.getByRole('alertdialog')).toContainText('changed elsewhere');
  await expect(page.getByTestId('conflict-entries')).toContainText('Stroke on Hand');
  await page.getByRole('button', { name: 'Keep mine in a copy' }).click();
  await page.waitForURL((url) => !url.pathname.endsWith(id) && /\/pieces\//.test(url.pathname), { timeout: 60_000 });
  await expect(page.getByTestId('bench')).toBeVisible({ timeout: 90_000 });
  await kept(page);
  const copy = page.url().split('/').pop()!;
  expect((await stored(copy)).document.name).toBe('Shared tile copy');
  // The copy has the other's stroke in its tiles, and mine as a step upon it.
  const layer = await layerIdOf(copy, 'Hand');
  const sum = async (piece: string) =>
    [...(await coveredTiles(piece, `${layer}/base-colour`)).values()].reduce((a, b) => a + b, 0);
  expect(await sum(copy)).toBeGreaterThan((await sum(id)) * 1.5);
  expect((await stored(copy)).position).toBe(1);
  expect((await stored(id)).position).toBe(1);
});

test('the piece open in two tabs: the second takes it over with all that was painted, and the first can have it back', async ({
  page,
  context,
}) => {
  const id = await makeCanvas(page, 'Handed tile');
  await stroke(page, 'flat', [
    [0.3, 0.3],
    [0.5, 0.3],
  ]);
  const other = await context.newPage();
  await openPiece(other, id);
  await expect(page.getByText('painted in another tab now')).toBeVisible();
  await stroke(other, 'flat', [
    [0.3, 0.7],
    [0.5, 0.7],
  ]);
  await keptAfterStroke(other);
  expect((await stored(id)).position).toBe(2);
  await page.getByRole('button', { name: 'Paint here' }).click();
  await expect(page.getByTestId('bench')).toBeVisible({ timeout: 90_000 });
  await expect(other.getByText('painted in another tab now')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await stored(id)).position).toBe(1);
  await kept(page);
});

test('a page that is left at once after the pen is up has lost nothing', async ({ page }) => {
  const id = await makeCanvas(page, 'Hasty tile');
  for (let n = 0; n < 3; n++) {
    await stroke(page, 'flat', [
      [0.3, 0.3 + 0.1 * n],
      [0.6, 0.3 + 0.1 * n],
    ]);
    await page.goto(`${address()}/`);
    await openPiece(page, id);
    await kept(page);
    expect((await stored(id)).position).toBe(n + 1);
  }
});

test('a browser that has no room: red, in words; the server gets the strokes all the same', async ({ page }) => {
  const id = await makeCanvas(page, 'Crowded tile');
  // As a full disk answers: every write of the journal's worker fails.
  const room = (full: boolean) =>
    Promise.all(
      page.workers().map((worker) =>
        worker.evaluate((full) => {
          const { prototype } = IDBObjectStore as unknown as { prototype: IDBObjectStore & { real?: IDBObjectStore['put'] } };
          prototype.real ??= prototype.put;
          prototype.put = full
            ? () => {
                throw new DOMException('The quota has been exceeded.', 'QuotaExceededError');
              }
            : prototype.real;
        }, full),
      ),
    );
  await room(true);
  for (const y of [0.3, 0.4, 0.5])
    await stroke(page, 'flat', [
      [0.3, y],
      [0.6, y],
    ]);
  await expect(page.getByTestId('kept')).toHaveAttribute('data-journal', 'failing');
  await expect(page.getByTestId('kept')).toContainText(/Kept by the server only|Not kept here/);
  await expect.poll(async () => (await stored(id)).position).toBe(3);
  await room(false);
  await stroke(page, 'flat', [
    [0.3, 0.6],
    [0.6, 0.6],
  ]);
  await expect(page.getByTestId('kept')).toHaveAttribute('data-journal', 'ok');
  await kept(page);
  expect((await stored(id)).position).toBe(4);
});

test('what the server refuses is set aside with its reason, and can be tried again; the rest goes on', async ({ page }) => {
  const id = await makeCanvas(page, 'Refused tile');
  let refuse = true;
  await page.route('**/commit', async (route) => {
    if (!refuse) return route.continue();
    refuse = false;
    await route.fulfill({
      status: 413,
      contentType: 'application/json',
      headers: { [SERVER_HEADER]: 'any' },
      body: '{"message":"This is larger than 1 MiB, the most that is taken."}',
    });
  });
  await stroke(page, 'flat', [
    [0.3, 0.3],
    [0.6, 0.3],
  ]);
  await expect(page.getByTestId('kept')).toHaveAttribute('data-aside', '1');
  await stroke(page, 'flat', [
    [0.3, 0.6],
    [0.6, 0.6],
  ]);
  await expect.poll(async () => (await stored(id)).position).toBe(1);
  await page.getByTestId('kept').click();
  const entry = page.getByTestId('kept-entry');
  await expect(entry).toContainText('larger than 1 MiB');
  const file = await downloadBy(page, entry.getByRole('button', { name: 'Download as a file' }));
  expect(file.name).toBe('stroke-on-hand.zip');
  await entry.getByRole('button', { name: 'Try again' }).click();
  await expect.poll(async () => (await stored(id)).position).toBe(2);
  await expect(page.getByTestId('kept')).toHaveAttribute('data-aside', '0');
});

test('a piece deleted under the brush is brought back from the bench, with what was painted since', async ({ page }) => {
  const id = await makeCanvas(page, 'Lost tile');
  await fetch(`${address()}/api/pieces/${id}`, { method: 'DELETE' });
  await stroke(page, 'flat', [
    [0.3, 0.3],
    [0.6, 0.3],
  ]);
  await expect(page.getByTestId('kept')).toHaveAttribute('data-state', 'gone');
  await page.getByTestId('kept').click();
  await page.getByRole('button', { name: 'Bring the piece back' }).click();
  await kept(page);
  expect((await stored(id)).position).toBe(1);
});

test('a name given on the pieces page is no conflict for an open bench', async ({ page }) => {
  const id = await makeCanvas(page, 'Plain tile');
  await fetch(`${address()}/api/pieces/${id}`, { method: 'PATCH', body: JSON.stringify({ name: 'Fine tile' }) });
  await stroke(page, 'flat', [
    [0.3, 0.3],
    [0.6, 0.3],
  ]);
  await keptAfterStroke(page);
  expect((await stored(id)).document.name).toBe('Fine tile');
  await expect(page.getByRole('banner').or(page.locator('header'))).toContainText('Fine tile');
});

test('one address: another name of this machine leads to it, pages carry the policy, foreign hosts get none', async ({
  page,
}) => {
  const port = appState().port;
  await page.goto(`http://localhost:${port}/`);
  expect(page.url()).toBe(`${address()}/`);
  const answer = await fetch(`${address()}/new`);
  expect(answer.headers.get('content-security-policy')).toContain("frame-ancestors 'none'");
  expect(answer.headers.get('referrer-policy')).toBe('no-referrer');
  const { request } = await import('node:http');
  const status = await new Promise<number>((resolve) =>
    request(`${address()}/`, { headers: { host: 'evil.example' } }, (r) => resolve(r.statusCode!)).end(),
  );
  expect(status).toBe(403);
});

test('requests of other pages are refused, and so are strange hosts and oversized or broken bodies', async () => {
  const url = `${address()}/api/pieces/demo-setts`;
  const status = (headers: Record<string, string>, init: RequestInit = {}) =>
    fetch(url, { ...init, headers }).then((r) => r.status);
  expect(await status({})).toBe(200);
  expect(await status({ origin: 'http://evil.example' })).toBe(403);
  expect(await status({ 'sec-fetch-site': 'cross-site' })).toBe(403);
  expect(await status({ origin: 'http://evil.example' }, { method: 'DELETE' })).toBe(403);
  const post = (path: string, body: BodyInit) =>
    fetch(`${address()}${path}`, { method: 'POST', body }).then(
      async (r) => [r.status, ((await r.json()) as { message: string }).message] as const,
    );
  for (const [path, body, code] of [
    ['/api/pieces/import', 'not a zip', 422],
    ['/api/pieces/import', '', 422],
    ['/api/pieces/demo-setts/commit', 'nonsense', 400],
    ['/api/blobs', '["../../x"]', 400],
  ] as const) {
    const [answer, message] = await post(path, body);
    expect(answer).toBe(code);
    expect(message).toMatch(/^[A-Z“"].{8,}\.$/);
  }
  const renamed = await fetch(url, { method: 'PATCH', body: JSON.stringify({ name: 'a/b' }) });
  expect([renamed.status, ((await renamed.json()) as { message: string }).message]).toEqual([
    422,
    'A name cannot contain slashes or control characters.',
  ]);
  expect((await stored('demo-setts')).document.name).toBe('Quay setts');
});

test('an upload that says it is too large is refused at once', async () => {
  const { request } = await import('node:http');
  const answer = (path: string, length: number) =>
    new Promise<[number, string]>((resolve, reject) => {
      const sent = request(`${address()}${path}`, { method: 'POST', headers: { 'content-length': length } }, (response) => {
        let body = '';
        response.on('data', (chunk: Buffer) => (body += chunk.toString()));
        response.on('end', () => {
          sent.destroy();
          resolve([response.statusCode!, (JSON.parse(body) as { message: string }).message]);
        });
      });
      sent.on('error', reject);
      sent.flushHeaders();
      sent.write('x');
    });
  expect(await answer('/api/pieces/demo-setts/commit', 300 * 1024 * 1024)).toEqual([
    413,
    'This is larger than 128 MiB, the most that is taken.',
  ]);
  expect(await answer('/api/pieces/import', 2000 * 1024 * 1024)).toEqual([
    413,
    'This is larger than 1024 MiB, the most that is taken.',
  ]);
});

test('after a refusal for its size the connection can be used again', async () => {
  const { Agent, request } = await import('node:http');
  const agent = new Agent({ keepAlive: true, maxSockets: 1 });
  const ask = (method: string, path: string, body?: Uint8Array) =>
    new Promise<number>((resolve, reject) => {
      const sent = request(
        `${address()}${path}`,
        { method, agent, headers: body ? { 'content-length': body.length } : {} },
        (r) => {
          r.resume().on('end', () => resolve(r.statusCode!));
        },
      );
      sent.on('error', reject).end(body);
    });
  expect(await ask('PUT', '/api/blobs', new Uint8Array(20 << 20))).toBe(413);
  expect(await ask('GET', '/api/health')).toBe(200);
  expect(await ask('POST', '/api/pieces/..%2Fx/commit', new Uint8Array(4))).toBe(400);
  expect(await ask('GET', '/api/health')).toBe(200);
  agent.destroy();
});
