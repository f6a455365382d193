/** Areas, stencils and palettes on the lantern at 2048²: from what is asked to painted tiles. */
import { createCanvas } from '@napi-rs/canvas';
import { coloursOf } from '../../src/core/colour/palette';
import { newPaintedLayer } from '../../src/core/document/factory';
import { brushSchema } from '../../src/core/hand/brush';
import type { Sample } from '../../src/core/hand/sample';
import { Stroke } from '../../src/core/hand/stroke';
import { SOURCES } from '../../src/core/kinds/sources';
import { seededRandom } from '../../src/core/testing/models';
import { pixelOf, sampleAt, viewAround } from '../../src/core/testing/views';
import { newTexels, TILE_TEXELS, TileStore } from '../../src/core/tile/tiles';
import { lantern, SIZE, wander } from './dabs';
import { result, type Result } from './result';
import { share } from './threads';
import { alternate, alternateResting } from './timing';

const WRITES = { 'base-colour': { on: true, value: [0.8, 0.4, 0.1], amount: 1 } };

function easel() {
  share();
  const { model, surfaces, sheet } = lantern();
  sheet.layers = [newPaintedLayer('l', 'Hand')];
  const surface = surfaces.forSheet(sheet)!;
  return { model, sheet, surface, view: viewAround(model, [0.5, 0.3, 1], 700, 700) };
}

/** One area after another over the same paint; the reference copies as many stored texels as the sheet has. */
async function area(
  name: string,
  of: object,
  samplesOf: (e: ReturnType<typeof easel>) => Sample[],
  painted = new TileStore(),
): Promise<Result[]> {
  const e = easel();
  const samples = samplesOf(e);
  const brush = brushSchema.parse({ writes: WRITES, vary: [], view: e.view, area: of });
  const run = () => {
    const { sheet, surface } = e;
    const stroke = new Stroke({ sheet, layerId: 'l', store: painted.clone(), surface, seed: 1 }, brush);
    stroke.add(samples);
    stroke.end();
    stroke.flush();
    stroke.changes();
  };
  const source = new Uint16Array(SIZE * SIZE * 4);
  const t = await alternateResting(run, () => void source.slice());
  return [result(name, t.subject * 1000, 'ms', 'one copy of a colour plane', t.reference * 1000)];
}

const middle = ({ view }: ReturnType<typeof easel>) => [sampleAt(view, 350, 350)];

/** Two colours that meet in wavy lines, over all of the sheet. */
function twoColours(): TileStore {
  const store = new TileStore();
  for (let ty = 0; ty < SIZE / 128; ty++)
    for (let tx = 0; tx < SIZE / 128; tx++) {
      const data = newTexels(TILE_TEXELS * 4);
      for (let i = 0; i < TILE_TEXELS; i++) {
        const [x, y] = [tx * 128 + (i & 127), ty * 128 + (i >> 7)];
        const one = Math.sin(x / 90 + Math.sin(y / 70) * 2) > -0.6;
        data.set(one ? [40000, 22000, 9000, 65535] : [9000, 22000, 40000, 65535], i * 4);
      }
      store.set('l/base-colour', ty * 256 + tx, { data, hash: null });
    }
  return store;
}

async function stencilDabs(): Promise<Result[]> {
  const { sheet, surface, view } = easel();
  const { texelsPerMetre } = surface.map;
  const hits = wander(surface.query, texelsPerMetre, 1200);
  // As the eye sees them: a stencil over the view lets paint through there.
  const samples = hits.map((hit) => sampleAt(view, ...pixelOf(view, hit.point)));
  const run = (over: object) => () => {
    const brush = brushSchema.parse({
      ...{ size: (64 / texelsPerMetre) * 1000, sizeUnit: 'model', smoothing: 0, spacing: 0.125, hardness: 0.3, vary: [], view },
      writes: WRITES,
      ...over,
    });
    const stroke = new Stroke({ sheet, layerId: 'l', store: new TileStore(), surface, seed: 1 }, brush);
    for (let n = 0; n < samples.length; n += 16) {
      stroke.add(samples.slice(n, n + 16));
      stroke.flush();
    }
    stroke.end();
    stroke.flush();
    stroke.changes();
    return stroke.dabCount;
  };
  const stencil = { of: SOURCES.checks.start, size: 0.3, tiled: true, use: 'luminance' };
  const [mine, plain] = [run({ stencil }), run({})];
  const count = plain();
  const t = await alternateResting(
    () => void mine(),
    () => void plain(),
  );
  return [result('stencil-dabs-64', count / t.subject, 'dabs/s', 'the same strokes without it', count / t.reference)];
}

function palette(): Result[] {
  const side = 2048;
  const random = seededRandom(2);
  const pixels = new Uint8ClampedArray(side * side * 4);
  for (let o = 0; o < pixels.length; o += 4) {
    const k = Math.floor(random() * 12);
    pixels.set([(k * 37 + random() * 40) % 256, (k * 91 + random() * 40) % 256, (k * 17 + random() * 40) % 256, 255], o);
  }
  // The same picture drawn once as small as it can be: what an average alone costs.
  const from = createCanvas(side, side);
  const image = from.getContext('2d').createImageData(side, side);
  image.data.set(pixels);
  from.getContext('2d').putImageData(image, 0, 0);
  const to = createCanvas(64, 64).getContext('2d');
  const t = alternate(
    () => void coloursOf(pixels, 8),
    () => {
      to.drawImage(from, 0, 0, 64, 64);
      to.getImageData(0, 0, 1, 1);
    },
  );
  return [result('palette-2k', t.subject, 's', '@napi-rs/canvas shrinks the picture', t.reference)];
}

export const AREA_MEASUREMENTS: Record<string, () => Result[] | Promise<Result[]>> = {
  'view-shape-2048': () =>
    area('view-shape-2048', { type: 'shape', figure: 'ellipse' }, ({ view }) => [
      sampleAt(view, 150, 100),
      sampleAt(view, 550, 600),
    ]),
  'fill-island-2048': () => area('fill-island-2048', { type: 'fill', of: 'island' }, middle),
  'fill-colour-2048': () => area('fill-colour-2048', { type: 'same', map: 'base-colour' }, middle, twoColours()),
  'frame-islands-2048': () => area('frame-islands-2048', { type: 'frame', width: 4 }, middle),
  'stencil-dabs-64': stencilDabs,
  'palette-2k': palette,
};
