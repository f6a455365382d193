/** The compiled kernels that are kept in git are those of their sources. */
import { readFileSync } from 'node:fs';
import { RAYS_BASE64, TAPS_BASE64 } from '../../src/kernels/build/wasm';
import { compile, isCurrent, TARGET } from '../kernels';

const kept = readFileSync(TARGET, 'utf8');

test('the file names the sources as they are, and nothing in it was changed by hand', () => {
  expect(isCurrent(kept)).toBe(true);
  expect(isCurrent(kept.replace(/'(.{99})./, "'$1_"))).toBe(false);
  expect(isCurrent(kept.replace(/assembly: ./, 'assembly: _'))).toBe(false);
});

test('compiled anew they have the same bytes', async () => {
  expect(await compile('TAPS_BASE64')).toBe(TAPS_BASE64);
  expect(await compile('RAYS_BASE64')).toBe(RAYS_BASE64);
});
