/**
 * How busy the page and the engine are under a pen, in the real page at 2048² with thirty layers on four maps. `pen-page`: milliseconds of script
 * of the page's thread in each 16 of a pen at 240 Hz, callbacks of animation frames not counted. `pen-engine`: the share of time in which the
 * engine's thread has a processor, at 60 Hz.
 */
import { readdirSync, readFileSync } from 'node:fs';
import type { CDPSession, Page } from '@playwright/test';
import { onCanvas } from './canvasPage';
import { asked, type Result } from './result';

const WANTED = { pageMs: 3, engine: 0.35 };
/** A stroke goes on for so long. */
const LASTS_MS = 6000;
/** If the three strokes show fewer batches of texels than this, something is wrong: even slow machines show more. */
const LEAST_SHOWN = 30;
/** Ticks of /proc a second (sysconf(_SC_CLK_TCK), 100 on Linux). */
const TICKS = 100;

/** As text: the loader of this file adds helpers to functions that pages do not know. */
const IN_PAGE = `
  window.brindleFrameMs = 0;
  const raf = window.requestAnimationFrame;
  window.requestAnimationFrame = (callback) => raf.call(window, (t) => {
    const start = performance.now();
    callback(t);
    window.brindleFrameMs += performance.now() - start;
  });
`;

/** Seconds of processor that each worker thread of the browser has had, by process and thread. */
function workerSeconds(): Map<string, number> {
  const out = new Map<string, number>();
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    try {
      for (const thread of readdirSync(`/proc/${pid}/task`)) {
        const stat = readFileSync(`/proc/${pid}/task/${thread}/stat`, 'utf8');
        const name = stat.slice(stat.indexOf('(') + 1, stat.lastIndexOf(')'));
        if (!name.startsWith('DedicatedWorker')) continue;
        const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
        out.set(`${pid} ${thread}`, (Number(fields[11]) + Number(fields[12])) / TICKS);
      }
    } catch {
      // It has ended.
    }
  return out;
}

/** Seconds of script on the page's thread so far, without those of animation frames. */
async function scriptSeconds(page: Page, cdp: CDPSession): Promise<number> {
  const { metrics } = await cdp.send('Performance.getMetrics');
  const script = metrics.find(({ name }) => name === 'ScriptDuration')!.value;
  return script - ((await page.evaluate('window.brindleFrameMs')) as number) / 1000;
}

/** A stroke to and fro over the middle of the flat pane. Samples are sent without waiting for the page; returns how long it took, in seconds. */
async function paint(
  cdp: CDPSession,
  box: { x: number; y: number; width: number; height: number },
  hertz: number,
): Promise<number> {
  const at = (t: number) => ({
    x: box.x + box.width * (0.5 - 0.35 * Math.cos(t * 2)),
    y: box.y + box.height / 2 + 8 * Math.sin(t * 9),
  });
  const send = (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', t: number, buttons: number) =>
    cdp.send('Input.dispatchMouseEvent', {
      type,
      ...at(t),
      button: 'left',
      buttons,
      pointerType: 'pen',
      force: 0.7,
      clickCount: 1,
    });
  await send('mousePressed', 0, 1);
  const start = performance.now();
  let last: Promise<unknown> = Promise.resolve();
  for (let n = 1; ; n++) {
    const due = start + (n * 1000) / hertz;
    if (due > start + LASTS_MS) break;
    const wait = due - performance.now();
    if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait));
    last = send('mouseMoved', (n / hertz) * 1.2, 1);
  }
  await last;
  const took = (performance.now() - start) / 1000;
  await send('mouseReleased', 0, 0);
  return took;
}

/** `address`: of a piece whose layers are painted in the middle of its flat sheet, where the strokes go. */
export const penShare = (address: string): Promise<Result[]> =>
  onCanvas(address, IN_PAGE, 30_000, async (page, box) => {
    const cdp = await page.context().newCDPSession(page);
    await cdp.send('Performance.enable');
    // The first stroke compiles what strokes need.
    await paint(cdp, box, 60);
    await page.waitForTimeout(2000);
    const before = await scriptSeconds(page, cdp);
    const took = await paint(cdp, box, 240);
    const script = (await scriptSeconds(page, cdp)) - before;
    await page.waitForTimeout(3000);
    const threads = workerSeconds();
    const painted = await paint(cdp, box, 60);
    const shown = (await page.evaluate("performance.getEntriesByName('brindle:pointer-to-pixel').length")) as number;
    if (shown < LEAST_SHOWN) throw new Error(`Only ${shown} batches of texels were shown: nothing was painted.`);
    const busy = [...workerSeconds()].map(([thread, seconds]) => seconds - (threads.get(thread) ?? seconds));
    return [
      asked('pen-page', (script / took) * 16, 'ms', WANTED.pageMs),
      asked('pen-engine', (Math.max(...busy) / painted) * 100, '%', WANTED.engine * 100),
    ];
  });
