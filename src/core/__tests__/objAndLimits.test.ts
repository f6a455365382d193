/** OBJ as others write it, and costs that are bounded before they are spent. */
import { WebIO } from '@gltf-transform/core';
import { readZip, writeZip } from '../codec/zip';
import { ModelError, MODEL_LIMITS, type Model } from '../mesh/model';
import { ModelBuilder, plainMaterial } from '../mesh/modelBuilder';
import { trianglesOfPolygon } from '../mesh/polygon';
import { readModel } from '../mesh/readModel';
import { buildIslands, buildTopology } from '../mesh/topology';
import { reportUvs } from '../mesh/uvReport';
import { writeGlb } from '../mesh/writeGlb';
import { PieceFileError, readPieceFile, writePieceFile } from '../piece/pieceFile';
import { newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { cubeModel, looseModel, seededRandom } from '../testing/models';
import { TileStrips } from '../tile/strips';
import { tilesFromPicture, TileStore, type TileIndex } from '../tile/tiles';

const bytes = (text: string) => new TextEncoder().encode(text);
const obj = (text: string, more: Record<string, string> = {}) =>
  readModel(new Map([['a.obj', bytes(text)], ...Object.entries(more).map(([k, v]): [string, Uint8Array] => [k, bytes(v)])]));
const areaOf = ({ positions: p, indices }: Model) => {
  let sum = 0;
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => indices[i + k] * 3);
    sum += ((p[b] - p[a]) * (p[c + 1] - p[a + 1]) - (p[c] - p[a]) * (p[b + 1] - p[a + 1])) / 2;
  }
  return sum;
};
const corners = 'v 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\n';

describe('OBJ', () => {
  test('concave faces are cut, not fanned: their area is their own, and each triangle looks its way', async () => {
    const model = await obj(`${corners}f 1 2 3 4 5\n`);
    // A square of 16 less the notch of 6.
    expect(areaOf(model)).toBeCloseTo(16 - 6, 5);
    const turned = await obj(`${corners}f 5 4 3 2 1\n`);
    expect(areaOf(turned)).toBeCloseTo(-10, 5);
    const arrow = await obj('v 0 0 0\nv 4 2 0\nv 0 4 0\nv 1 2 0\nf 1 2 3 4\n');
    expect(areaOf(arrow)).toBeCloseTo(6, 5);
    for (let i = 0; i < arrow.indices.length; i += 3)
      expect(areaOf({ ...arrow, indices: arrow.indices.slice(i, i + 3) })).toBeGreaterThan(0);
  });

  test('random star-shaped polygons in any plane keep their area', () => {
    const random = seededRandom(5);
    for (let n = 0; n < 200; n++) {
      const count = 4 + Math.floor(random() * 12);
      const flat = Array.from({ length: count }, (_, i) => {
        const [a, r] = [(i / count) * 2 * Math.PI, 0.2 + random()];
        return [Math.cos(a) * r, Math.sin(a) * r];
      });
      const [c, s] = [Math.cos(n), Math.sin(n)];
      const at = Float64Array.from(flat.flatMap(([x, y]) => [x, y * c, y * s]));
      const area = flat.reduce((sum, [x, y], i) => sum + x * flat[(i + 1) % count][1] - flat[(i + 1) % count][0] * y, 0) / 2;
      const cut = trianglesOfPolygon(at, count);
      let found = 0;
      for (let i = 0; i < cut.length; i += 3) {
        const [p, q, r] = [0, 1, 2].map((k) => flat[cut[i + k]]);
        found += ((q[0] - p[0]) * (r[1] - p[1]) - (r[0] - p[0]) * (q[1] - p[1])) / 2;
      }
      expect(found).toBeCloseTo(area, 6);
    }
  });

  test('comments, lines that go on, all ends of lines, stray lines and points, weights and colours', async () => {
    const text = `# top\n${corners}f 1 2 \\\n 3 # a face\nl 1 2\np 1\nf 3 4 5\t# another\n`;
    for (const end of ['\n', '\r\n', '\r']) {
      const model = await obj(text.replaceAll('\n', end));
      expect(model.indices.length).toBe(6);
      expect(model.notes.join()).toMatch(/lines, points/);
    }
    const tinted = await obj('v 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 0 1 0 0 0 1\nf 1 2 3\n');
    expect([...tinted.colours!]).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
    expect((await obj('v 0 0 0 2\nv 1 0 0 2\nv 0 1 0 2\nf 1 2 3\n')).colours).toBeUndefined();
  });

  test('negative indices count back from where they stand, positive ones may point ahead', async () => {
    const model = await obj('v 0 0 0\nv 1 0 0\nv 0 1 0\nf -3 -2 -1\nv 5 0 0\nv 6 0 0\nv 5 1 0\nf -3 -2 -1\nf 1 2 7\nv 0 0 9\n');
    expect(model.indices.length).toBe(9);
    expect(model.positions[model.indices[3] * 3]).toBe(5);
    expect(model.positions[model.indices[8] * 3 + 2]).toBe(9);
    await expect(obj('v 0 0 0\nv 1 0 0\nf -1 -2 -3\nv 0 1 0\n')).rejects.toThrow(/before the first/);
    await expect(obj('v 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nf 1/1 2/2 3/1\n')).rejects.toThrow(/texture vertex 2 of 1/);
  });

  test('several material files, names with blanks, and what PBR exporters add', async () => {
    const model = await obj(
      `mtllib one.mtl two.mtl\n${corners}usemtl Old Brass\nf 1 2 3\nusemtl Glow\nf 3 4 5\ng Rest\nf 1 4 5\n`,
      {
        'one.mtl': 'newmtl Old Brass\nKd 1 0.5 0\nPr 0.3\nPm 1\nmap_Kd -s 2 2 1 old brass.png\n',
        'two.mtl': 'newmtl Glow\nTr 0.25\nKe 0 1 0\n',
        'old brass.png': 'x',
      },
    );
    const [brass, glow] = model.materials;
    expect(brass).toMatchObject({ name: 'Old Brass', roughness: 0.3, metallic: 1 });
    expect(brass.baseColourPicture!.bytes).toEqual(bytes('x'));
    expect(glow.baseColourLinear[3]).toBeCloseTo(0.75, 6);
    expect(glow.emissiveLinear).toEqual([0, 1, 0]);
    expect(model.parts).toEqual(['Part', 'Rest']);
    const spaced = await obj(`mtllib my own.mtl\n${corners}usemtl A\nf 1 2 3\n`, { 'my own.mtl': 'newmtl A\nKd 0 0 1\n' });
    expect(spaced.materials[0].baseColourLinear.slice(0, 3)).toEqual([0, 0, 1]);
    expect((await obj(`mtllib gone.mtl\n${corners}f 1 2 3\n`)).notes[0]).toMatch(/gone\.mtl/);
  });

  test('corners without UVs are said to have none, whatever others have', async () => {
    const model = await obj(`${corners}vt 0 0\nvt 1 0\nvt 1 1\nf 1/1 2/2 3/3\nf 3 4 5\n`);
    expect([...model.uvs[0]].filter(Number.isNaN).length).toBe(6);
  });
});

describe('limits hold before anything is built', () => {
  test('a small file that declares more vertices than are read, by many nodes or by many instances', async () => {
    const json = (change: (g: Record<string, unknown>) => void) => {
      const g: Record<string, unknown> = {
        asset: { version: '2.0' },
        accessors: [{ count: 1_000_000, type: 'VEC3', componentType: 5126 }],
        meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
        nodes: Array.from({ length: 12 }, () => ({ mesh: 0 })),
        scenes: [{ nodes: Array.from({ length: 12 }, (_, i) => i) }],
      };
      change(g);
      return readModel(new Map([['a.gltf', bytes(JSON.stringify(g))]]));
    };
    await expect(json(() => {})).rejects.toThrow(/12,000,000 vertices, at most 5,000,000/);
    await expect(
      json((g) => {
        (g.accessors as unknown[]).push({ count: 500_000, type: 'VEC3', componentType: 5126 });
        g.nodes = [{ mesh: 0, extensions: { EXT_mesh_gpu_instancing: { attributes: { TRANSLATION: 1 } } } }];
        (g.accessors as { count: number }[])[0].count = 300;
      }),
    ).rejects.toThrow(/at most/);
  });

  test('accessors that read beyond their data are refused', async () => {
    const io = new WebIO();
    const { json, resources } = await io.binaryToJSON((await writeGlb(cubeModel())) as Uint8Array<ArrayBuffer>);
    const [data] = Object.values(resources);
    json.buffers![0].uri = `data:application/octet-stream;base64,${Buffer.from(data).toString('base64')}`;
    const read = () => readModel(new Map([['a.gltf', bytes(JSON.stringify(json))]]));
    await expect(read()).resolves.toBeTruthy();
    json.accessors![0].count += 1;
    await expect(read()).rejects.toThrow(/beyond its data/);
    json.accessors![0].count -= 1;
    json.bufferViews![0].byteLength += 1_000_000;
    await expect(read()).rejects.toThrow(/beyond its buffer/);
  });

  test('4,000 parts of one name get names of their own at once; one more than is read is refused', () => {
    const builder = new ModelBuilder([plainMaterial('M')], []);
    const names = Array.from({ length: MODEL_LIMITS.maxParts }, () => builder.addPart('Bolt'));
    expect(names.at(-1)).toBe(MODEL_LIMITS.maxParts - 1);
    expect(() => builder.addPart('Bolt')).toThrow(ModelError);
  });

  test('the UV report of 20,000 triangles over the whole square comes in bounded steps, and counts them all', () => {
    const n = 20_000;
    const random = seededRandom(1);
    const uv = new Float32Array(n * 6);
    for (let i = 0; i < n; i++) uv.set([0, 0, 0, 1, 1, 1], i * 6);
    const model = looseModel(uv, random);
    const topology = buildTopology(model);
    const report = reportUvs(model, topology, buildIslands(model, topology, uv), 0);
    expect(report.problems.find((p) => p.code === 'overlapping')!.count).toBe(n);
    expect(report.sheets[0].coverage).toBeCloseTo(0.5, 1);
  });

  test('overlaps are those that trying each cell one by one finds', () => {
    const random = seededRandom(3);
    const n = 120;
    const uv = new Float32Array(n * 6);
    for (let i = 0; i < n; i++) {
      const [u, v] = [random() * 0.9, random() * 0.9];
      for (let k = 0; k < 3; k++) uv.set([u + random() * 0.08, v + random() * 0.08], i * 6 + k * 2);
    }
    const R = 512;
    const cover = Array.from({ length: R * R }, (): number[] => []);
    for (let f = 0; f < n; f++) {
      const x = [0, 1, 2].map((k) => uv[f * 6 + k * 2] * R);
      const y = [0, 1, 2].map((k) => uv[f * 6 + k * 2 + 1] * R);
      const d = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0]);
      if (Math.abs(d) / R / R < 1e-12) continue;
      for (let ty = Math.floor(Math.min(...y)); ty <= Math.max(...y); ty++)
        for (let tx = Math.floor(Math.min(...x)); tx <= Math.max(...x); tx++) {
          const inside = [0, 1, 2].every((k) => {
            const m = (k + 1) % 3;
            return Math.sign(d) * ((x[m] - x[k]) * (ty + 0.5 - y[k]) - (y[m] - y[k]) * (tx + 0.5 - x[k])) > 1e-3 * Math.abs(d);
          });
          if (inside) cover[ty * R + tx].push(f);
        }
    }
    const wanted = new Set(cover.filter((c) => c.length > 1).flat()).size;
    const model = looseModel(uv, random);
    const topology = buildTopology(model);
    const report = reportUvs(model, topology, buildIslands(model, topology, uv), 0);
    expect(report.problems.find((p) => p.code === 'overlapping')?.count).toBe(wanted);
  });
});

describe('archives and piece files', () => {
  test('entries that lie over each other are refused', () => {
    const zip = writeZip([
      ['a.png', new Uint8Array(50)],
      ['b.png', new Uint8Array(50)],
    ]);
    const view = new DataView(zip.buffer, zip.byteOffset);
    expect(readZip(zip, 'It').size).toBe(2);
    // The second entry of the directory points at the first file.
    const second = Buffer.from(zip).lastIndexOf(Buffer.from([0x50, 0x4b, 1, 2]));
    view.setUint32(second + 42, 0, true);
    expect(() => readZip(zip, 'It')).toThrow(/lie over each other/);
  });

  test.each<[string, number, number, RegExp]>([
    ['one more disk', 4, 1, /one of several parts/],
    ['a directory on another disk', 6, 1, /one of several parts/],
    ['fewer files on this disk than in all', 8, 1, /one of several parts/],
    ['more files than there are', 10, 3, /one of several parts|damaged/],
    ['a shorter directory', 12, 40, /damaged/],
    ['a directory elsewhere', 16, 3, /damaged/],
  ])('a directory that lies is refused: %s', (_what, at, value, says) => {
    const zip = writeZip([
      ['a.png', new Uint8Array(50)],
      ['b.png', new Uint8Array(50)],
    ]);
    const view = new DataView(zip.buffer, zip.byteOffset);
    view.setUint16(zip.length - 22 + at, value, true);
    expect(() => readZip(zip, 'The file')).toThrow(says);
  });

  const piece = () => {
    const sheet = newSheet('s', 'S', 300, 150);
    sheet.layers = [newPaintedLayer('l', 'L', ['base-colour'])];
    const store = new TileStore();
    const pixels = Uint16Array.from({ length: 300 * 150 * 4 }, (_, i) => (i % 1200 < 520 ? i : 0));
    for (const [tile, data] of tilesFromPicture(pixels, 300, 150, 4)) store.set('l/base-colour', tile, { data, hash: null });
    return { piece: newPiece('p', 'P', 'canvas', [sheet]), store, modelGlb: null, thumbnailPng: new Uint8Array([1, 2, 3]) };
  };

  test('tiles are handed to whoever takes them, one by one; a thumbnail that is no picture is left out', () => {
    const bundle = piece();
    const seen: number[] = [];
    const back = readPieceFile(writePieceFile(bundle), 'It', (data) => {
      seen.push(data.length);
      return { data: null, hash: `h${seen.length}` };
    });
    const tiles = bundle.store.tilesOf('l/base-colour');
    expect(seen.length).toBe(tiles.size);
    expect([...back.store.tilesOf('l/base-colour').keys()].sort()).toEqual([...tiles.keys()].sort());
    expect(back.thumbnailPng).toBeNull();
  });

  test('rows become the same tiles as a whole picture does', () => {
    const random = seededRandom(6);
    for (const [width, height] of [
      [300, 150],
      [128, 256],
      [7, 129],
    ]) {
      const pixels = Uint16Array.from({ length: width * height * 2 }, (_, i) => (i % 2 && (i >> 8) % 3 ? 0 : random() * 65536));
      const found = new Map<TileIndex, Uint16Array>();
      const strips = new TileStrips(width, height, 2, (tile, data) => found.set(tile, data));
      for (let y = 0; y < height; y++) strips.row(pixels.subarray(y * width * 2, (y + 1) * width * 2), y);
      expect(found).toEqual(tilesFromPicture(pixels, width, height, 2));
    }
  });

  test('an entry that belongs to no piece is refused, what file managers leave behind is not', () => {
    const files = [...readZip(writePieceFile(piece()), 'It')];
    expect(() => readPieceFile(writeZip([...files, ['evil.sh', bytes('x')]]))).toThrow(PieceFileError);
    expect(() => readPieceFile(writeZip([...files, ['evil.sh', bytes('x')]]))).toThrow(/evil\.sh.+no part of a piece/);
    expect(readPieceFile(writeZip([...files, ['__MACOSX/._x', bytes('x')], ['.DS_Store', bytes('x')]])).piece.name).toBe('P');
  });
});
