import { readFileSync } from 'node:fs';
import { deflateSync, inflateSync } from 'node:zlib';
import { expect, test, type Page } from '@playwright/test';
import { DataUtils } from 'three';
import { ModuleKind, ScriptTarget, transpileModule } from 'typescript';
import { surroundingsOf } from '../demo/light/surroundings';
import { shadingOf, SHADING_TERMS } from '../src/core/light/shading';

const HERE = 'http://light.local';
const SIZE = 96;
const FACES = 256;
const SHADING_BYTES = SHADING_TERMS.length * 3 * 4;

/** Green of white balls, pixel by pixel, as the viewport's light shades them. `materials`: properties of three's. */
async function balls(page: Page, file: Buffer, materials: readonly Record<string, number>[]): Promise<number[][]> {
  const sourceOf = (path: string) =>
    transpileModule(readFileSync(path, 'utf8'), {
      compilerOptions: { module: ModuleKind.ESNext, target: ScriptTarget.ES2022 },
    }).outputText.replace('../core/light/shading', './shading.js');
  const bodies: Record<string, () => string | Buffer> = {
    '/': () => '<!doctype html>',
    '/light.js': () => sourceOf('src/viewport/light.ts'),
    '/shading.js': () => sourceOf('src/core/light/shading.ts'),
    '/light.bin': () => file,
  };
  await page.route(`${HERE}/**`, (route) => {
    const path = new URL(route.request().url()).pathname;
    const body = (bodies[path] ?? (() => readFileSync(`node_modules/three/build${path}`)))();
    const contentType = path === '/' ? 'text/html' : path.endsWith('.bin') ? 'application/octet-stream' : 'text/javascript';
    const text = path === '/light.js' ? String(body).replace("from 'three'", "from './three.module.js'") : body;
    return route.fulfill({ contentType, body: text });
  });
  await page.goto(HERE);
  return page.evaluate(
    async ([at, size, balls]) => {
      const three = (await import(`${at}/three.module.js`)) as typeof import('three');
      const { loadLight, lightShader } = (await import(`${at}/light.js`)) as typeof import('../src/viewport/light');
      const light = await new Promise<ReturnType<typeof loadLight>>((resolve) => {
        const loading: ReturnType<typeof loadLight> = loadLight(() => resolve(loading));
      });
      const renderer = new three.WebGLRenderer();
      const scene = new three.Scene();
      scene.environment = light.texture;
      const mesh = new three.Mesh(new three.SphereGeometry(1, 256, 128));
      scene.add(mesh);
      const camera = new three.OrthographicCamera(-1, 1, 1, -1, 0.1, 10);
      camera.position.set(3, 0, 0);
      camera.lookAt(0, 0, 0);
      const target = new three.WebGLRenderTarget(size, size, { type: three.FloatType });
      renderer.setRenderTarget(target);
      return balls.map((properties) => {
        const material = Object.assign(new three.MeshPhysicalMaterial(), properties);
        material.onBeforeCompile = (shader) => lightShader(shader, light);
        mesh.material = material;
        renderer.render(scene, camera);
        const pixels = new Float32Array(size * size * 4);
        renderer.readRenderTargetPixels(target, 0, 0, size, size, pixels);
        return Array.from({ length: size * size }, (_, i) => pixels[i * 4 + 1]);
      });
    },
    [HERE, SIZE, materials] as const,
  );
}

/** The direction that the ball has at a pixel, seen from +X; null: none, or so slanted that a pixel spans many. */
function normalAt(i: number): [number, number, number] | null {
  const right = (((i % SIZE) + 0.5) / SIZE) * 2 - 1;
  const up = ((Math.floor(i / SIZE) + 0.5) / SIZE) * 2 - 1;
  const across = right * right + up * up;
  return across < 0.9 ? [Math.sqrt(1 - across), up, -right] : null;
}

/** As the light's file has them: the green of its sharpest faces, pixel by pixel. */
function quay(file: Buffer): { direction: readonly number[]; weight: number }[] {
  const bytes = inflateSync(file).subarray(SHADING_BYTES);
  const n = FACES * FACES;
  const faces = Array.from({ length: 6 }, (_, face) =>
    Float32Array.from({ length: n * 4 }, (_, i) =>
      i % 4 === 3 ? 1 : DataUtils.fromHalfFloat(bytes.readUInt16LE((face * 3 * n + (i % 4) * n + (i >> 2)) * 2)),
    ),
  );
  return [...surroundingsOf(faces, FACES)].map(({ direction, solidAngle, radiance }) => ({
    direction,
    weight: (solidAngle * radiance[1]) / Math.PI,
  }));
}

const MATTE = { roughness: 1, metalness: 0, specularIntensity: 0 };
const PLAIN = { roughness: 1, metalness: 0 };
const METAL = { roughness: 1, metalness: 1 };

test('a matte ball is shaded as the surroundings add up, without the edges of their picture', async ({ page }) => {
  const file = readFileSync('public/light.bin');
  const pieces = quay(file);
  const exact = new Map<number, number>();
  // Every sixteenth row; in it every pixel, so that neighbours can be compared.
  for (let i = 0; i < SIZE * SIZE; i++) {
    const normal = Math.floor(i / SIZE) % 16 === 8 ? normalAt(i) : null;
    if (!normal) continue;
    let sum = 0;
    for (const { direction: d, weight } of pieces)
      sum += Math.max(0, d[0] * normal[0] + d[1] * normal[1] + d[2] * normal[2]) * weight;
    exact.set(i, sum);
  }
  expect(exact.size).toBeGreaterThan(250);
  const shown = await balls(page, file, [MATTE, METAL, PLAIN]);
  const shares = shown.map((pixels) => (i: number) => pixels[i] / exact.get(i)!);
  const worst = (errorAt: (i: number) => number) => Math.max(...[...exact.keys()].map((i) => Math.abs(errorAt(i))));
  // A plain surface also reflects a little, so that only its evenness is compared.
  const mean = pieces.reduce((sum, { weight }) => sum + weight, 0) / 4;
  for (const pixels of shown.slice(0, 2)) expect(worst((i) => (pixels[i] - exact.get(i)!) / mean)).toBeLessThan(0.01);
  for (const share of shares)
    expect(worst((i) => (exact.has(i - 1) && exact.has(i + 1) ? share(i - 1) - 2 * share(i) + share(i + 1) : 0))).toBeLessThan(
      0.005,
    );
});

test('in white surroundings a white ball is white, of whatever material', async ({ page }) => {
  const plain = inflateSync(readFileSync('public/light.bin'));
  for (let o = SHADING_BYTES; o < plain.length; o += 2) plain.writeUInt16LE(0x3c00, o);
  const white = Array.from({ length: 6 }, () => new Float32Array(32 * 32 * 4).fill(1));
  Buffer.from(Float32Array.from(shadingOf(surroundingsOf(white, 32))).buffer).copy(plain);
  const materials = [MATTE, PLAIN, METAL, { roughness: 0.6, metalness: 1 }, { roughness: 0.2, metalness: 1 }];
  for (const shown of await balls(page, deflateSync(plain), materials))
    expect(Math.max(...shown.map((value, i) => (normalAt(i) ? Math.abs(value - 1) : 0)))).toBeLessThan(0.01);
});
