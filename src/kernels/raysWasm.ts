/** Rays in WebAssembly SIMD (assembly/rays.ts): each tree in a memory of its own. */
import { MOST_DIRECTIONS, MOST_POINTS, POINT_NUMBERS, RAY_TURNS, type Directions, type Rays, type Tree } from './rays';

type Numbers = (...args: number[]) => void;
interface Exports {
  scene: Numbers;
  occlusion: Numbers;
  depth: Numbers;
  hits: Numbers;
}

const PAGE = 65536;
/** The stack lies in the first page (assembly/rays.ts). */
const TURNS_AT = 8192;
const POINTS_AT = PAGE;
const OUT_AT = POINTS_AT + MOST_POINTS * POINT_NUMBERS * 4;
const DIRECTIONS_AT = OUT_AT + MOST_POINTS * 16;
const TREE_AT = DIRECTIONS_AT + MOST_DIRECTIONS * 12;
/** 4 GiB, as the module is built (cli/kernels.ts). */
const MOST_PAGES = 65536;

let compiled: WebAssembly.Module | null = null;

/** Throws where there is no memory for the tree. */
export function raysWasm(base64: string, { nodes, packets }: Tree): Rays {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)));
  const packetsAt = TREE_AT + nodes.length;
  const memory = new WebAssembly.Memory({ initial: Math.ceil((packetsAt + packets.length) / PAGE), maximum: MOST_PAGES });
  const instance = new WebAssembly.Instance(compiled, { env: { memory, abort: () => {} } });
  const k = instance.exports as unknown as Exports;
  const bytes = new Uint8Array(memory.buffer);
  bytes.set(nodes, TREE_AT);
  bytes.set(packets, packetsAt);
  const f32 = new Float32Array(memory.buffer);
  f32.set(RAY_TURNS, TURNS_AT >> 2);
  k.scene(TREE_AT, packetsAt);
  let known: Directions | null = null;
  const look = (to: Directions) => {
    if (to === known) return;
    f32.set(to.data, DIRECTIONS_AT >> 2);
    known = to;
  };
  const give = (from: Float32Array, count: number, size: number) => {
    if (count > MOST_POINTS) throw new Error(`${count} points at a time, not up to ${MOST_POINTS}`);
    f32.set(from.subarray(0, count * size), POINTS_AT >> 2);
  };
  const take = (out: Float32Array, length: number) => out.set(f32.subarray(OUT_AT >> 2, (OUT_AT >> 2) + length));
  return {
    occlusion: (points, count, to, { reach, bias, cull }, out) => {
      look(to);
      give(points, count, POINT_NUMBERS);
      k.occlusion(POINTS_AT, count, DIRECTIONS_AT, to.sets, to.samples, TURNS_AT, reach, bias, cull ? 1 : 0, OUT_AT);
      take(out, count * 4);
    },
    depth: (points, count, to, { reach, bias }, out) => {
      look(to);
      give(points, count, POINT_NUMBERS);
      k.depth(POINTS_AT, count, DIRECTIONS_AT, to.sets, to.samples, TURNS_AT, reach, bias, OUT_AT);
      take(out, count);
    },
    hits: (rays, count, cull, out) => {
      give(rays, count, 8);
      k.hits(POINTS_AT, count, cull ? 1 : 0, OUT_AT);
      take(out, count * 4);
    },
  };
}
