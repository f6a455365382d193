/** The light around the model, as it lies in public/: it is whole, and it lights as a sky with windows does. */
import { readFileSync } from 'node:fs';
import { inflateSync } from 'node:zlib';
import { DataUtils, type CompressedCubeTexture } from 'three';
import { LIGHT_LEVELS, LIGHT_SIZE, loadLight, unpackLight } from '../light';

const file = readFileSync('public/light.bin');
const halves = () => {
  const bytes = inflateSync(file);
  return new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength / 2);
};
const facesOf = (texture: unknown) => (texture as CompressedCubeTexture).image as unknown as Parameters<typeof unpackLight>[1];
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

test('it comes as six faces of five levels, brighter above than below, and softer from level to level', async () => {
  globalThis.fetch = async () => new Response(file);
  const texture = await new Promise<unknown>((resolve) => {
    const light: unknown = loadLight(() => resolve(light));
  });
  const faces = facesOf(texture);
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

test('one that is cut short is refused, whatever it looked like before', () => {
  const faces = facesOf(loadLight(() => {}));
  expect(() => unpackLight(halves().subarray(0, 1000), faces)).toThrow('1000 numbers');
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
  light.dispose();
  await jest.advanceTimersByTimeAsync(10_000);
  expect(asked).toBe(3);
});
