/** Reader processes: whatever a task does, the server has an answer, and no process is left behind. */
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import sharp from 'sharp';
import { writeZip } from '../../core/codec/zip';
import { isSentence } from '../../core/testing/fuzz';
import { importPieceFile, makePinApart, readBrushesApart, readers, readPictureApart, refusalOf, unwrapFile } from '../readers';
import { ReaderPool } from '../readers/pool';
import type { TaskKind } from '../readers/protocol';

jest.setTimeout(60_000);
const TOY = ['--import', 'tsx', 'src/server/testingReader.ts'];
const pool = new ReaderPool(256, TOY);
afterAll(() => {
  pool.dispose();
  readers().dispose();
});

const limits = { cpuMs: 400, memoryBytes: 400 * 2 ** 20 };
const run = (kind: string, input: object = {}, over: object = {}) =>
  pool.run({ kind: kind as TaskKind, input, limits: { ...limits, ...over } });

test('a task gets its input and its answer comes back; many at once have a process each', async () => {
  expect(await run('echo', { a: [1, 2] })).toEqual({ type: 'done', value: { a: [1, 2] } });
  expect(await Promise.all([run('echo', { n: 1 }), run('echo', { n: 2 }), run('echo', { n: 3 })])).toEqual(
    [1, 2, 3].map((n) => ({ type: 'done', value: { n } })),
  );
});

test('what never ends is ended, and told apart from what takes too much memory, from what stops, and from our own faults', async () => {
  expect(await run('spin')).toEqual({ type: 'over time' });
  expect(await run('buffers', {}, { cpuMs: 60_000 })).toEqual({ type: 'over memory' });
  expect(await run('heap', {}, { cpuMs: 60_000, memoryBytes: 2 ** 32 })).toEqual({ type: 'over memory' });
  const logged = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  expect(await run('exit')).toEqual({ type: 'died' });
  expect(await run('throw')).toEqual({ type: 'failed' });
  expect(logged.mock.calls.map(([text]) => String(text))).toEqual([
    expect.stringMatching(/reader failed/),
    expect.stringMatching(/a fault of ours/),
  ]);
  logged.mockRestore();
  expect(await run('echo', { still: 'here' })).toEqual({ type: 'done', value: { still: 'here' } });
});

test('time counts only while the processor works for the task, and a task may ask for more', async () => {
  expect(await run('sleep', { ms: 2000 })).toEqual({ type: 'done', value: null });
  expect(await run('work', { ms: 1500 })).toEqual({ type: 'done', value: 'worked' });
});

test('a reader ends when the server that started it is killed, even in a loop that never ends', async () => {
  const script = `
    import { ReaderPool } from '${join(process.cwd(), 'src/server/readers/pool.ts')}';
    void new ReaderPool(128, ${JSON.stringify(TOY)}).run({ kind: 'spin', input: {}, limits: { cpuMs: 600000, memoryBytes: 2 ** 32 } });`;
  const file = join(mkdtempSync(join(tmpdir(), 'brindle-readers-')), 'server.mts');
  writeFileSync(file, script);
  const server = spawn(process.execPath, ['--import', 'tsx', file], {
    stdio: 'inherit',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  const children = () =>
    spawnSync('pgrep', ['-P', `${server.pid}`], { encoding: 'utf8' })
      .stdout.trim()
      .split('\n');
  let reader: string | undefined;
  while (!reader) {
    await wait(50);
    reader = children().find(spins);
  }
  server.kill('SIGKILL');
  while (isAlive(reader)) await wait(50);
});

/** Whether a process has used a second of the processor. */
function spins(pid: string): boolean {
  try {
    return Number(readFileSync(`/proc/${pid}/stat`, 'latin1').split(') ')[1].split(' ')[11]) > 100;
  } catch {
    return false;
  }
}
const isAlive = (pid: string) => spawnSync('kill', ['-0', pid]).status === 0;

test('every way to end is told in one sentence', () => {
  for (const type of ['over time', 'over memory', 'died', 'failed'] as const) {
    const sentence = refusalOf({ type }, '"It"');
    expect(isSentence(sentence)).toBe(true);
    expect(sentence).not.toMatch(/damaged/);
  }
});

describe('the real readers', () => {
  const folder = mkdtempSync(join(tmpdir(), 'brindle-readers-'));
  const file = (name: string, bytes: Uint8Array) => {
    writeFileSync(join(folder, name), bytes);
    return join(folder, name);
  };

  test('a picture, a pin', async () => {
    const png = await sharp(Buffer.from([10, 20, 30, 40]), { raw: { width: 2, height: 2, channels: 1 } })
      .toColourspace('b-w')
      .png()
      .toBuffer();
    const read = await readPictureApart(file('a', png), 'a.png', 'data');
    expect(read).toMatchObject({ ok: true, picture: { width: 2, height: 2, channels: 1, note: null } });
    expect(read.ok && [...read.picture.data]).toEqual([10, 20, 30, 40].map((v) => v * 257));
    const made = await makePinApart(file('b', png), 'b.png');
    expect(made).toMatchObject({ ok: true, width: 2, height: 2 });
    expect(made.ok && (await sharp(made.webp).metadata()).format).toBe('webp');
  });

  test('what is none is refused by each in one sentence', async () => {
    const none = file('none', new TextEncoder().encode('nothing of the kind'));
    const said = await Promise.all([
      readPictureApart(none, 'none', 'colour'),
      makePinApart(none, 'none'),
      importPieceFile(none),
      unwrapFile(none, 64),
      readBrushesApart(file('none.zip', writeZip([['a.txt', new Uint8Array(3)]])), '"none.zip"'),
    ]);
    expect(said.map((one) => !one.ok && isSentence(one.message))).toEqual(said.map(() => true));
  });
});
