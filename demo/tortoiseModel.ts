/** The courier tortoise of Saltglass: shell, hide, satchels and straps. The same on both sides; its UVs are not. */
import type { Model } from '../src/core/mesh/model';
import { MeshScript, type Point } from './meshScript';

const TAU = Math.PI * 2;

/** A surface over (s, t), 0 … 1: what is modelled, and what strokes are drawn along. */
export type Patch = (s: number, t: number) => Point;

/** Signed power: what makes a circle square. */
const pow = (v: number, e: number) => Math.sign(v) * Math.abs(v) ** e;

/** Plates of the shell around its middle: rows from the rim up, how many, and where their edges are. */
export const PLATES = [
  { from: 0, to: 0.42, count: 10 },
  { from: 0.42, to: 0.8, count: 6 },
  { from: 0.8, to: 1, count: 1 },
] as const;

/** 0 in the furrows between plates, 1 in their middles. */
export function plateAt(s: number, t: number): { height: number; row: number; plate: number; along: number; up: number } {
  const row = PLATES.findIndex((p) => t <= p.to);
  const { from, to, count } = PLATES[row < 0 ? 2 : row];
  const up = (t - from) / (to - from);
  const turns = s * count;
  const plate = Math.floor(turns) % count;
  const along = turns - Math.floor(turns);
  const side = count === 1 ? 1 : Math.min(1, Math.min(along, 1 - along) * 7);
  const level = Math.min(1, Math.min(up * (row === 0 ? 9 : 6), row === 2 || row < 0 ? 1 : (1 - up) * 6));
  return { height: Math.min(side, level), row: row < 0 ? 2 : row, plate, along, up };
}

export const shell: Patch = (s, t) => {
  const a = s * TAU;
  const lift = Math.min(1, Math.max(0, t)) * (Math.PI / 2);
  const out = Math.cos(lift) ** 0.82;
  const { height, along, up } = plateAt(((s % 1) + 1) % 1, t);
  const swell =
    0.011 * (height * height * (3 - 2 * height)) + 0.008 * Math.sin(Math.PI * along) * Math.sin(Math.PI * Math.min(1, up));
  const k = 1 + swell * 3;
  return [Math.sin(a) * 0.225 * out * k, 0.165 + 0.235 * Math.sin(lift) ** 1.05 + swell, Math.cos(a) * 0.31 * out * k - 0.01];
};

export const rim: Patch = (s, t) => {
  const a = s * TAU;
  const b = -t * TAU;
  const scallop = 1 + 0.12 * Math.abs(Math.sin(a * 11));
  const out = 0.03 * Math.cos(b) * scallop;
  return [Math.sin(a) * (0.232 + out), 0.158 + 0.022 * Math.sin(b) + 0.012 * Math.cos(2 * a), Math.cos(a) * (0.317 + out) - 0.01];
};

export const belly: Patch = (s, t) => {
  const a = s * TAU;
  const out = Math.sin((t * Math.PI) / 2) ** 0.55;
  return [Math.sin(a) * 0.222 * out, 0.088 + 0.062 * t ** 3, Math.cos(a) * 0.305 * out - 0.01];
};

export const head: Patch = (s, t) => {
  const a = s * TAU;
  const b = t * Math.PI;
  // From the back of the head to the beak.
  const z = -Math.cos(b);
  const taper = z > 0 ? 1 - 0.34 * z * z : 1;
  const brow = 1 + 0.13 * Math.exp(-((z - 0.25) ** 2) / 0.08) * Math.max(0, Math.cos(a));
  return [
    Math.sin(a) * Math.sin(b) * 0.058 * taper,
    0.262 + Math.cos(a) * Math.sin(b) * 0.056 * taper * brow - 0.012 * z,
    0.405 + z * 0.088,
  ];
};

const neckPath = (t: number): Point => [0, 0.172 + 0.085 * t ** 0.8, 0.235 + 0.14 * t];
export const neck: Patch = (s, t) => {
  const p = neckPath(t);
  const r = 0.062 - 0.018 * t + 0.004 * Math.cos(t * 26);
  return [p[0] + Math.sin(s * TAU) * r, p[1] + Math.cos(s * TAU) * r * 0.92, p[2] - Math.cos(s * TAU) * r * 0.35];
};

/** `side`: 1 left, −1 right. `end`: 1 fore, −1 hind. */
export const leg =
  (side: number, end: number): Patch =>
  (s, t) => {
    const a = s * TAU;
    const y = 0.165 * t;
    const r = 0.052 + 0.014 * (1 - t) ** 6 + 0.016 * t ** 2 - 0.006 * Math.sin(t * Math.PI) + 0.0025 * Math.cos(t * 34);
    const lean = 0.042 * (1 - t);
    return [side * (0.142 + lean) + Math.sin(a) * r, y, end * (0.2 + lean * 0.7) - 0.01 + Math.cos(a) * r * 1.06];
  };

/** The sole: from the rim of the foot inward. */
export const sole =
  (side: number, end: number): Patch =>
  (s, t) => {
    const [x, , z] = leg(side, end)(s, 0);
    const [cx, cz] = [side * (0.142 + 0.042), end * (0.2 + 0.042 * 0.7) - 0.01];
    return [cx + (x - cx) * t, 0, cz + (z - cz) * t];
  };

export const tail: Patch = (s, t) => {
  const r = 0.03 * (1 - t) ** 0.7 + 0.0005;
  return [Math.sin(s * TAU) * r, 0.15 - 0.075 * t + Math.cos(s * TAU) * r, -0.29 - 0.11 * t + 0.3 * r * Math.cos(s * TAU)];
};

const box =
  (centre: Point, half: Point, square: number): Patch =>
  (s, t) => {
    const a = s * TAU;
    const b = (t - 0.5) * Math.PI;
    return [
      centre[0] + pow(Math.sin(a), square) * pow(Math.cos(b), square) * half[0],
      centre[1] + pow(Math.sin(b), square) * half[1],
      centre[2] + pow(Math.cos(a), square) * pow(Math.cos(b), square) * half[2],
    ];
  };
export const satchel = (side: number): Patch => box([side * 0.262, 0.212, -0.015], [0.044, 0.078, 0.108], 0.34);
export const flap = (side: number): Patch => box([side * 0.266, 0.262, -0.015], [0.046, 0.036, 0.112], 0.3);
export const buckle = (side: number, z: number): Patch => box([side * 0.313, 0.222, z], [0.006, 0.014, 0.011], 0.35);
export const eye =
  (side: number): Patch =>
  (s, t) => {
    const [a, b] = [s * TAU, (t - 0.5) * Math.PI];
    return [
      side * 0.046 + Math.sin(a) * Math.cos(b) * 0.012,
      0.281 + Math.sin(b) * 0.012,
      0.432 + Math.cos(a) * Math.cos(b) * 0.012,
    ];
  };

/** Over the shell from one satchel to the other. */
const strapLine =
  (z: number) =>
  (t: number): Point => {
    const a = (t - 0.5) * Math.PI * 1.02;
    const flat = Math.sqrt(Math.max(0.05, 1 - ((z + 0.01) / 0.31) ** 2));
    return [Math.sin(a) * (0.238 * flat + 0.012), 0.178 + 0.238 * flat * Math.max(0, Math.cos(a)) ** 0.78, z];
  };
export const STRAPS = [0.075, -0.105] as const;
const WIDE = 0.019;
const THICK = 0.0045;
/** t runs around the band: its outer face lies from 0.06 to 0.44. */
export const strap =
  (z: number): Patch =>
  (s, t) => {
    const line = strapLine(z);
    const [p, q] = [line(Math.max(0, s - 0.002)), line(Math.min(1, s + 0.002))];
    const way = [q[0] - p[0], q[1] - p[1]];
    const l = Math.hypot(way[0], way[1]) || 1;
    const [nx, ny] = [-way[1] / l, way[0] / l];
    const a = t * TAU;
    const [u, v] = [pow(Math.cos(a), 0.4) * WIDE, pow(Math.sin(a), 0.4) * THICK];
    const c = line(s);
    return [c[0] + nx * v, c[1] + ny * v, c[2] + u];
  };

/** Its outer side is the other one. */
const turnedOver =
  (patch: Patch): Patch =>
  (s, t) =>
    patch(1 - s, t);

export function tortoiseModel(): Model {
  const m = new MeshScript([MeshScript.material('Tortoise', { baseColourLinear: [0.2, 0.15, 0.08, 1], roughness: 0.8 })]);
  const put = (part: number, columns: number, rows: number, patch: Patch) => m.surface(part, 0, columns, rows, patch);
  const shellPart = m.part('Shell');
  put(shellPart, 72, 22, shell);
  put(shellPart, 66, 8, turnedOver(rim));
  put(shellPart, 40, 6, belly);
  const hide = m.part('Hide');
  put(hide, 30, 18, turnedOver(head));
  put(hide, 24, 10, turnedOver(neck));
  put(hide, 16, 6, tail);
  for (const side of [1, -1])
    for (const end of [1, -1]) {
      put(hide, 22, 12, leg(side, end));
      put(hide, 22, 2, sole(side, end));
    }
  const eyes = m.part('Eyes');
  for (const side of [1, -1]) put(eyes, 12, 8, eye(side));
  const bags = m.part('Satchels');
  for (const side of [1, -1]) {
    put(bags, 28, 14, satchel(side));
    put(bags, 28, 10, flap(side));
    for (const z of [0.035, -0.065]) put(bags, 12, 6, buckle(side, z));
  }
  const straps = m.part('Straps');
  for (const z of STRAPS) put(straps, 48, 12, strap(z));
  return m.build(0.008);
}
