/** What is wrong with the UVs, in words and counts, before anyone paints. */
import type { Model } from './model';
import type { Islands, Topology } from './topology';

export type ProblemCode =
  | 'no-uvs'
  | 'some-without-uvs'
  | 'overlapping'
  | 'outside'
  | 'mirrored'
  | 'zero-area'
  | 'uneven-density'
  | 'narrow-gutter'
  | 'note';

export interface Problem {
  code: ProblemCode;
  /** Triangles (islands for narrow-gutter) concerned. */
  count: number;
  sentence: string;
  /** `stop`: cannot be painted. `look`: paints, but the artist should know. */
  weight: 'stop' | 'look';
}

export interface SheetReport {
  material: string;
  triangles: number;
  islands: number;
  /** Share of the square that islands cover, 0..1. */
  coverage: number;
  /** Texels per metre at 1024², median over triangles; 0 if unknown. */
  texelsPerMetre1024: number;
}

export interface UvReport {
  problems: Problem[];
  sheets: SheetReport[];
}

/** Coverage is counted on a 512² raster: overlaps smaller than a 512th of the square are not shown. */
const RASTER = 512;
const plural = (n: number, one: string, many = `${one}s`) => `${n.toLocaleString('en')} ${n === 1 ? one : many}`;

export interface FaceUv {
  /** Twice the signed area in UV; negative when mirrored (V points down, so sound faces are negative). */
  signedArea2: number;
  area3: number;
}

function measureFace(model: Model, uv: Float32Array, f: number): FaceUv {
  const [a, b, c] = [model.indices[f * 3], model.indices[f * 3 + 1], model.indices[f * 3 + 2]];
  const signedArea2 =
    (uv[b * 2] - uv[a * 2]) * (uv[c * 2 + 1] - uv[a * 2 + 1]) - (uv[c * 2] - uv[a * 2]) * (uv[b * 2 + 1] - uv[a * 2 + 1]);
  const p = model.positions;
  const e = (i: number, j: number, k: number) => p[j * 3 + k] - p[i * 3 + k];
  const cx = e(a, b, 1) * e(a, c, 2) - e(a, b, 2) * e(a, c, 1);
  const cy = e(a, b, 2) * e(a, c, 0) - e(a, b, 0) * e(a, c, 2);
  const cz = e(a, b, 0) * e(a, c, 1) - e(a, b, 1) * e(a, c, 0);
  return { signedArea2, area3: Math.hypot(cx, cy, cz) / 2 };
}

/** The UV set used unless the artist chooses another: the first in which most triangles have UVs. */
export function reportUvs(model: Model, topology: Topology, islands: Islands | null, uvSet: number): UvReport {
  const problems: Problem[] = model.notes.map((sentence) => ({ code: 'note', count: 1, sentence, weight: 'look' }));
  const uv = model.uvs[uvSet];
  const faces = model.indices.length / 3;
  if (!uv || !islands) {
    problems.unshift({
      code: 'no-uvs',
      count: faces,
      weight: 'stop',
      sentence:
        'The model has no UVs, so there is no sheet to paint on yet: unwrap it and export again. Painting straight on vertices, and an automatic unwrap, are planned.',
    });
    return { problems, sheets: [] };
  }
  const rasters = model.materials.map(() => new CoverRaster());
  const overlapping = new Uint8Array(faces);
  const stride = rowStride(model, uv);
  const densities: number[][] = model.materials.map(() => []);
  let without = 0;
  let outside = 0;
  let mirrored = 0;
  let zero = 0;
  for (let f = 0; f < faces; f++) {
    const corners = [0, 1, 2].map((k) => model.indices[f * 3 + k]);
    if (corners.some((v) => !Number.isFinite(uv[v * 2]) || !Number.isFinite(uv[v * 2 + 1]))) {
      without++;
      continue;
    }
    const { signedArea2, area3 } = measureFace(model, uv, f);
    // 1e-12 of the square is a hundredth of a texel at 8192.
    if (Math.abs(signedArea2) < 1e-12) {
      zero++;
      continue;
    }
    if (signedArea2 > 0) mirrored++;
    if (corners.some((v) => [0, 1].some((k) => uv[v * 2 + k] < -1e-4 || uv[v * 2 + k] > 1 + 1e-4))) outside++;
    if (area3 > 0) densities[model.faceMaterial[f]].push(1024 * Math.sqrt(Math.abs(signedArea2) / 2 / area3));
    rasters[model.faceMaterial[f]].add(uv, corners, f, overlapping, stride);
  }
  const area = rasters.map((r) => r.owner);
  const over = overlapping.reduce((a, b) => a + b, 0);
  const add = (code: ProblemCode, count: number, sentence: string, weight: Problem['weight'] = 'look') => {
    if (count > 0) problems.push({ code, count, sentence, weight });
  };
  add(
    'some-without-uvs',
    without,
    `${plural(without, 'triangle has', 'triangles have')} no UVs in this set and cannot be painted: unwrap them too.`,
    without === faces ? 'stop' : 'look',
  );
  add(
    'overlapping',
    over,
    `${plural(over, 'triangle lies', 'triangles lie')} over others in the UV square: paint on one shows on the other.`,
  );
  add(
    'outside',
    outside,
    `${plural(outside, 'triangle reaches', 'triangles reach')} outside the UV square: what lies outside is not painted unless the whole triangle can be moved in.`,
  );
  add(
    'mirrored',
    mirrored,
    `${plural(mirrored, 'triangle is', 'triangles are')} mirrored in UV: letters and stencils read backwards there.`,
  );
  add('zero-area', zero, `${plural(zero, 'triangle has', 'triangles have')} no area in UV and cannot hold paint.`);
  const uneven = unevenness(densities);
  if (uneven.ratio > 4)
    add(
      'uneven-density',
      uneven.count,
      `Texel density is uneven: the densest tenth has ${uneven.ratio.toFixed(1)} times the texels of the sparsest tenth, so detail will look blurred in places.`,
    );
  const narrow = narrowGutters(model, islands, area);
  add(
    'narrow-gutter',
    narrow,
    `${plural(narrow, 'island lies', 'islands lie')} closer than 4 texels at 1024 to a neighbour: colours can bleed at a distance. Leave wider gutters.`,
  );
  return { problems, sheets: sheetReports(model, islands, area, densities) };
}

/** Rows of the raster that are gone through in all, at most: beyond that tall triangles are seen on every so manieth row only. */
const MOST_ROWS = 8_000_000;
/** Triangles lower than this are always seen on every row. */
const TALL = 64;

/** 1, or what keeps a model of many large triangles within MOST_ROWS. */
function rowStride(model: Model, uv: Float32Array): number {
  let rows = 0;
  for (let i = 0; i < model.indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => uv[model.indices[i + k] * 2 + 1]);
    const tall = (Math.max(a, b, c) - Math.min(a, b, c)) * RASTER;
    if (tall > TALL) rows += Math.min(RASTER, tall);
  }
  return Math.max(1, Math.ceil(rows / MOST_ROWS));
}

/**
 * Which triangle covers each cell of a square, and which lie over others. A cell that two cover is settled: whoever comes later
 * overlaps there, and jumps over it together with its settled neighbours (union by path halving), so a cell is gone into twice.
 */
class CoverRaster {
  /** First triangle on each cell; −1: none. */
  readonly owner = new Int32Array(RASTER * RASTER).fill(-1);
  /** The next cell of the row, from this one on, that is not settled. */
  private readonly next = Int32Array.from({ length: RASTER * (RASTER + 1) }, (_, i) => i % (RASTER + 1));

  add(uv: Float32Array, corners: number[], f: number, overlapping: Uint8Array, stride: number): void {
    const su = Math.floor((uv[corners[0] * 2] + uv[corners[1] * 2] + uv[corners[2] * 2]) / 3);
    const sv = Math.floor((uv[corners[0] * 2 + 1] + uv[corners[1] * 2 + 1] + uv[corners[2] * 2 + 1]) / 3);
    const x = corners.map((v) => (uv[v * 2] - su) * RASTER);
    const y = corners.map((v) => (uv[v * 2 + 1] - sv) * RASTER);
    const d = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0]);
    const sign = d < 0 ? -1 : 1;
    const y0 = Math.max(0, Math.floor(Math.min(y[0], y[1], y[2])));
    const y1 = Math.min(RASTER - 1, Math.ceil(Math.max(y[0], y[1], y[2])));
    // A centre this close to an edge belongs to the neighbour as well: not an overlap.
    const margin = 1e-3 * Math.abs(d);
    const step = y1 - y0 > TALL ? stride : 1;
    for (let ty = y0 + (f % step); ty <= y1; ty += step) {
      const py = ty + 0.5;
      // Where all three edges have the cell's middle on their inner side: slope · px > rest.
      let from = -Infinity;
      let to = Infinity;
      for (let k = 0; k < 3; k++) {
        const n = k === 2 ? 0 : k + 1;
        const slope = -sign * (y[n] - y[k]);
        const rest = margin - sign * ((x[n] - x[k]) * (py - y[k]) + (y[n] - y[k]) * x[k]);
        if (slope > 0) from = Math.max(from, rest / slope);
        else if (slope < 0) to = Math.min(to, rest / slope);
        else if (!(rest < 0)) to = -Infinity;
      }
      this.row(ty, Math.max(0, Math.floor(from + 0.5)), Math.min(RASTER - 1, Math.ceil(to - 0.5) - 1), f, overlapping);
    }
  }

  private row(ty: number, from: number, to: number, f: number, overlapping: Uint8Array): void {
    const { owner, next } = this;
    const base = ty * (RASTER + 1);
    for (let tx = from; tx <= to; tx++) {
      const free = this.find(base, tx);
      if (free > tx) {
        overlapping[f] = 1;
        tx = free;
        if (tx > to) return;
      }
      const i = ty * RASTER + tx;
      if (owner[i] < 0) owner[i] = f;
      else if (owner[i] !== f) {
        overlapping[f] = 1;
        overlapping[owner[i]] = 1;
        next[base + tx] = tx + 1;
      }
    }
  }

  private find(base: number, tx: number): number {
    const { next } = this;
    let at = tx;
    while (next[base + at] !== at) {
      next[base + at] = next[base + next[base + at]];
      at = next[base + at];
    }
    return at;
  }
}

function unevenness(densities: number[][]): { ratio: number; count: number } {
  const all = densities.flat().sort((a, b) => a - b);
  if (all.length < 10) return { ratio: 1, count: 0 };
  const low = all[Math.floor(all.length * 0.1)];
  const high = all[Math.floor(all.length * 0.9)];
  const median = all[all.length >> 1];
  return { ratio: high / Math.max(low, 1e-9), count: all.filter((d) => d < median / 2 || d > median * 2).length };
}

/** Islands with another island within 2 cells of the 512² raster (4 texels at 1024). */
function narrowGutters(model: Model, islands: Islands, owners: Int32Array[]): number {
  const close = new Set<number>();
  for (const owner of owners) {
    for (let y = 0; y < RASTER; y++) {
      for (let x = 0; x < RASTER; x++) {
        const f = owner[y * RASTER + x];
        if (f < 0) continue;
        for (const [dx, dy] of [
          [1, 0],
          [2, 0],
          [0, 1],
          [0, 2],
          [1, 1],
          [-1, 1],
        ]) {
          if (x + dx < 0 || x + dx >= RASTER || y + dy >= RASTER) continue;
          const g = owner[(y + dy) * RASTER + x + dx];
          if (g >= 0 && islands.island[g] !== islands.island[f]) {
            close.add(islands.island[f]);
            close.add(islands.island[g]);
          }
        }
      }
    }
  }
  return close.size;
}

function sheetReports(model: Model, islands: Islands, owners: Int32Array[], densities: number[][]): SheetReport[] {
  return model.materials.map((material, m) => {
    const seen = new Set<number>();
    let triangles = 0;
    for (let f = 0; f < model.faceMaterial.length; f++)
      if (model.faceMaterial[f] === m) {
        triangles++;
        seen.add(islands.island[f]);
      }
    const sorted = densities[m].sort((a, b) => a - b);
    let covered = 0;
    for (const f of owners[m]) if (f >= 0) covered++;
    return {
      material: material.name,
      triangles,
      islands: seen.size,
      coverage: covered / (RASTER * RASTER),
      texelsPerMetre1024: sorted[sorted.length >> 1] ?? 0,
    };
  });
}

/** A set's index, or −1 when no set has UVs. */
export function firstUsableUvSet(model: Model): number {
  return model.uvs.findIndex((uv) => {
    for (let i = 0; i < uv.length; i += 2) if (Number.isFinite(uv[i])) return true;
    return false;
  });
}
