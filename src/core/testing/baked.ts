/** Bakes of small models, whole, for tests. */
import { Baker } from '../bake/bake';
import { Ground } from '../rays/ground';
import type { Supersample } from '../rays/points';
import { Projector, type Matching, type Reach } from '../bake/project';
import { bakeSettingsSchema, type BakeSettings } from '../kinds/bakes';
import type { Model } from '../mesh/model';
import { buildSurfaceMap } from '../mesh/surfaceMap/build';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import { buildIslands, buildTopology } from '../mesh/topology';
import { tileIndex } from '../tile/tiles';

export interface Baked {
  size: number;
  map: SurfaceMap;
  missed: number;
  /** RGBA 0 … 1 of a texel; null where nothing is. */
  at: (x: number, y: number) => number[] | null;
  /** Calls for texels of the islands themselves (not the gutter) with their place on the model, values and face. */
  each: (visit: (value: number[], place: number[], face: number, x: number, y: number) => void) => void;
}

interface More {
  size?: number;
  material?: number;
  supersample?: Supersample;
  twin?: Model;
  colours?: Float32Array;
  reach?: Partial<Reach>;
  matching?: Matching;
}

export function baked(model: Model, settings: { type: BakeSettings['type'] } & Record<string, unknown>, more: More = {}): Baked {
  const { size = 64, material = 0, supersample = 1 } = more;
  const islands = buildIslands(model, buildTopology(model), model.uvs[0]);
  const map = buildSurfaceMap({ model, islands, uv: model.uvs[0], materialIndex: material, width: size, height: size });
  const low = new Ground(model, { islands: islands.island });
  const ground = more.twin && new Ground(more.twin, { colours: more.colours });
  const reach = { outward: 0.1, inward: 0.1, split: 0, ...more.reach };
  const twin = ground ? { ground, projector: new Projector(low, ground, reach, more.matching ?? null) } : null;
  const baker = new Baker({ settings: bakeSettingsSchema.parse(settings), low, map, supersample, twin });
  const tiles = new Map([...map.tiles.keys()].map((t) => [t, baker.tile(t)]));
  const at = (x: number, y: number) => {
    const data = tiles.get(tileIndex(x >> 7, y >> 7))?.data;
    const o = ((y & 127) * 128 + (x & 127)) * 4;
    return data && data[o + 3] ? [...data.subarray(o, o + 4)].map((v) => v / 65535) : null;
  };
  return {
    size,
    map,
    missed: [...tiles.values()].reduce((n, t) => n + (t?.missed ?? 0), 0),
    at,
    each: (visit) => {
      for (const tile of map.tiles.values())
        for (let i = 0; i < tile.face.length; i++) {
          const f = tile.face[i];
          const [x, y] = [tile.x * 128 + (i % 128), tile.y * 128 + Math.floor(i / 128)];
          if (f < 0 || !inside(map, f, x + 0.5, y + 0.5)) continue;
          const value = at(x, y);
          if (value) visit(value, [...tile.position.subarray(i * 3, i * 3 + 3)], f, x, y);
        }
    },
  };
}

function inside({ cornersTexels: c }: SurfaceMap, f: number, px: number, py: number): boolean {
  const o = f * 6;
  const [ux, uy, vx, vy] = [c[o + 2] - c[o], c[o + 3] - c[o + 1], c[o + 4] - c[o], c[o + 5] - c[o + 1]];
  const area = ux * vy - vx * uy;
  const w1 = ((px - c[o]) * vy - vx * (py - c[o + 1])) / area;
  const w2 = (ux * (py - c[o + 1]) - (px - c[o]) * uy) / area;
  return w1 >= -1e-6 && w2 >= -1e-6 && w1 + w2 <= 1 + 1e-6;
}

/** A ball of rings and wedges, shaded smoothly; UVs by longitude and latitude, with a seam. `inner`: turned inside out. */
export function ballModel(
  radius: number,
  rings = 48,
  wedges = 96,
  over: Partial<{ hollow: boolean; torus: number }> = {},
): Model {
  const { hollow = false, torus = 0 } = over;
  const positions: number[] = [];
  const normals: number[] = [];
  const uv: number[] = [];
  const indices: number[] = [];
  for (let i = 0; i <= rings; i++)
    for (let j = 0; j <= wedges; j++) {
      const a = torus ? (i / rings) * 2 * Math.PI : (i / rings) * Math.PI;
      const b = (j / wedges) * 2 * Math.PI;
      // A ring around Y: the tube begins on top. A ball: from the top down.
      const [across, up] = [Math.sin(a), Math.cos(a)];
      const n = [across * Math.cos(b), up, -across * Math.sin(b)];
      positions.push(torus * Math.cos(b) + radius * n[0], radius * up, -torus * Math.sin(b) + radius * n[2]);
      normals.push(...n.map((v) => (hollow ? -v : v)));
      uv.push(0.05 + (0.9 * j) / wedges, 0.05 + (0.9 * i) / rings);
    }
  for (let i = 0; i < rings; i++)
    for (let j = 0; j < wedges; j++) {
      const a = i * (wedges + 1) + j;
      const [b, c, d] = [a + wedges + 1, a + wedges + 2, a + 1];
      const two = [
        [a, b, c],
        [a, c, d],
      ];
      for (const [x, y, z] of two) {
        const same = !torus && ((i === 0 && x === a && z === d) || (i === rings - 1 && y === b));
        if (!same) indices.push(...(hollow ? [x, z, y] : [x, y, z]));
      }
    }
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: [Float32Array.from(uv)],
    indices: Uint32Array.from(indices),
    facePart: new Uint16Array(indices.length / 3),
    faceMaterial: new Uint16Array(indices.length / 3),
    parts: ['Ball'],
    materials: [],
    fileVertices: positions.length / 3,
    notes: [],
  };
}

/** Several models as one, each part named after its place in the list; UVs of the first only are within the sheet. */
export function together(...models: Model[]): Model {
  const sum = (n: number) => models.slice(0, n).reduce((s, m) => s + m.positions.length / 3, 0);
  const numbers = (of: (m: Model) => ArrayLike<number>) => models.flatMap((m) => Array.from(of(m)));
  return {
    ...models[0],
    positions: Float32Array.from(numbers((m) => m.positions)),
    normals: Float32Array.from(numbers((m) => m.normals)),
    uvs: [Float32Array.from(numbers((m) => m.uvs[0]))],
    indices: Uint32Array.from(models.flatMap((m, n) => Array.from(m.indices, (v) => v + sum(n)))),
    facePart: Uint16Array.from(models.flatMap((m, n) => Array.from(m.facePart, () => n))),
    // Only the first is on the sheet.
    faceMaterial: Uint16Array.from(models.flatMap((m, n) => Array.from(m.facePart, () => (n === 0 ? 0 : 1)))),
    parts: models.map((_, n) => `Part ${n}`),
  };
}
