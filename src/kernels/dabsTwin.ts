/** Dabs in plain TypeScript (assembly/dabs.ts, laying.ts, paint.ts): rounded to float32 where those are. */
import { TILE_SIDE, type DabKernels, type TextureShape } from './dabs';
import { repeatedAt, toned, joined, tipShare, facingOfNormal, facingOfFace, givenInSpace } from './dabShares';

const f = Math.fround;
const TEXELS = TILE_SIDE * TILE_SIDE;

const code = (v: number): number => Math.trunc(f(f(v * 65535) + 0.5));

export const dabsTwin: DabKernels = {
  dabInSheet: (out, rect, tip, dx, dy, { a, b, c, d }) => {
    let gives = false;
    for (let y = rect.y0; y < rect.y1; y++) {
      const fy = f(f(dy) + y);
      const [bu, bv] = [f(fy * f(b)), f(fy * f(d))];
      for (let x = rect.x0; x < rect.x1; x++) {
        const fx = f(f(dx) + x);
        const share = tipShare(tip, f(f(fx * f(a)) + bu), f(f(fx * f(c)) + bv), 0);
        const i = y * TILE_SIDE + x;
        if (share > 0) gives = true;
        if (share > out[i]) out[i] = share;
      }
    }
    return gives;
  },
  dabOnSurface: (out, { position, normal, face }, blocks, dab, touched) => {
    const reach2 = f(dab.reach * dab.reach);
    const [cx, cy, cz] = [f(dab.x), f(dab.y), f(dab.z)];
    const byTexel = { normal: dab.normal.map((n) => f(f(n) / 127)) };
    for (const b of blocks) {
      const column = (b & 15) * 8;
      const top = (b >> 4) * 8;
      let gives = false;
      for (let y = top; y < top + 8; y++)
        for (let i = y * TILE_SIDE + column, end = i + 8; i < end; i++) {
          const o = i * 3;
          const [x, y, z] = [f(position[o] - cx), f(position[o + 1] - cy), f(position[o + 2] - cz)];
          if (!(f(f(f(x * x) + f(y * y)) + f(z * z)) < reach2)) continue;
          let share = facingOfFace(dab, face[i]);
          if (share === 0) continue;
          if (!dab.faces.bent[face[i]]) {
            share = Math.min(share, facingOfNormal(byTexel, normal[o], normal[o + 1], normal[o + 2]));
          }
          const given = f(share * givenInSpace(dab, x, y, z));
          if (given > 0) gives = true;
          if (given > out[i]) out[i] = given;
        }
      if (!gives) continue;
      touched.x0 = Math.min(touched.x0, column);
      touched.y0 = Math.min(touched.y0, top);
      touched.x1 = Math.max(touched.x1, column + 8);
      touched.y1 = Math.max(touched.y1, top + 8);
    }
  },
  layDab: (values, gains, { x0, y0, x1, y1 }, flow, cap, firm = 0) => {
    const [whole, by, held] = [f(cap), f(flow), f(firm)];
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE_SIDE + x0, end = y * TILE_SIDE + x1; i < end; i++) {
        if (gains[i] === 0) continue;
        const rest = f(held * f(1 - gains[i]));
        const most = f(whole * f(1 - rest));
        const old = values[i];
        if (old < most) values[i] = Math.min(most, f(old + f(f(f(most - old) * by) * f(gains[i] + rest))));
      }
  },
  layOwn: (planes, own, values, gains, { x0, y0, x1, y1 }, flow, cap, firm = 0) => {
    const [whole, by, held] = [f(cap), f(flow), f(firm)];
    if (whole === 0) return;
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE_SIDE + x0, end = y * TILE_SIDE + x1; i < end; i++) {
        if (gains[i] === 0) continue;
        const rest = f(held * f(1 - gains[i]));
        const most = f(whole * f(1 - rest));
        const a = f(by * f(gains[i] + rest));
        if (a === 0) continue;
        // Where `most` is 0 the quotient may be NaN: that counts as full, as in the kernel.
        const filled = f(values[i] / most);
        const before = filled < 1 ? filled : 1;
        const share = f(a / f(f(before + a) - f(before * a)));
        for (let k = 0, o = i; k < own.length; k++, o += TEXELS) planes[o] = f(planes[o] + f(f(f(own[k]) - planes[o]) * share));
      }
  },
  paintOver: ({ channels, coverage, amount, before, after, value, colours }, { x0, y0, x1, y1 }) => {
    const alpha = channels - 1;
    const by = f(amount);
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE_SIDE + x0, end = y * TILE_SIDE + x1; i < end; i++) {
        const as = f(coverage[i] * by);
        if (!(as > 0)) continue;
        const o = i * channels;
        const ab = before === null ? 0 : f(before[o + alpha] * f(1 / 65535));
        const ao = f(as + f(ab * f(1 - as)));
        const ws = f(as / ao);
        for (let k = 0; k < alpha; k++) {
          const v = colours === null ? f(value[k]) : colours[k * TEXELS + i];
          const own = f(v * 65535);
          const b = before === null ? 0 : before[o + k];
          const both = before === null ? own : f(f(own * ws) + f(b * f(1 - ws)));
          after[o + k] = Math.min(65535, Math.trunc(f(both + 0.5)));
        }
        after[o + alpha] = Math.min(65535, code(ao));
      }
  },
  clearRect: (plane, { x0, y0, x1, y1 }) => {
    for (let y = y0; y < y1; y++) plane.fill(0, y * TILE_SIDE + x0, y * TILE_SIDE + x1);
  },
  textureValues: (out, coverage, { x0, y0, x1, y1 }, texture, at) => {
    const scale = f(texture.scale);
    for (let y = y0; y < y1; y++)
      for (let x = x0; x < x1; x++) {
        const i = y * TILE_SIDE + x;
        if (!(out[i] < 0 && coverage[i] > 0)) continue;
        const value =
          'face' in at
            ? onBox(texture, at.position, at.normal, i * 3)
            : repeatedAt(texture.picture, f(f(f(f(at.x) + (x & ~3)) + (x & 3)) * scale), f(f(f(at.y) + y) * scale));
        out[i] = toned(texture, value);
      }
  },
  breakUp: (out, coverage, values, depths, { x0, y0, x1, y1 }, { depth, join }) => {
    const own = { depth, join };
    for (let y = y0; y < y1; y++)
      for (let i = y * TILE_SIDE + x0, end = y * TILE_SIDE + x1; i < end; i++) {
        if (depths) own.depth = Math.min(1, f(f(depth) * depths[i]));
        out[i] = coverage[i] > 0 ? joined(own, coverage[i], values[i]) : 0;
      }
  },
};

function onBox({ picture, scale: by }: TextureShape, position: Float32Array, normal: Int8Array, o: number): number {
  const scale = f(by);
  const x = f(position[o] * scale);
  const y = f(position[o + 1] * scale);
  const z = f(position[o + 2] * scale);
  const wx = weightOf(normal[o]);
  const wy = weightOf(normal[o + 1]);
  const wz = weightOf(normal[o + 2]);
  const least = f(f(f(wx + wy) + wz) * f(0.01));
  let sum = 0;
  let all = 0;
  if (wx > least) sum = f(wx * repeatedAt(picture, z, -y));
  if (wx > least) all = wx;
  if (wy > least) sum = f(sum + f(wy * repeatedAt(picture, x, z)));
  if (wy > least) all = f(all + wy);
  if (wz > least) sum = f(sum + f(wz * repeatedAt(picture, x, -y)));
  if (wz > least) all = f(all + wz);
  return all > 0 ? f(sum / all) : 0;
}

function weightOf(part: number): number {
  const t = f(part / 127);
  const square = f(t * t);
  return f(square * square);
}
