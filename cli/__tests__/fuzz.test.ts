/** Every reader with some spoilt files; and that a fault is found, of whatever kind. FUZZ=10000 tries so many of each. */
import { spoilt } from '../../src/core/testing/fuzz';
import { readers } from '../../src/server/readers';
import { fuzzAll } from '../fuzzing/run';
import { readBatch } from '../fuzzing/reader';
import { fields, inputOf, tags } from '../fuzzing/target';
import { TARGETS } from '../fuzzing/targets';

jest.setTimeout(3_600_000);
afterAll(() => readers().dispose());
const TIMES = Number(process.env.FUZZ ?? 60);

test.each(TARGETS.map((target) => [target.name]))('%s', async (name) => {
  const { refused, faults } = await readBatch(TARGETS, { target: name, seed: 1, from: 0, count: TIMES });
  expect(faults).toEqual([]);
  expect(refused).toBeGreaterThan(0);
});

test('the files that are spoilt are sound themselves', async () => {
  for (const target of TARGETS)
    for (const file of await target.files()) expect([target.name, await target.read(file)]).toEqual([target.name, null]);
});

test('an input is decided by the seed and its number alone', async () => {
  for (const target of TARGETS.slice(0, 3)) {
    expect(Buffer.compare(await inputOf(target, 4, 9), await inputOf(target, 4, 9))).toBe(0);
    const others = await Promise.all([5, 6, 7, 8].map((seed) => inputOf(target, seed, 9)));
    expect(new Set(others.map((bytes) => Buffer.from(bytes).toString('latin1'))).size).toBeGreaterThan(1);
  }
});

test('a way to spoil changes a file, and leaves the original as it was', () => {
  // A Buffer, whose `slice` would share its memory.
  const file = Buffer.from('<a><b>1</b><c/></a> and some more of it');
  const before = Uint8Array.from(file);
  for (const way of [spoilt, fields, tags]) {
    const out = Array.from({ length: 8 }, (_, n) => way(file, () => (n + 0.5) / 9));
    expect(out.some((bytes) => Buffer.compare(bytes, before) !== 0)).toBe(true);
    expect(Uint8Array.from(file)).toEqual(before);
  }
});

test('each kind of fault is found and told: an error, no sentence, too long, too much memory', async () => {
  const names = ['sound', 'throws', 'mumbles', 'spins', 'hoards'];
  const logged = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  let rounds = names.length * 3;
  const tallies = await fuzzAll({
    names,
    seed: 3,
    goOn: () => rounds-- > 0,
    atOnce: 2,
    limits: { cpuMs: 700, memoryBytes: 300 * 2 ** 20 },
    entry: ['--import', 'tsx', 'cli/testing/faultyReader.ts'],
  });
  logged.mockRestore();
  const kinds = Object.fromEntries(
    tallies.map(({ target, faults }) => [target, new Set(faults.map(({ what }) => what.replace(/ at .*/, '')))]),
  );
  expect([...kinds.sound]).toEqual([]);
  expect([...kinds.throws][0]).toMatch(/TypeError: Cannot read properties/);
  expect([...kinds.mumbles]).toEqual(['no sentence: undefined is not a function']);
  expect([...kinds.spins]).toEqual([expect.stringMatching(/of the processor/)]);
  expect([...kinds.hoards]).toEqual([expect.stringMatching(/MiB/)]);
  expect(tallies.every(({ tried }) => tried === 300)).toBe(true);
});
