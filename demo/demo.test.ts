/** The demo pieces are what the README says: sound UVs, several parts, handfuls of layers, the same every time. */
import { buildIslands, buildTopology } from '../src/core/mesh/topology';
import { hexToSrgb } from '../src/core/colour/transfer';
import { reportUvs } from '../src/core/mesh/uvReport';
import { pieceSchema } from '../src/core/document/schema';
import { validateTiles } from '../src/core/document/planes';
import { lanternModel } from './lanternModel';
import { buoyBundle } from './buoy';
import { BUOY_TEXELS, buoyModel } from './buoyModel';
import { noise3 } from './noise';

test('the lantern is a prop of 3 to 8 thousand triangles in several parts, with sound UVs', () => {
  const model = lanternModel();
  expect(model.indices.length / 3).toBeGreaterThan(3000);
  expect(model.indices.length / 3).toBeLessThan(8000);
  expect(model.parts.length).toBeGreaterThanOrEqual(5);
  const topology = buildTopology(model);
  expect(reportUvs(model, topology, buildIslands(model, topology, model.uvs[0]), 0).problems).toEqual([]);
});

test('the buoy has sound UVs on whole texels, and nothing but the sixteen colours of its palette', async () => {
  const model = buoyModel();
  expect(model.indices.length / 3).toBeLessThan(400);
  const topology = buildTopology(model);
  expect(reportUvs(model, topology, buildIslands(model, topology, model.uvs[0]), 0).problems).toEqual([]);
  const { piece, store } = await buoyBundle();
  expect(pieceSchema.safeParse(piece).error?.issues ?? []).toEqual([]);
  expect(validateTiles(store)).toBeNull();
  const allowed = new Set(
    piece.palette.map((hex) =>
      hexToSrgb(hex)
        .map((v) => Math.round(v * 65535))
        .join(),
    ),
  );
  const [sheet] = piece.sheets;
  const seen = new Set<string>();
  for (const { id } of sheet.layers) {
    const data = store.data(`${id}/base-colour`, 0);
    for (let o = 0; data && o < data.length; o += 4)
      if (data[o + 3]) seen.add(`${data.subarray(o, o + 3).join()} ${data[o + 3]}`);
  }
  expect([...seen].filter((s) => !allowed.has(s.split(' ')[0]) || !s.endsWith(' 65535'))).toEqual([]);
  expect(seen.size).toBe(16);
  expect([sheet.width, sheet.height]).toEqual([BUOY_TEXELS, BUOY_TEXELS]);
});

test('periodic noise repeats exactly', () => {
  for (const [x, y] of [
    [0.3, 1.7],
    [3.9, 0.01],
  ])
    expect(noise3(x + 4, y - 4, 2.5, 9, 4)).toBeCloseTo(noise3(x, y, 2.5, 9, 4), 12);
});
