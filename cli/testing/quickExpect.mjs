/**
 * Expectations of numbers and flags cost next to nothing while they hold. Jest builds some sixty functions for each
 * `expect`, about 50 µs: tests that look at every texel took minutes for that alone. What does not hold, and every other
 * value or matcher, goes to Jest's own `expect`, with its messages.
 */
const real = globalThis.expect;

class Quick {
  constructor(value) {
    this.value = value;
  }
  toBe(expected) {
    if (!Object.is(this.value, expected)) real(this.value).toBe(expected);
  }
  toBeLessThan(most) {
    if (!(typeof most === 'number' && this.value < most)) real(this.value).toBeLessThan(most);
  }
  toBeLessThanOrEqual(most) {
    if (!(typeof most === 'number' && this.value <= most)) real(this.value).toBeLessThanOrEqual(most);
  }
  toBeGreaterThan(least) {
    if (!(typeof least === 'number' && this.value > least)) real(this.value).toBeGreaterThan(least);
  }
  toBeGreaterThanOrEqual(least) {
    if (!(typeof least === 'number' && this.value >= least)) real(this.value).toBeGreaterThanOrEqual(least);
  }
  toBeCloseTo(expected, digits = 2) {
    // As Jest has it: within half of the last digit.
    if (!(Math.abs(expected - this.value) < 10 ** -digits / 2)) real(this.value).toBeCloseTo(expected, digits);
  }
}

// All other matchers, and their opposites, are Jest's.
for (const name of Object.keys(real(0)))
  if (!(name in Quick.prototype))
    Object.defineProperty(Quick.prototype, name, {
      get() {
        return real(this.value)[name];
      },
    });

const isPlain = (value) => typeof value === 'number' || typeof value === 'boolean';

globalThis.expect = Object.assign(
  (...given) => (given.length === 1 && isPlain(given[0]) ? new Quick(given[0]) : real(...given)),
  real,
);
