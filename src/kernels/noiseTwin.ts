/** Lattice noise in plain TypeScript: what assembly/noise.ts means. Coordinates are rounded to float32 where it rounds them. */
import { cellBits } from './hash';
import type { NoiseKernels, Octave } from './kernels';

const f = Math.fround;
const KX = 0x9e3779b1;
const KY = 0x85ebca77;
const KZ = 0xc2b2ae3d;

export function scramble(h: number): number {
  h ^= h >>> 16;
  h = Math.imul(h, 0x7feb352d);
  h ^= h >>> 15;
  h = Math.imul(h, 0x846ca68b);
  return h ^ (h >>> 16);
}

function stir(h: number): number {
  h ^= h >>> 15;
  h = Math.imul(h, 0x2c1b3c6d);
  return h ^ (h >>> 14);
}

const wrapped = (i: number, p: number): number => (p === 0 ? i : i - Math.floor((i + 0.5) / p) * p);
const product = (i: number, k: number): number => Math.imul(cellBits(i), k);
const unit = (h: number): number => (h >>> 8) / 16777216;

function slope(h: number, x: number, y: number, z: number): number {
  const low = h >>> 28;
  const u = low < 8 ? x : y;
  const v = low < 4 ? y : low === 12 || low === 14 ? x : z;
  return (low & 1 ? -u : u) + (low & 2 ? -v : v);
}

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);

function gradient(x: number, y: number, z: number, o: Octave): number {
  const [ix, iy, iz] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [fx, fy, fz] = [x - ix, y - iy, z - iz];
  const hx = [product(wrapped(ix, o.px), KX), product(wrapped(ix + 1, o.px), KX)];
  const hy = [product(wrapped(iy, o.py), KY), product(wrapped(iy + 1, o.py), KY)];
  const hz = [product(wrapped(iz, o.pz), KZ), product(wrapped(iz + 1, o.pz), KZ)];
  const u = fade(fx);
  const corner = (a: number, b: number, c: number) => slope(stir(hx[a] ^ hy[b] ^ hz[c] ^ o.seed), fx - a, fy - b, fz - c);
  const along = (b: number, c: number) => {
    const low = corner(0, b, c);
    return low + u * (corner(1, b, c) - low);
  };
  const v = fade(fy);
  const face = (c: number) => {
    const low = along(0, c);
    return low + v * (along(1, c) - low);
  };
  const low = face(0);
  return low + fade(fz) * (face(1) - low);
}

const PLANE_SCALE = f(0.563);

function slope2(h: number, x: number, y: number): number {
  const [u, v] = h < 0 ? [x, y] : [y, x];
  return ((h << 1) & 0x80000000 ? -u : u) + 2 * ((h << 2) & 0x80000000 ? -v : v);
}

function gradient2(x: number, y: number, o: Octave): number {
  const [ix, iy] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [x - ix, y - iy];
  const corner = (a: number, b: number) =>
    slope2(stir(product(wrapped(ix + a, o.px), KX) ^ product(wrapped(iy + b, o.py), KY) ^ o.seed), fx - a, fy - b);
  const u = fade(fx);
  const along = (b: number) => {
    const low = corner(0, b);
    return low + u * (corner(1, b) - low);
  };
  const low = along(0);
  return (low + fade(fy) * (along(1) - low)) * PLANE_SCALE;
}

/** Cells of a row in the order in which they are asked. */
const CELLS = [0, -1, 1, -2, 2];
/** Points nearer to each other than this, squared, are one. */
const SAME = 1e-9;

export const noiseTwin: NoiseKernels = {
  noiseFractal: (out, x, y, z, octaves, mode) => {
    for (let i = 0; i < out.length; i++) {
      let sum = 0;
      for (const o of octaves) {
        const [px, py] = [f(x[i] * f(o.fx)), f(y[i] * f(o.fy))];
        const v = z ? gradient(px, py, f(z[i] * f(o.fz)), o) : gradient2(px, py, o);
        const ridge = 1 - Math.abs(v);
        sum += o.amplitude * (mode === 'ridges' ? ridge * ridge : mode === 'billows' ? Math.abs(v) : v);
      }
      out[i] = sum;
    }
  },
  noiseHash: (out, x, y, z, o) => {
    for (let i = 0; i < out.length; i++) {
      const hx = product(wrapped(Math.floor(f(x[i] * f(o.fx))), o.px), KX);
      const hy = product(wrapped(Math.floor(f(y[i] * f(o.fy))), o.py), KY);
      const hz = product(wrapped(Math.floor(f(z[i] * f(o.fz))), o.pz), KZ);
      out[i] = unit(scramble(hx ^ hy ^ hz ^ o.seed));
    }
  },
  noiseCells: (near, edge, id, xs, ys, zs, o, jitter, flat) => {
    const start = 0.5 - 0.5 * jitter;
    /** Calls for the points of the cells around, in the kernel's order, so that ties fall the same way; it leaves out what cannot be near. */
    const each = (x: number, y: number, z: number, visit: (vx: number, vy: number, vz: number, h: number) => void) => {
      const [ix, iy, iz] = [Math.floor(x), Math.floor(y), Math.floor(z)];
      for (const dz of flat ? [0] : CELLS)
        for (const dy of CELLS)
          for (const dx of CELLS) {
            const [cx, cy, cz] = [ix + dx, iy + dy, iz + dz];
            const h = stir(
              product(wrapped(cx, o.px), KX) ^ product(wrapped(cy, o.py), KY) ^ product(wrapped(cz, o.pz), KZ) ^ o.seed,
            );
            const vx = cx + start + ((h >>> 22) / 1024) * jitter - x;
            const vy = cy + start + (((h >>> 12) & 1023) / 1024) * jitter - y;
            const vz = flat ? 0 : cz + start + (((h >>> 2) & 1023) / 1024) * jitter - z;
            visit(vx, vy, vz, h);
          }
    };
    for (let i = 0; i < near.length; i++) {
      const [x, y, z] = [f(xs[i] * f(o.fx)), f(ys[i] * f(o.fy)), flat ? 0 : f(zs[i] * f(o.fz))];
      let [square, best] = [1e9, 0];
      let a = [0, 0, 0];
      each(x, y, z, (vx, vy, vz, h) => {
        const d = vx * vx + vy * vy + vz * vz;
        if (d < square) [square, a, best] = [d, [vx, vy, vz], h];
      });
      near[i] = Math.sqrt(square);
      id[i] = unit(scramble(best ^ 0x5bd1e995));
      if (!edge) continue;
      let least = 4;
      each(x, y, z, (vx, vy, vz) => {
        const apart = (vx - a[0]) ** 2 + (vy - a[1]) ** 2 + (vz - a[2]) ** 2;
        if (apart > SAME) least = Math.min(least, ((vx * vx + vy * vy + vz * vz - square) * 0.5) / Math.sqrt(apart));
      });
      edge[i] = least;
    }
  },
};
