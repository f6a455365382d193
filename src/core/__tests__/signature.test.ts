import { mixSignature, numberSignature, textSignature } from '../strata/signature';
import { TileStore } from '../tile/tiles';
import { Evaluator } from '../strata/evaluator';
import { programOf } from '../strata/program';
import { newPaintedLayer, newSheet } from '../document/factory';

const bits = (s: string) => [...Array.from({ length: 8 }, (_, i) => s.charCodeAt(i).toString(2).padStart(16, '0'))].join('');

test('they have 128 bits, and a change of one bit of either part changes half of them', () => {
  let flips = 0;
  let tries = 0;
  for (let n = 0; n < 400; n++) {
    const [a, b] = [textSignature(`a${n}`), textSignature(`b${n}`)];
    const before = bits(mixSignature(a, b));
    expect(before).toHaveLength(128);
    const unit = n % 8;
    const other = a.slice(0, unit) + String.fromCharCode(a.charCodeAt(unit) ^ (1 << (n % 16))) + a.slice(unit + 1);
    const after = bits(mixSignature(other, b));
    for (let i = 0; i < 128; i++) if (before[i] !== after[i]) flips++;
    tries += 128;
  }
  // 400 × 128 fair coins: five standard deviations are 0.011.
  expect(Math.abs(flips / tries - 0.5)).toBeLessThan(0.011);
});

test('order and every part count, and none meet among a quarter of a million', () => {
  const [a, b] = [textSignature('a'), textSignature('b')];
  expect(mixSignature(a, b)).not.toBe(mixSignature(b, a));
  expect(mixSignature(a, 1)).not.toBe(mixSignature(a, 2 ** 32 + 1));
  expect(mixSignature(a, 1)).not.toBe(mixSignature(a, numberSignature(2)));
  expect(textSignature('')).not.toBe(textSignature('\0'));
  const seen = new Set<string>();
  for (let n = 0; n < 250_000; n++) seen.add(mixSignature(a, n));
  expect(seen.size).toBe(250_000);
  // Each lane alone is spread over its range: no half of the hash is idle.
  for (let lane = 0; lane < 8; lane++)
    expect(new Set([...seen].slice(0, 60_000).map((s) => s.charCodeAt(lane))).size).toBeGreaterThan(35_000);
});

test('the number of channels is part of a scope’s signature', () => {
  const sheet = newSheet('s', 'S', 128, 128);
  sheet.layers = [newPaintedLayer('l', 'L')];
  const evaluator = new Evaluator({ sheet, store: new TileStore() });
  const of = (map: 'base-colour' | 'height' | 'roughness') => evaluator.signature(programOf(sheet, map), 0, 0);
  expect(new Set([of('base-colour'), of('height'), of('roughness')]).size).toBe(3);
});
