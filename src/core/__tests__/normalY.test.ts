import { normalY, UNSURE } from '../bake/normalY';
import { seededRandom } from '../testing/models';
import type { Bitmap } from '../tile/bitmap';

/** Normals of a field of heights, Y up the picture; `down`: Y turned round. */
function normals(height: (x: number, y: number) => number, down: boolean, bits: 8 | 16 = 16): Bitmap {
  const side = 96;
  const full = bits === 16 ? 65535 : 255;
  const data = bits === 16 ? new Uint16Array(side * side * 3) : new Uint8Array(side * side * 3);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      // Rows run down, up is the other way.
      const n = [height(x - 0.5, y) - height(x + 0.5, y), height(x, y + 0.5) - height(x, y - 0.5), 1];
      const l = Math.hypot(...n);
      n.forEach((v, c) => (data[(y * side + x) * 3 + c] = Math.round((((c === 1 && down ? -v : v) / l) * 0.5 + 0.5) * full)));
    }
  return { width: side, height: side, channels: 3, bits, data };
}

const waves = (x: number, y: number) => 3 * Math.sin(x / 7) * Math.cos(y / 5) + 2 * Math.sin((x + y) / 9);

test.each([8, 16] as const)('which way Y runs is told from the slopes (%i bits)', (bits) => {
  for (const down of [false, true]) {
    const told = normalY(normals(waves, down, bits))!;
    expect(told.y).toBe(down ? 'down' : 'up');
    expect(told.sure).toBeGreaterThan(0.9);
  }
});

test('what is flat, or noise, or grey, is not told', () => {
  expect(normalY(normals(() => 0, false))!.sure).toBeLessThan(UNSURE);
  const random = seededRandom(3);
  const noise = normals(waves, false);
  for (let i = 0; i < noise.data.length; i++) noise.data[i] = i % 3 === 2 ? 60000 : 20000 + random() * 25000;
  expect(normalY(noise)!.sure).toBeLessThan(UNSURE);
  expect(normalY({ width: 4, height: 4, channels: 1, bits: 8, data: new Uint8Array(16) })).toBeNull();
});
