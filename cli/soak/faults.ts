/**
 * Faults that are injected into the browser or the server to test the soak itself. Each reports that data was stored when it was not.
 */
import type { BrowserContext } from '@playwright/test';

export const FAULTS = ['drop an entry', 'write late', 'yes without keeping'] as const;
export type Fault = (typeof FAULTS)[number];

/**
 * Put before every script of the page, so that it holds in the journal's worker too. `drop an entry`: each finished entry (put once more
 * when the pen is up) is taken and thrown away. `write late`: entries and samples are written five seconds after it was said.
 */
const patch = (fault: Fault): string => `
(() => {
  if (typeof IDBObjectStore === 'undefined' || self.soakFault) return;
  self.soakFault = true;
  const later = [];
  for (const way of ['put', 'add']) {
    const real = IDBObjectStore.prototype[way];
    IDBObjectStore.prototype[way] = function (value, ...rest) {
      if (this.name !== 'entries' && this.name !== 'samples') return real.call(this, value, ...rest);
      const fault = ${JSON.stringify(fault)};
      if (fault === 'drop an entry') return this.count();
      if (fault !== 'write late') return real.call(this, value, ...rest);
      const { db } = this.transaction;
      const store = this.name;
      setTimeout(() => {
        try { real.call(db.transaction(store, 'readwrite').objectStore(store), value, ...rest); } catch {}
      }, 5000);
      return this.count();
    };
  }
})();
`;

export async function injectFault(context: BrowserContext, fault: Fault): Promise<void> {
  if (fault === 'yes without keeping') {
    // A complete answer for this very operation, from nobody.
    await context.route('**/api/pieces/*/commit', async (route) => {
      const body = route.request().postDataBuffer();
      const length = body?.readUInt32LE(0) ?? 0;
      const header = JSON.parse(body!.subarray(4, 4 + length).toString()) as { id: string; baseRevision: number; kind: string };
      const health = await fetch(new URL('/api/health', route.request().url()));
      const house = health.headers.get('x-brindle-house') ?? '';
      const revision = header.baseRevision + 1;
      const answer = { house, operation: header.id, revision, position: revision, name: 'Soak' };
      await route.fulfill({ status: 200, headers: { 'x-brindle-house': house }, json: answer });
    });
    return;
  }
  const patched = new Map<string, { headers: Record<string, string>; body: string }>();
  await context.route(/\.js(\?|$)/, async (route) => {
    const url = route.request().url();
    // A kept connection that the server closes at this very moment makes a request fail: the page would stay without its script.
    for (let tries = 0; tries < 5; tries++)
      try {
        if (!patched.has(url)) {
          const answer = await fetch(url);
          if (!answer.ok) return await route.continue();
          // Its own headers: without them a worker may not share memory with its page. The body is no longer as it was packed.
          const headers = Object.fromEntries(
            [...answer.headers].filter(
              ([name]) => !/^(content-(encoding|length)|transfer-encoding|connection|keep-alive)$/.test(name),
            ),
          );
          patched.set(url, { headers, body: patch(fault) + (await answer.text()) });
        }
        return await route.fulfill({ status: 200, ...patched.get(url)! });
      } catch {
        if (route.request().failure()) return;
      }
    await route.abort().catch(() => undefined);
  });
}
