/** Whatever is run apart ends: by itself, by the time that it takes, or by what it holds. */
import { runApart } from '../apart';

const limits = { timeMs: 20_000, memoryBytes: 512 * 1024 * 1024, heapMegabytes: 128 };

test('what ends well is heard; what fails is told apart from it', async () => {
  expect(await runApart(['-e', 'console.log("fine")'], limits)).toEqual({ ok: true, out: 'fine\n' });
  expect(await runApart(['-e', 'console.log("half"); process.exit(3)'], limits)).toEqual({ ok: false, out: 'half\n' });
});

test('what goes on for ever is ended', async () => {
  expect(await runApart(['-e', 'for (;;) {}'], { ...limits, timeMs: 300 })).toEqual({ ok: false, out: '' });
});

test('buffers count, though no limit of the heap sees them', async () => {
  const greedy = 'const all = []; setInterval(() => all.push(Buffer.alloc(64 << 20, 1)), 50)';
  expect(await runApart(['-e', greedy], limits)).toEqual({ ok: false, out: '' });
});
