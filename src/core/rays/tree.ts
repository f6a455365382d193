/**
 * The tree of boxes that rays go through (kernels/rays.ts says how it lies). Split by the surface area heuristic over bins along
 * the widest axis of the middles (Wald, On fast construction of SAH-based bounding volume hierarchies, 2007), down to four
 * triangles; pairs of pairs then become one node of four.
 */
import { LEAF, NODE_BYTES, PACKET_BYTES, type Tree } from '../../kernels/rays';

export interface Triangles {
  positions: Float32Array;
  indices: Uint32Array;
}

const BINS = 16;
const MOST_IN_LEAF = 4;
/**
 * Boxes reach so much further, in shares of the largest coordinate: three steps of float32, in which the kernel works out where
 * a ray enters them.
 */
const MARGIN = 4e-7;

/** `faces`: only these of them. What is not finite, or has no area, is left out. A tree of nothing is never hit. */
export function treeOf({ positions, indices }: Triangles, faces?: Uint32Array): Tree {
  const boxes = boxesOf(positions, indices, faces);
  const split = new Splitter(boxes);
  split.run();
  return new Collapser(split, positions, indices).tree();
}

interface Boxes {
  count: number;
  face: Uint32Array;
  /** min x y z, max x y z a triangle. */
  bounds: Float32Array;
}

function boxesOf(p: Float32Array, indices: Uint32Array, faces?: Uint32Array): Boxes {
  const most = faces ? faces.length : indices.length / 3;
  const face = new Uint32Array(most);
  const bounds = new Float32Array(most * 6);
  let count = 0;
  for (let n = 0; n < most; n++) {
    const f = faces ? faces[n] : n;
    const a = indices[f * 3] * 3;
    const b = indices[f * 3 + 1] * 3;
    const c = indices[f * 3 + 2] * 3;
    const o = count * 6;
    let sum = 0;
    for (let k = 0; k < 3; k++) {
      const [u, v, w] = [p[a + k], p[b + k], p[c + k]];
      sum += u + v + w;
      bounds[o + k] = u < v ? (u < w ? u : w) : v < w ? v : w;
      bounds[o + 3 + k] = u > v ? (u > w ? u : w) : v > w ? v : w;
    }
    if (!Number.isFinite(sum) || a === b || b === c || a === c) continue;
    face[count++] = f;
  }
  return { count, face, bounds };
}

/** A tree of pairs: a node's two children follow each other; leaves have a count. */
class Splitter {
  readonly order: Uint32Array;
  /** Per node: first of its triangles in the order, how many of them if it is a leaf (else 0), its first child. */
  readonly first: Uint32Array;
  readonly count: Uint32Array;
  readonly child: Uint32Array;
  readonly bounds: Float32Array;
  private nodes = 1;
  private readonly binBounds = new Float32Array(BINS * 6);
  private readonly binCount = new Uint32Array(BINS);
  private readonly rightArea = new Float64Array(BINS);

  constructor(readonly boxes: Boxes) {
    const most = Math.max(1, boxes.count * 2);
    this.order = Uint32Array.from({ length: boxes.count }, (_, i) => i);
    this.first = new Uint32Array(most);
    this.count = new Uint32Array(most);
    this.child = new Uint32Array(most);
    this.bounds = new Float32Array(most * 6);
  }

  run(): void {
    const stack = [0];
    this.count[0] = this.boxes.count;
    this.enclose(0);
    while (stack.length) {
      const node = stack.pop()!;
      const count = this.count[node];
      if (count <= MOST_IN_LEAF) continue;
      const from = this.first[node];
      const middle = this.part(from, from + count);
      const left = this.nodes;
      this.nodes += 2;
      this.child[node] = left;
      this.count[node] = 0;
      this.first[left] = from;
      this.count[left] = middle - from;
      this.first[left + 1] = middle;
      this.count[left + 1] = from + count - middle;
      this.enclose(left);
      this.enclose(left + 1);
      stack.push(left, left + 1);
    }
  }

  private enclose(node: number): void {
    const { bounds, order } = this;
    const b = this.boxes.bounds;
    let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let i = this.first[node], end = i + this.count[node]; i < end; i++) {
      const o = order[i] * 6;
      if (b[o] < x0) x0 = b[o];
      if (b[o + 1] < y0) y0 = b[o + 1];
      if (b[o + 2] < z0) z0 = b[o + 2];
      if (b[o + 3] > x1) x1 = b[o + 3];
      if (b[o + 4] > y1) y1 = b[o + 4];
      if (b[o + 5] > z1) z1 = b[o + 5];
    }
    const o = node * 6;
    bounds[o] = x0;
    bounds[o + 1] = y0;
    bounds[o + 2] = z0;
    bounds[o + 3] = x1;
    bounds[o + 4] = y1;
    bounds[o + 5] = z1;
  }

  /** Puts the triangles from … to into two parts and says where the second begins. */
  private part(from: number, to: number): number {
    const { order } = this;
    const b = this.boxes.bounds;
    let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let i = from; i < to; i++) {
      const o = order[i] * 6;
      const x = b[o] + b[o + 3];
      const y = b[o + 1] + b[o + 4];
      const z = b[o + 2] + b[o + 5];
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
      if (z < z0) z0 = z;
      if (z > z1) z1 = z;
    }
    const [sx, sy, sz] = [x1 - x0, y1 - y0, z1 - z0];
    const axis = sx >= sy && sx >= sz ? 0 : sy >= sz ? 1 : 2;
    const low = axis === 0 ? x0 : axis === 1 ? y0 : z0;
    const span = Math.max(sx, sy, sz);
    const half = (from + to) >> 1;
    if (!(span > 0)) return half;
    const scale = BINS / span;
    this.fillBins(from, to, axis, low, scale);
    const cut = this.cheapest();
    if (cut < 0) return half;
    let [i, j] = [from, to - 1];
    while (i <= j) {
      const o = order[i] * 6 + axis;
      const bin = Math.min(BINS - 1, ((b[o] + b[o + 3] - low) * scale) | 0);
      if (bin <= cut) i++;
      else {
        const t = order[i];
        order[i] = order[j];
        order[j--] = t;
      }
    }
    return i > from && i < to ? i : half;
  }

  private fillBins(from: number, to: number, axis: number, low: number, scale: number): void {
    const { binBounds, binCount, order } = this;
    const b = this.boxes.bounds;
    binCount.fill(0);
    for (let o = 0; o < BINS * 6; o += 6) {
      binBounds.fill(Infinity, o, o + 3);
      binBounds.fill(-Infinity, o + 3, o + 6);
    }
    for (let i = from; i < to; i++) {
      const o = order[i] * 6;
      const bin = Math.min(BINS - 1, ((b[o + axis] + b[o + axis + 3] - low) * scale) | 0);
      binCount[bin]++;
      const t = bin * 6;
      if (b[o] < binBounds[t]) binBounds[t] = b[o];
      if (b[o + 1] < binBounds[t + 1]) binBounds[t + 1] = b[o + 1];
      if (b[o + 2] < binBounds[t + 2]) binBounds[t + 2] = b[o + 2];
      if (b[o + 3] > binBounds[t + 3]) binBounds[t + 3] = b[o + 3];
      if (b[o + 4] > binBounds[t + 4]) binBounds[t + 4] = b[o + 4];
      if (b[o + 5] > binBounds[t + 5]) binBounds[t + 5] = b[o + 5];
    }
  }

  /** The last bin of the left part where rays cost least; −1: all lie in one. */
  private cheapest(): number {
    const { binBounds, binCount, rightArea } = this;
    const box = new Float64Array(6);
    const grow = (bin: number) => {
      for (let k = 0; k < 3; k++) {
        box[k] = Math.min(box[k], binBounds[bin * 6 + k]);
        box[k + 3] = Math.max(box[k + 3], binBounds[bin * 6 + k + 3]);
      }
    };
    const empty = () => box.fill(Infinity, 0, 3).fill(-Infinity, 3, 6);
    empty();
    for (let bin = BINS - 1, n = 0; bin > 0; bin--) {
      if (binCount[bin] > 0) grow(bin);
      n += binCount[bin];
      rightArea[bin] = n > 0 ? areaOf(box, 0) * Math.ceil(n / MOST_IN_LEAF) : 0;
    }
    empty();
    let [best, cut, n, all] = [Infinity, -1, 0, 0];
    for (const c of binCount) all += c;
    for (let bin = 0; bin < BINS - 1; bin++) {
      if (binCount[bin] > 0) grow(bin);
      n += binCount[bin];
      if (n === 0 || n === all) continue;
      const cost = areaOf(box, 0) * Math.ceil(n / MOST_IN_LEAF) + rightArea[bin + 1];
      if (cost < best) [best, cut] = [cost, bin];
    }
    return cut;
  }
}

function areaOf(b: ArrayLike<number>, o: number): number {
  const [x, y, z] = [b[o + 3] - b[o], b[o + 4] - b[o + 1], b[o + 5] - b[o + 2]];
  return x * y + y * z + z * x;
}

/** Pairs become fours, and triangles packets. */
class Collapser {
  private nodes: Uint8Array;
  private packets: Uint8Array;
  private nodeFloats: Float32Array;
  private nodeWords: Uint32Array;
  private packetFloats: Float32Array;
  private packetWords: Uint32Array;
  private nodeCount = 0;
  private packetCount = 0;
  private readonly margin: number;

  constructor(
    private split: Splitter,
    private positions: Float32Array,
    private indices: Uint32Array,
  ) {
    const most = split.boxes.count + 1;
    // Leaves hold one triangle at least, and a node has two children at least.
    this.nodes = new Uint8Array(most * NODE_BYTES);
    this.packets = new Uint8Array(most * PACKET_BYTES);
    this.nodeFloats = new Float32Array(this.nodes.buffer);
    this.nodeWords = new Uint32Array(this.nodes.buffer);
    this.packetFloats = new Float32Array(this.packets.buffer);
    this.packetWords = new Uint32Array(this.packets.buffer);
    let largest = 0;
    for (let k = 0; k < 6 && split.boxes.count > 0; k++) largest = Math.max(largest, Math.abs(split.bounds[k]));
    this.margin = largest * MARGIN + 1e-30;
  }

  tree(): Tree {
    const { split } = this;
    if (split.boxes.count === 0) this.empty(this.nodeCount++);
    // The whole is one leaf: a node over it, as all others have.
    else if (split.count[0] > 0) this.write(this.nodeCount++, [0], [this.packet(0)]);
    else this.node();
    return {
      nodes: this.nodes.slice(0, this.nodeCount * NODE_BYTES),
      packets: this.packets.slice(0, this.packetCount * PACKET_BYTES),
    };
  }

  /** Depth first: a child is written right after its parent's earlier ones. */
  private node(): void {
    const { split } = this;
    const todo: { of: number; at: number }[] = [{ of: 0, at: this.nodeCount++ }];
    while (todo.length) {
      const { of, at } = todo.pop()!;
      const below = [split.child[of], split.child[of] + 1];
      while (below.length < 4) {
        let [widest, area] = [-1, -1];
        for (let n = 0; n < below.length; n++) {
          if (split.count[below[n]] > 0) continue;
          const a = areaOf(split.bounds, below[n] * 6);
          if (a > area) [widest, area] = [n, a];
        }
        if (widest < 0) break;
        const opened = below[widest];
        below.splice(widest, 1, split.child[opened], split.child[opened] + 1);
      }
      const children = below.map((b) => {
        if (split.count[b] > 0) return this.packet(b);
        const place = this.nodeCount++;
        todo.push({ of: b, at: place });
        return place;
      });
      this.write(at, below, children);
    }
  }

  private empty(at: number): void {
    const o = at * NODE_BYTES;
    this.nodes.fill(255, o + 24, o + 36);
    this.nodes.fill(0, o + 36, o + 48);
    this.nodeWords.fill(0, (o >> 2) + 12, (o >> 2) + 16);
    this.nodeFloats.fill(0, o >> 2, (o >> 2) + 3);
    this.nodeFloats.fill(1, (o >> 2) + 3, (o >> 2) + 6);
  }

  private write(at: number, below: readonly number[], children: readonly number[]): void {
    const { split, margin, nodes, nodeFloats } = this;
    this.empty(at);
    const o = at * NODE_BYTES;
    const word = o >> 2;
    for (let k = 0; k < 3; k++) {
      let [low, high] = [Infinity, -Infinity];
      for (const b of below) {
        low = Math.min(low, split.bounds[b * 6 + k] - margin);
        high = Math.max(high, split.bounds[b * 6 + k + 3] + margin);
      }
      // Steps of 1/253: with what float32 takes off, the last side still lies within 255.
      nodeFloats[word + k] = low - margin;
      nodeFloats[word + 3 + k] = (high - low + 2 * margin) / 253;
      const [origin, step] = [nodeFloats[word + k], nodeFloats[word + 3 + k]];
      below.forEach((b, lane) => {
        nodes[o + 24 + k * 4 + lane] = Math.max(0, Math.floor((split.bounds[b * 6 + k] - margin - origin) / step));
        nodes[o + 36 + k * 4 + lane] = Math.min(255, Math.ceil((split.bounds[b * 6 + k + 3] + margin - origin) / step));
      });
    }
    children.forEach((c, lane) => (this.nodeWords[word + 12 + lane] = c));
  }

  /** Writes a leaf's triangles; the child that stands for them. */
  private packet(leaf: number): number {
    const { split, positions: p, indices, packetFloats } = this;
    const at = this.packetCount++;
    const word = (at * PACKET_BYTES) >> 2;
    for (let lane = 0; lane < split.count[leaf]; lane++) {
      const face = split.boxes.face[split.order[split.first[leaf] + lane]];
      const a = indices[face * 3] * 3;
      const b = indices[face * 3 + 1] * 3;
      const c = indices[face * 3 + 2] * 3;
      for (let k = 0; k < 3; k++) {
        packetFloats[word + k * 4 + lane] = p[a + k];
        packetFloats[word + 12 + k * 4 + lane] = p[b + k] - p[a + k];
        packetFloats[word + 24 + k * 4 + lane] = p[c + k] - p[a + k];
      }
      this.packetWords[word + 36 + lane] = face;
    }
    return (LEAF | at) >>> 0;
  }
}
