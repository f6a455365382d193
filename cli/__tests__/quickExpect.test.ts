/** Expectations that cost little fail as Jest's own do (cli/testing/quickExpect.mjs). */
const failing: [string, () => void, RegExp][] = [
  ['toBe', () => expect(1).toBe(2), /Expected: .*2/],
  ['toBe of another type', () => expect(1).toBe('1' as never), /toBe/],
  ['toBe of NaN', () => expect(0).toBe(NaN), /NaN/],
  ['minus zero', () => expect(-0).toBe(0), /-0/],
  ['toBeLessThan', () => expect(3).toBeLessThan(3), /< .*3/],
  ['toBeLessThan NaN', () => expect(NaN).toBeLessThan(3), /NaN/],
  ['toBeLessThanOrEqual', () => expect(4).toBeLessThanOrEqual(3), /<= .*3/],
  ['toBeGreaterThan', () => expect(3).toBeGreaterThan(3), /> .*3/],
  ['toBeGreaterThanOrEqual', () => expect(2).toBeGreaterThanOrEqual(3), />= .*3/],
  ['toBeGreaterThan a text', () => expect(2).toBeGreaterThan('1' as never), /number or bigint/],
  ['toBeCloseTo', () => expect(1.006).toBeCloseTo(1), /difference/],
  ['toBeCloseTo with digits', () => expect(1.001).toBeCloseTo(1, 3), /difference/],
  ['toBeCloseTo NaN', () => expect(NaN).toBeCloseTo(1, 3), /NaN/],
  ['not', () => expect(1).not.toBe(1), /not/],
  ['toEqual', () => expect(1).toEqual(2), /2/],
  ['a flag', () => expect(false).toBe(true), /true/],
];

test.each(failing)('%s fails, and says so as Jest does', (_, fail, says) => {
  expect(fail).toThrow(says);
});

test('what holds passes', () => {
  expect(NaN).toBe(NaN);
  expect(1.004).toBeCloseTo(1);
  expect(Infinity).toBeCloseTo(Infinity);
  expect(2).toBeGreaterThanOrEqual(2);
  expect(2).not.toBe(3);
  expect(2).toBeTruthy();
  expect({ a: 1 }).toEqual({ a: expect.any(Number) });
});
