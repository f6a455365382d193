/** Makes public/light.bin, the light around models (src/viewport/light.ts): node --import tsx demo/light/make.ts */
import { readFileSync, writeFileSync } from 'node:fs';
import { deflateSync } from 'node:zlib';
import { chromium } from '@playwright/test';
import { DataUtils } from 'three';
import { transpileModule, ModuleKind, ScriptTarget } from 'typescript';
import { CHROMIUM } from '../../e2e/chromium';
import { shadingOf } from '../../src/core/light/shading';
import { LIGHT_LEVELS, LIGHT_SIZE } from '../../src/viewport/light';
import { surroundingsOf } from './surroundings';

/** Radians: what panels' edges need at this size. */
const SOFTENED = 0.03;
const HERE = 'http://light.local';

const browser = await chromium.launch(CHROMIUM);
const page = await browser.newPage();
const { outputText } = transpileModule(readFileSync('demo/light/scene.ts', 'utf8'), {
  compilerOptions: { module: ModuleKind.ESNext, target: ScriptTarget.ES2022 },
});
await page.route(`${HERE}/**`, (route) => {
  const path = new URL(route.request().url()).pathname;
  if (path === '/') return route.fulfill({ contentType: 'text/html', body: '<!doctype html>' });
  const body = path === '/scene.js' ? outputText : readFileSync(`node_modules/three/build${path}`, 'utf8');
  return route.fulfill({ contentType: 'text/javascript', body: body.replace("from 'three'", "from './three.module.js'") });
});
await page.goto(HERE);
const faces = await page.evaluate(
  async ([at, size, levels, softened]) => {
    const { prepared } = (await import(/* webpackIgnore: true */ `${at}/scene.js`)) as typeof import('./scene');
    return prepared(size, levels, softened).map((f) => [...f]);
  },
  [HERE, LIGHT_SIZE, LIGHT_LEVELS, SOFTENED] as const,
);
await browser.close();

const surroundings = surroundingsOf(faces.slice(0, 6), LIGHT_SIZE);
const shading = Float32Array.from(shadingOf(surroundings));
const halves = faces.flatMap((pixels) =>
  [0, 1, 2].flatMap((c) => Array.from({ length: pixels.length / 4 }, (_, i) => DataUtils.toHalfFloat(pixels[i * 4 + c]))),
);
const file = deflateSync(Buffer.concat([Buffer.from(shading.buffer), Buffer.from(Uint16Array.from(halves).buffer)]), {
  level: 9,
});
writeFileSync('public/light.bin', file);
process.stdout.write(`public/light.bin: ${halves.length} numbers, ${file.length} bytes\n`);
