/** Dense twins of the demo models: each triangle cut into many, and what a sculptor would do to them. */
import '../src/core/compute';
import { kernels } from '../src/core/kernels';
import { averagedNormals } from '../src/core/bake/project';
import { computeNormals, type Model } from '../src/core/mesh/model';
import { joinPlaces } from '../src/core/mesh/readScan';
import { convexEdges, EdgeGrid } from '../src/core/mesh/sharpEdges';
import { weldCorners } from '../src/core/mesh/topology';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { seededRandom } from '../src/core/testing/models';
import { lanternModel } from './lanternModel';
import { fractal3, smoothstep } from './noise';
import { tortoiseModel } from './tortoiseModel';

interface Place {
  at: readonly [number, number, number];
  part: string;
  /** How far the next sharp edge is, at most `EDGE`. */
  edge: number;
}

/** Model units. */
const EDGE = 0.008;

/** How far a place is from the edges of its side, at most `EDGE`. `list`: scratch. */
function awayFrom(edges: EdgeGrid, at: number[], n: number[], list: number[]): number {
  const listed = edges.near([...at, ...at], EDGE, list);
  const away = new Float32Array(4);
  const place = Float32Array.from([...at, ...n].flatMap((v) => [v, v, v, v]));
  kernels().segments(place, 4, 4, edges.listed(list), listed, EDGE, away);
  return away[0];
}

/** Every triangle cut into cuts² ones, whose corners go in or out by `relief`, along the mean of the faces' normals around them. */
function sculpted(model: Model, cuts: number, relief: (place: Place) => number): Model {
  const corner = weldCorners(model);
  const out = averagedNormals({ model, corner });
  const edges = new EdgeGrid(convexEdges(model, corner, (25 * Math.PI) / 180), 0.02);
  const { positions: p, indices, facePart, faceMaterial } = model;
  const faces = indices.length / 3;
  const soup = new Float32Array(faces * cuts * cuts * 9);
  const list: number[] = [];
  let o = 0;
  for (let f = 0; f < faces; f++) {
    const part = model.parts[facePart[f]];
    const grid: number[][] = [];
    for (let row = 0; row <= cuts; row++)
      for (let k = 0; k <= cuts - row; k++) {
        const w = [(cuts - row - k) / cuts, k / cuts, row / cuts];
        const at = [0, 0, 0];
        const n = [0, 0, 0];
        for (let c = 0; c < 3; c++)
          for (let a = 0; a < 3; a++) {
            at[a] += p[indices[f * 3 + c] * 3 + a] * w[c];
            n[a] += out[(f * 3 + c) * 3 + a] * w[c];
          }
        const l = Math.hypot(...n) || 1;
        const edge = awayFrom(
          edges,
          at.map((v) => Math.round(v * 1e7) / 1e7),
          n.map((v) => v / l),
          list,
        );
        const by = relief({ at: at as [number, number, number], part, edge });
        // Equal to the last bit on both sides of an edge: rounded to a grid far below what is seen.
        grid.push(at.map((v, a) => Math.round((v + (n[a] / l) * by) * 1e7) / 1e7));
      }
    let start = 0;
    for (let row = 0; row < cuts; row++) {
      const next = start + cuts - row + 1;
      for (let k = 0; k < cuts - row; k++) {
        for (const i of [start + k, start + k + 1, next + k]) soup.set(grid[i], (o += 3) - 3);
        if (k < cuts - row - 1) for (const i of [start + k + 1, next + k + 1, next + k]) soup.set(grid[i], (o += 3) - 3);
      }
      start = next;
    }
  }
  const joined = joinPlaces(soup);
  const each = cuts * cuts;
  const spread = (of: Uint16Array) => Uint16Array.from({ length: faces * each }, (_, i) => of[Math.floor(i / each)]);
  return {
    ...model,
    positions: joined.positions,
    normals: computeNormals(joined.positions, joined.indices),
    indices: joined.indices,
    uvs: [],
    facePart: spread(facePart),
    faceMaterial: spread(faceMaterial),
    parts: model.parts.map((name) => `${name}_dense`),
    fileVertices: joined.positions.length / 3,
  };
}

/** Hollows that something hit: middle, radius and depth. */
function dents(count: number, seed: number, within: readonly [number, number, number][]): number[][] {
  const random = seededRandom(seed);
  return Array.from({ length: count }, () => {
    const at = within[Math.floor(random() * within.length)];
    return [...at.map((v) => v + (random() - 0.5) * 0.01), 0.008 + random() * 0.014, 0.0012 + random() * 0.002];
  });
}
const dented = (list: readonly number[][], [x, y, z]: readonly number[]): number =>
  list.reduce((deep, [dx, dy, dz, radius, depth]) => {
    const d = Math.hypot(x - dx, y - dy, z - dz) / radius;
    return d < 1 ? deep - depth * (1 - d * d) ** 2 : deep;
  }, 0);

/** Brass that was hammered and has fallen more than once: facets of the hammer, dents, chipped and rounded edges. */
export function lanternTwin(): Model {
  const model = lanternModel();
  const some = Array.from({ length: 400 }, (_, i) => {
    const v = ((i * 7919) % (model.positions.length / 3)) * 3;
    return [model.positions[v], model.positions[v + 1], model.positions[v + 2]] as [number, number, number];
  });
  const list = dents(46, 12, some);
  return sculpted(model, 6, ({ at: [x, y, z], part, edge }) => {
    if (/glass/i.test(part)) return 0;
    const hammer = (fractal3(x * 95, y * 95, z * 95, 31, 2) - 0.5) * 0.0011;
    const worn = 1 - smoothstep(0, EDGE, edge);
    const chips = Math.max(0, fractal3(x * 130, y * 130, z * 130, 57, 3) - 0.52) * 0.02;
    return hammer * (1 - worn) - worn * (0.0004 + chips * worn) + dented(list, [x, y, z]);
  });
}

/** Growth rings on the scutes, folds in the hide, grain and stretch in the leather. */
export function tortoiseTwin(): Model {
  return sculpted(tortoiseModel(), 4, ({ at: [x, y, z], part, edge }) => {
    const worn = 1 - smoothstep(0, EDGE, edge);
    if (/shell|plate|rim/i.test(part)) {
      const rings = Math.sin(Math.hypot(x, z) * 520 + fractal3(x * 30, y * 30, z * 30, 3, 3) * 9) * 0.0004;
      return rings - worn * 0.0006 - Math.max(0, fractal3(x * 60, y * 60, z * 60, 8, 3) - 0.6) * 0.006;
    }
    if (/hide/i.test(part)) {
      const folds = Math.abs(fractal3(x * 46, y * 92, z * 46, 21, 4) - 0.5) * 2;
      return -0.0022 * (1 - smoothstep(0, 0.22, folds)) + (fractal3(x * 240, y * 240, z * 240, 5, 2) - 0.5) * 0.0007;
    }
    return (fractal3(x * 300, y * 300, z * 300, 14, 2) - 0.5) * 0.0006 - worn * 0.0005;
  });
}

export const TWINS = { lantern: lanternTwin, tortoise: tortoiseTwin };

/** A name that is the same as long as the script is. */
export const twinFile = async (which: keyof typeof TWINS): Promise<Uint8Array> => writeGlb(TWINS[which]());
