/** The light around the model, as it lies in public/: it is whole, and it lights as a sky with windows does. */
import { readFileSync } from 'node:fs';
import { inflateSync } from 'node:zlib';
import { DataUtils, type CompressedCubeTexture } from 'three';
import { shadeAt, type Surrounding } from '../../src/core/light/shading';
import { surroundingsOf } from './surroundings';
import { LIGHT_LEVELS, LIGHT_SIZE, loadLight, unpackLight, type Light } from '../../src/viewport/light';

const file = readFileSync('public/light.bin');
const facesOf = ({ texture }: Light) => (texture as CompressedCubeTexture).image as unknown as Parameters<typeof unpackLight>[1];
const loaded = async (): Promise<Light> => {
  globalThis.fetch = async () => new Response(file);
  return new Promise((resolve) => {
    const light: Light = loadLight(() => resolve(light));
  });
};
/** Mean green of a face. */
const brightness = (faces: ReturnType<typeof facesOf>, face: number, level: number) => {
  const { data } = faces[face].mipmaps[level];
  let sum = 0;
  for (let i = 0; i < data.length; i += 4) sum += DataUtils.fromHalfFloat(data[i + 1]);
  return sum / (data.length / 4);
};
const realFetch = globalThis.fetch;

afterEach(() => {
  globalThis.fetch = realFetch;
  jest.useRealTimers();
});

test('it is six faces of six levels, brighter above than below, and softer from level to level', async () => {
  const faces = facesOf(await loaded());
  expect(faces).toHaveLength(6);
  expect(faces[0].mipmaps.map((l) => l.width)).toEqual(Array.from({ length: LIGHT_LEVELS }, (_, n) => LIGHT_SIZE >> n));
  expect(faces.every((f) => f.mipmaps.every((l) => l.data[3] === 0x3c00))).toBe(true);
  const [up, down] = [brightness(faces, 2, 0), brightness(faces, 3, 0)];
  expect(up).toBeGreaterThan(3 * down);
  expect(down).toBeGreaterThan(0.1);
  const brightest = faces[0].mipmaps.map((_, n) =>
    faces.flatMap((f) => [...f.mipmaps[n].data]).reduce((most, half) => Math.max(most, DataUtils.fromHalfFloat(half)), 0),
  );
  expect(brightest).toEqual(brightest.toSorted((a, b) => b - a));
});

test('its shading of matte surfaces is the integral over its sharpest faces', async () => {
  const light = await loaded();
  const faces = facesOf(light).map(({ mipmaps }) => Float32Array.from(mipmaps[0].data, DataUtils.fromHalfFloat));
  const pieces = [...surroundingsOf(faces, LIGHT_SIZE)];
  const shading = [0, 1, 2].flatMap((c) => light.shading.value.map((term) => term.getComponent(c)));
  const whole = pieces.reduce((all, { solidAngle, radiance }) => all + solidAngle * radiance[1], 0) / (4 * Math.PI);
  for (let k = 0; k < 40; k++) {
    // Points of a spiral, evenly spread over the sphere.
    const y = 1 - (2 * (k + 0.5)) / 40;
    const turn = k * Math.PI * (3 - Math.sqrt(5));
    const normal = [Math.cos(turn) * Math.sqrt(1 - y * y), y, Math.sin(turn) * Math.sqrt(1 - y * y)] as const;
    let sum = 0;
    for (const { direction: d, solidAngle, radiance } of pieces)
      sum += Math.max(0, d[0] * normal[0] + d[1] * normal[1] + d[2] * normal[2]) * solidAngle * radiance[1];
    expect(Math.abs(shadeAt(shading, 1, normal) - sum / Math.PI) / whole).toBeLessThan(0.01);
  }
});

test('its faces join: what lies beside an edge goes on beyond it, in every level', async () => {
  const light = await loaded();
  facesOf(light)[0].mipmaps.forEach(({ width }, level, { length }) => {
    // The sharpest levels hold the panels' edges, and have too many texels for this.
    if (level < length - 4) return;
    const faces = facesOf(light).map(({ mipmaps }) => Float32Array.from(mipmaps[level].data, DataUtils.fromHalfFloat));
    const pieces = [...surroundingsOf(faces, width)].map((piece, n) => ({ ...piece, face: Math.floor(n / (width * width)) }));
    const border = pieces.filter(
      (_, n) => [0, width - 1].includes(n % width) || [0, width - 1].includes(Math.floor(n / width) % width),
    );
    const cosine = (a: Surrounding, b: Surrounding) => a.direction.reduce((sum, v, k) => sum + v * b.direction[k], 0);
    for (const here of border) {
      const beyond = border
        .filter(({ face }) => face !== here.face)
        .reduce((a, b) => (cosine(here, a) > cosine(here, b) ? a : b));
      const [a, b] = [here.radiance[1], beyond.radiance[1]];
      expect(Math.abs(a - b) / Math.max(a, b)).toBeLessThan(0.5);
    }
  });
});

test('one that is cut short is refused, whatever it looked like before', () => {
  const light = loadLight(() => {});
  light.texture.dispose();
  const faces = facesOf(light);
  expect(() => unpackLight(new Uint8Array(inflateSync(file)).buffer.slice(0, 1000), faces, light.shading.value)).toThrow(
    '1000 bytes',
  );
  expect(light.shading.value.every((term) => term.length() === 0)).toBe(true);
  expect(faces[0].mipmaps[0].data.every((v) => v === 0)).toBe(true);
});

test('it is asked for again when the connection was lost, until nobody wants it', async () => {
  jest.useFakeTimers({ doNotFake: ['nextTick', 'queueMicrotask'] });
  let asked = 0;
  globalThis.fetch = async () => {
    asked++;
    throw new TypeError('lost');
  };
  const light = loadLight(() => {});
  await jest.advanceTimersByTimeAsync(4500);
  expect(asked).toBe(3);
  light.texture.dispose();
  await jest.advanceTimersByTimeAsync(10_000);
  expect(asked).toBe(3);
});
