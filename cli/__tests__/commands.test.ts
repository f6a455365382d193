/** The commands as a terminal runs them: exit codes, one sentence on bad input, the same picture as the core. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readPieceFile, writePieceFile } from '../../src/core/codec/pieceFile';
import { decodePng } from '../../src/core/codec/png';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { TileStore } from '../../src/core/raster/tiles';
import { cubeModel } from '../../src/core/testing/models';
import { compressedCube } from './compressed';

const folder = mkdtempSync(join(tmpdir(), 'brindle-cli-'));
const file = (name: string, content: string | Uint8Array) => {
  writeFileSync(join(folder, name), content);
  return name;
};
const brindle = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['--import', 'tsx', 'cli/main.ts', ...args], {
    encoding: 'utf8',
    env: { ...process.env, BRINDLE_CWD: folder, NODE_OPTIONS: '' },
  });
  return { status, stdout, stderr: stderr.trim() };
};

function tile() {
  const sheet = newSheet('s', 'Canvas', 128, 64, { wrapU: true });
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.4, 0.6] }), newPaintedLayer('l', 'Hand')];
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

test('inspect says what a model holds, for people and as JSON', () => {
  expect(brindle('inspect', 'cube.glb').stdout).toContain('12 triangles, 24 vertices');
  const json = JSON.parse(brindle('inspect', 'cube.glb', '--json').stdout);
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
  const json = JSON.parse(brindle('inspect', `${kind}.glb`, '--json').stdout);
  expect([json.triangles, json.parts.length, json.uvSets]).toEqual([12, 1, 1]);
});

test('flatten writes a map at a size and depth', () => {
  expect(
    brindle('flatten', 'tile.brindle', '--map', 'base-colour', '--size', '64', '--bits', '16', '--out', 'x.png').status,
  ).toBe(0);
  const picture = decodePng(new Uint8Array(readFileSync(join(folder, 'x.png'))));
  expect([picture.width, picture.height, picture.bits]).toEqual([64, 32, 16]);
  expect([...picture.data.slice(0, 3)].map((v) => Math.round(v / 257))).toEqual([51, 102, 153]);
});

test('export writes the planned files', () => {
  const { status, stdout } = brindle(
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

test('replay lays a recorded stroke, twice the same', () => {
  const samples = [20, 60].map((x) => ({ pane: 'flat', x, y: 32 }));
  const writes = { 'base-colour': { on: true, value: [1, 0, 0], amount: 1 } };
  file('strokes.json', JSON.stringify({ version: 1, strokes: [{ brush: { size: 16, writes }, samples }] }));
  for (const out of ['a.brindle', 'b.brindle'])
    expect(brindle('replay', 'tile.brindle', 'strokes.json', '--out', out)).toMatchObject({ status: 0 });
  const [a, b] = ['a.brindle', 'b.brindle'].map((f) => new Uint8Array(readFileSync(join(folder, f))));
  expect(a).toEqual(b);
  const painted = readPieceFile(a).store.data('l/base-colour', 0)!;
  expect(painted[(32 * 128 + 40) * 4 + 3]).toBeGreaterThan(30000);
});

test.each([
  [['inspect', 'nowhere.glb'], /There is no file nowhere\.glb/],
  [['inspect'], /takes MODEL/],
  [['inspect', 'tile.brindle'], /GLB, glTF or OBJ/],
  [['flatten', 'cube.glb', '--out', 'x.png'], /not a zip/],
  [['flatten', 'tile.brindle', '--map', 'glow', '--out', 'x.png'], /no map "glow"/],
  [['flatten', 'tile.brindle', '--size', '0', '--out', 'x.png'], /--size is "0"/],
  [['export', 'tile.brindle'], /--out DIR/],
  [['export', 'tile.brindle', '--out', 'o', '--bits', '12'], /8 or 16/],
  [['export', 'tile.brindle', '--out', 'o', '--pattern', '{x}'], /stands for nothing/],
  [['replay', 'tile.brindle', 'cube.glb', '--out', 'x.brindle'], /not JSON/],
  [['fly'], /no command "fly"/],
])('%j ends with 2 and one sentence', (args, says) => {
  const { status, stderr } = brindle(...args);
  expect(status).toBe(2);
  expect(stderr).toMatch(says);
  expect(stderr.split('\n').filter((l) => !/Deprecation|trace-deprecation|Replace `const/.test(l)).length).toBe(1);
});
