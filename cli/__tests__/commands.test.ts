/** The commands as a terminal runs them: exit codes, one sentence on bad input, the same picture as the core. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readPieceFile, writePieceFile } from '../../src/core/piece/pieceFile';
import { strToU8, zipSync } from 'fflate';
import { decodePng, encodePng } from '../../src/core/codec/png';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { TileStore } from '../../src/core/tile/tiles';
import { cubeModel } from '../../src/core/testing/models';
import { compressedCube } from './compressed';
import { commandsIn } from '../testing/commandProcess';

const folder = mkdtempSync(join(tmpdir(), 'brindle-cli-'));
const file = (name: string, content: string | Uint8Array) => {
  writeFileSync(join(folder, name), content);
  return name;
};
const commands = commandsIn(folder);
const brindle = commands.run;
afterAll(commands.end);

/** By way of the script, with so many MiB for its heap. */
const withHeap = (mib: number, ...args: string[]) =>
  spawnSync('./brindle', args, {
    encoding: 'utf8',
    env: { ...process.env, BRINDLE_CWD: folder, NODE_OPTIONS: `--max-old-space-size=${mib}` },
  });

test('a command that runs out of memory says so in one sentence and exits with 2; otherwise its own exit code comes through', () => {
  const rows = Array.from({ length: 200_000 }, (_, n) => `v ${n} 0 0\nvt 0 ${n}\n`).join('');
  const faces = Array.from({ length: 190_000 }, (_, n) => `f ${n + 1}/1 ${n + 2}/2 ${n + 3}/3`).join('\n');
  file('large.obj', rows + faces);
  const out = withHeap(96, 'inspect', 'large.obj', '--json');
  expect(out.status).toBe(2);
  expect(out.stdout).toBe('');
  expect(out.stderr.trim().split('\n').at(-1)).toMatch(/^brindle: inspect needed more memory .* Try a smaller file/);
  expect(withHeap(2000, 'inspect', 'cube.glb', '--json').status).toBe(0);
  expect(withHeap(2000, 'inspect', 'nowhere.glb')).toMatchObject({ status: 2, stdout: '' });
});

const bareTile = () => tile([newPaintedLayer('l', 'Hand')]);

function tile(layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.4, 0.6] }), newPaintedLayer('l', 'Hand')]) {
  const sheet = newSheet('s', 'Canvas', 128, 64, { wrapU: true });
  sheet.layers = layers;
  return writePieceFile({
    piece: newPiece('p', 'Tile', 'canvas', [sheet]),
    store: new TileStore(),
    modelGlb: null,
    thumbnailPng: null,
  });
}

beforeAll(async () => {
  file('cube.glb', await writeGlb(cubeModel()));
  file('tile.brindle', tile());
});

test('a piece put together by hand flattens to the right picture: PNGs of any size, blend, opacity, mask, group', async () => {
  const png = (width: number, height: number, channels: 1 | 2 | 3 | 4, texel: number[]) =>
    encodePng({
      width,
      height,
      channels,
      bits: 8,
      data: Uint8Array.from({ length: width * height * channels }, (_, i) => texel[i % channels]),
    });
  const layer = (id: string, over: object) => ({
    id,
    kind: 'painted',
    name: id,
    visible: true,
    opacity: 1,
    blend: 'normal',
    cells: { 'base-colour': { on: true } },
    ...over,
  });
  const document = {
    version: 3,
    id: 'hand-made',
    name: 'Hand made',
    kind: 'canvas',
    model: null,
    palette: [],
    hiddenParts: [],
    planeRepeats: 1,
    sheets: [
      {
        ...{ id: 's', name: 'Canvas', width: 32, height: 32, depth: 8, wrapU: false, wrapV: false, materialIndex: null },
        ...{ maps: ['base-colour'], heightSpan: 0.01, preview: { alpha: 1, doubleSided: false } },
        masks: [{ id: 'm', name: 'Right half', ground: 0 }],
        layers: [
          layer('below', { parent: 'g' }),
          layer('over', { parent: 'g', blend: 'multiply', opacity: 0.5, mask: { id: 'm', on: true } }),
          { ...layer('g', {}), kind: 'group' },
        ],
      },
    ],
  };
  const mask = Uint8Array.from({ length: 32 * 32 }, (_, i) => (i % 32 < 16 ? 0 : 255));
  file(
    'hand-made.brindle',
    zipSync({
      'piece.json': strToU8(JSON.stringify(document)),
      'planes/below/base-colour.png': png(7, 5, 3, [200, 100, 50]),
      'planes/over/base-colour.png': png(64, 64, 4, [128, 128, 255, 255]),
      'planes/m/mask.png': encodePng({ width: 32, height: 32, channels: 1, bits: 8, data: mask }),
    }),
  );
  expect(await brindle('flatten', 'hand-made.brindle', '--map', 'base-colour', '--out', 'flat.png')).toMatchObject({
    status: 0,
    stderr: '',
  });
  const { data } = decodePng(readFileSync(join(folder, 'flat.png')));
  const at = (x: number) => [...data.slice((16 * 32 + x) * 3, (16 * 32 + x) * 3 + 3)];
  expect(at(4)).toEqual([200, 100, 50]);
  // Half way from the backdrop to its product with the source.
  [200, 100, 50].forEach((b, c) => expect(Math.abs(at(28)[c] - (b + (b * [128, 128, 255][c]) / 255) / 2)).toBeLessThanOrEqual(1));
});

test('inspect says what a model holds, for people and as JSON', async () => {
  expect((await brindle('inspect', 'cube.glb')).stdout).toContain('12 triangles, 24 vertices');
  const json = JSON.parse((await brindle('inspect', 'cube.glb', '--json')).stdout);
  expect(json).toEqual({
    vertices: 24,
    triangles: 12,
    parts: [{ name: 'Cube', triangles: 12 }],
    materials: [{ name: 'Surface', triangles: 12 }],
    uvSets: 1,
    problems: [],
  });
});

test.each(['draco', 'meshopt'] as const)('a model compressed with %s is read', async (kind) => {
  file(`${kind}.glb`, await compressedCube(kind));
  const json = JSON.parse((await brindle('inspect', `${kind}.glb`, '--json')).stdout);
  expect([json.triangles, json.parts.length, json.uvSets]).toEqual([12, 1, 1]);
});

test('flatten writes a map at a size and depth', async () => {
  expect(
    (await brindle('flatten', 'tile.brindle', '--map', 'base-colour', '--size', '64', '--bits', '16', '--out', 'x.png')).status,
  ).toBe(0);
  const picture = decodePng(new Uint8Array(readFileSync(join(folder, 'x.png'))));
  expect([picture.width, picture.height, picture.bits]).toEqual([64, 32, 16]);
  expect([...picture.data.slice(0, 3)].map((v) => Math.round(v / 257))).toEqual([51, 102, 153]);
});

test('prove tells what is above its limit, by its exit code too; limits that are none are refused', async () => {
  file('bare.brindle', bareTile());
  const bare = await brindle('prove', 'bare.brindle', '--json');
  expect(bare.status).toBe(1);
  expect(JSON.parse(bare.stdout)).toMatchObject({
    piece: 'Tile',
    passed: false,
    findings: [
      { meter: 'empty-texels', figure: 100, limit: 0, places: [{ x0: 0, y0: 0, x1: 128, y1: 64, texels: 8192, part: null }] },
    ],
  });
  file('limits.json', '{ "empty-texels": 100 }');
  const pictures = await brindle('prove', 'bare.brindle', '--limits', 'limits.json', '--pictures', 'proof');
  expect(pictures).toMatchObject({ status: 0, stdout: 'ok    Empty texels, Canvas, Base colour: 100 % (limit 100 %)\n' });
  const { width, data } = decodePng(new Uint8Array(readFileSync(join(folder, 'proof/canvas_empty-texels_base-colour.png'))));
  expect([width, data.every((v) => v === 255)]).toEqual([128, true]);
  file('none.json', '[1]');
  expect(await brindle('prove', 'tile.brindle', '--limits', 'none.json')).toMatchObject({ status: 2, stdout: '' });
  file('other.json', '{ "shine": 1 }');
  expect((await brindle('prove', 'tile.brindle', '--limits', 'other.json')).stderr).toMatch(
    /a meter "shine", which there is not/,
  );
});

test('export writes the planned files', async () => {
  const { status, stdout } = await brindle(
    'export',
    'tile.brindle',
    '--out',
    'out',
    '--maps',
    'height,orm',
    '--pattern',
    '{map}',
    '--glb',
  );
  expect([
    status,
    stdout
      .trim()
      .split('\n')
      .map((l) => l.split('/').pop()),
  ]).toEqual([0, ['height.png', 'orm.png', 'tile.glb']]);
});

test('replay lays a recorded stroke, twice the same', async () => {
  const samples = [20, 60].map((x) => ({ pane: 'flat', x, y: 32 }));
  const writes = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } };
  file('strokes.json', JSON.stringify({ version: 1, strokes: [{ brush: { size: 16, writes }, samples }] }));
  for (const out of ['a.brindle', 'b.brindle'])
    expect(await brindle('replay', 'tile.brindle', 'strokes.json', '--out', out)).toMatchObject({ status: 0 });
  const [a, b] = ['a.brindle', 'b.brindle'].map((f) => new Uint8Array(readFileSync(join(folder, f))));
  expect(a).toEqual(b);
  const painted = readPieceFile(a).store.data('l/base-colour', 0)!;
  expect(painted[(32 * 128 + 40) * 4 + 3]).toBeGreaterThan(30000);
});

test.each([
  [['inspect', 'nowhere.glb'], /There is no file nowhere\.glb/],
  [['inspect'], /takes MODEL/],
  [['inspect', 'tile.brindle'], /GLB, glTF, OBJ/],
  [['flatten', 'cube.glb', '--out', 'x.png'], /not a zip/],
  [['flatten', 'tile.brindle', '--map', 'glow', '--out', 'x.png'], /no map "glow"/],
  [['flatten', 'tile.brindle', '--size', '0', '--out', 'x.png'], /--size is "0"/],
  [['export', 'tile.brindle'], /--out DIR/],
  [['export', 'tile.brindle', '--out', 'o', '--bits', '12'], /8 or 16/],
  [['export', 'tile.brindle', '--out', 'o', '--pattern', '{x}'], /stands for nothing/],
  [['replay', 'tile.brindle', 'cube.glb', '--out', 'x.brindle'], /not JSON/],
  [['fly'], /no command "fly"/],
])('%j ends with 2 and one sentence', async (args, says) => {
  const { status, stderr } = await brindle(...args);
  expect(status).toBe(2);
  expect(stderr).toMatch(says);
  expect(stderr.split('\n').filter((l) => !/Deprecation|trace-deprecation|Replace `const/.test(l)).length).toBe(1);
});
