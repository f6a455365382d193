/** Reading what comes in: a large OBJ, the UV report of a bad model, a piece file of ten planes of 8192². */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { crc32 } from '../../src/core/codec/pngRows';
import { writeZip } from '../../src/core/codec/zip';
import { newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { readModel } from '../../src/core/mesh/readModel';
import { buildIslands, buildTopology } from '../../src/core/mesh/topology';
import { reportUvs } from '../../src/core/mesh/uvReport';
import { looseModel, seededRandom } from '../../src/core/testing/models';
import { result, type Result } from './result';
import { alternate, alternateAsync } from './timing';

/** A million triangles, as quads with UVs and normals. */
async function objMillion(): Promise<Result[]> {
  const n = 708;
  const lines: string[] = [];
  for (const of of ['v', 'vt', 'vn'])
    for (let i = 0; i < (n + 1) ** 2; i++) {
      const [x, y] = [(i % (n + 1)) / n, Math.floor(i / (n + 1)) / n];
      const height = Math.sin(x * 40) * Math.cos(y * 30) * 0.05;
      const at = [x, height, y].map((v) => v.toFixed(6)).join(' ');
      lines.push(of === 'v' ? `v ${at}` : of === 'vt' ? `vt ${x.toFixed(6)} ${y.toFixed(6)}` : 'vn 0 1 0');
    }
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const a = y * (n + 1) + x + 1;
      lines.push(`f ${[a, a + n + 1, a + n + 2, a + 1].map((v) => `${v}/${v}/${v}`).join(' ')}`);
    }
  const bytes = new TextEncoder().encode(lines.join('\n'));
  lines.length = 0;
  const t = await alternateAsync(
    async () => void (await readModel(new Map([['a.obj', bytes]]))),
    () => Promise.resolve(void new TextDecoder().decode(bytes).split('\n').length),
    3,
  );
  return [result('obj-million', t.subject, 's', 'its text split into lines', t.reference)];
}

/** 200,000 triangles that each cover half of the square. */
function uvReport(): Result[] {
  const n = 200_000;
  const uv = new Float32Array(n * 6);
  for (let i = 0; i < n; i++) uv.set([0, 0, 0, 1, 1, 1], i * 6);
  const model = looseModel(uv, seededRandom(1));
  const topology = buildTopology(model);
  const islands = buildIslands(model, topology, uv);
  const t = alternate(
    () => void reportUvs(model, topology, islands, 0),
    () => void buildIslands(model, topology, uv),
    3,
  );
  return [result('uv-report-200k', t.subject, 's', 'its islands', t.reference)];
}

const SIDE = 8192;

function chunk(kind: string, body: Uint8Array): Buffer {
  const out = Buffer.alloc(12 + body.length);
  out.writeUInt32BE(body.length, 0);
  out.write(kind, 4, 'latin1');
  out.set(body, 8);
  out.writeUInt32BE(crc32(out.subarray(4, 8 + body.length)), 8 + body.length);
  return out;
}

/** A plane of which every other block of 512² is painted, with some grain: 16 bits, RGBA, its lines as differences. */
function planePng(): Buffer {
  const raw = Buffer.alloc(SIDE * (SIDE * 8 + 1));
  for (let y = 0, o = 0; y < SIDE; y++) {
    raw[o++] = 2;
    for (let x = 0; x < SIDE; x++, o += 8) {
      const painted = ((x >> 9) + (y >> 9)) & 1;
      if (painted && ((x * 2654435761 + y * 40503) >>> 0) % 97 === 0) raw[o + 1] = 1;
      if (y % 512 !== 0) continue;
      // A block's first line: from nothing to paint, or back.
      if (painted) raw.set([x >> 6, 0, 0, 0, 0, 0, 255, 255], o);
      else if (y > 0) raw.set([(256 - (x >> 6)) & 255, 0, 0, 0, 0, 0, 1, 1], o);
    }
  }
  const head = Buffer.alloc(13);
  head.writeUInt32BE(SIDE, 0);
  head.writeUInt32BE(SIDE, 4);
  head.set([16, 6, 0, 0, 0], 8);
  const signature = Buffer.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10);
  return Buffer.concat([
    signature,
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(raw, { level: 6 })),
    chunk('IEND', new Uint8Array(0)),
  ]);
}

/** Ten such planes, read in a process of their own: seconds, and the most that it held. */
function pieceFile(): Result[] {
  const folder = mkdtempSync(join(tmpdir(), 'brindle-bench-'));
  try {
    const png = planePng();
    const sheet = newSheet('s', 'S', SIDE, SIDE);
    sheet.layers = Array.from({ length: 10 }, (_, i) => newPaintedLayer(`l${i}`, `L${i}`, ['base-colour']));
    const json = new TextEncoder().encode(JSON.stringify(newPiece('p', 'P', 'canvas', [sheet])));
    const path = join(folder, 'large.brindle');
    const planes = sheet.layers.map(({ id }): [string, Uint8Array] => [`planes/${id}/base-colour.png`, png]);
    writeFileSync(path, writeZip([['piece.json', json], ...planes]));
    const out = execFileSync(process.execPath, ['--import', 'tsx', 'cli/bench/readPiece.ts', path]);
    const { seconds, mebibytes, inflating } = JSON.parse(out.toString()) as Record<string, number>;
    return [
      result('piece-file-8192', seconds, 's', 'merely inflating its planes', inflating),
      result('piece-file-8192-memory', mebibytes, 'MiB', 'one plane', (SIDE * SIDE * 8) / 1048576),
    ];
  } finally {
    rmSync(folder, { recursive: true });
  }
}

export const READING_MEASUREMENTS = { 'obj-million': objMillion, 'uv-report-200k': uvReport, 'piece-file-8192': pieceFile };
