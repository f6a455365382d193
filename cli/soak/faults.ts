/**
 * Faults that are injected into the browser or the server to test the soak itself. Each reports that data was stored when it was not.
 */
import type { BrowserContext } from '@playwright/test';
import { SERVER_HEADER } from '../../src/core/keeping/protocol';

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
      const server = health.headers.get(SERVER_HEADER) ?? '';
      const revision = header.baseRevision + 1;
      const answer = { server, operation: header.id, revision, position: revision, name: 'Soak' };
      await route.fulfill({ status: 200, headers: { [SERVER_HEADER]: server }, json: answer });
    });
    return;
  }
  const scripts = new Map<string, Script>();
  await context.route(/\.js(\?|$)/, async (route) => {
    const url = route.request().url();
    try {
      const script = scripts.get(url) ?? (await fetchScript(url));
      scripts.set(url, script);
      await route.fulfill({ headers: script.headers, body: patch(fault) + script.text });
    } catch {
      // The request fails if the browser is killed while it loads.
      await route.abort().catch(() => undefined);
    }
  });
}

interface Script {
  text: string;
  headers: Record<string, string>;
}

const TRIES = 5;

/** A busy server may close a connection or answer late: without a retry the page would lack this script. */
async function fetchScript(url: string, tries = TRIES): Promise<Script> {
  try {
    const answer = await fetch(url);
    if (!answer.ok) throw new Error(`${url} was answered with ${answer.status}`);
    // Its headers say which pages may load it. It is sent on as text.
    const { 'content-encoding': _e, 'content-length': _l, ...headers } = Object.fromEntries(answer.headers);
    return { text: await answer.text(), headers };
  } catch (error) {
    if (tries <= 1) throw error;
    await new Promise((resolve) => setTimeout(resolve, 500));
    return fetchScript(url, tries - 1);
  }
}
