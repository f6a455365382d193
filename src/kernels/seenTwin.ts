/** What an eye sees of a block of texels (assembly/seen.ts), in float64. */
import { TILE_SIDE } from './dabs';
import { BLOCK_SIDE, MOST_ASKED, MOST_PIXELS, NEARER, OWN_DEPTHS, SETTINGS, type EyeBuffer, type SeenKernels } from './seen';

const asked = new Int32Array(MOST_ASKED);

export const seenTwin: SeenKernels = {
  projectBlock: (eye, { face, position }, first, backs) => {
    const { facing, settings: m, texel, x: px, y: py, near: near1, seen } = eye;
    const [x0, y0, x1, y1] = m.subarray(SETTINGS.box, SETTINGS.box + 4);
    const front = eye.buffer.length > 0;
    let count = 0;
    for (let row = first; row < first + BLOCK_SIDE * TILE_SIDE; row += TILE_SIDE)
      for (let i = row; i < row + BLOCK_SIDE; i++) {
        const f = face[i];
        if (f < 0) continue;
        const side = facing[f];
        if (side === 0 || (side < 0 && !backs)) continue;
        const o = i * 3;
        const x = position[o];
        const y = position[o + 1];
        const z = position[o + 2];
        const w = m[8] * x + m[9] * y + m[10] * z + m[11];
        if (!(w > 0)) continue;
        const near = 1 / w;
        const sx = (m[0] * x + m[1] * y + m[2] * z + m[3]) * near;
        const sy = (m[4] * x + m[5] * y + m[6] * z + m[7]) * near;
        if (sx < x0 || sy < y0 || sx >= x1 || sy >= y1) continue;
        texel[count] = i;
        px[count] = sx;
        py[count] = sy;
        near1[count] = near;
        seen[count++] = !front || inFront(eye, f, sx, sy, near) ? 1 : 0;
      }
    return count;
  },
  wholeBlock: (eye, { face, position }, first, x0, y0, x1, y1) => {
    const { settings: m, facing, smooth } = eye;
    const { columns, rows, scale } = frameOf(eye);
    const left = Math.floor((x0 - m[SETTINGS.box]) * scale);
    const right = Math.floor((x1 - m[SETTINGS.box]) * scale) + 2;
    const top = Math.floor((y0 - m[SETTINGS.box + 1]) * scale);
    const bottom = Math.floor((y1 - m[SETTINGS.box + 1]) * scale) + 2;
    if (left < 1 || top < 1 || right >= columns - 1 || bottom >= rows - 1) return 2;
    if ((right - left) * (bottom - top) > MOST_PIXELS) return 2;
    let count = 0;
    let last = -1;
    let all = -1;
    for (let row = first; row < first + BLOCK_SIDE * TILE_SIDE; row += TILE_SIDE)
      for (let i = row; i < row + BLOCK_SIDE; i++) {
        const f = face[i];
        if (f === last || f < 0 || facing[f] <= 0) continue;
        last = f;
        let n = 0;
        while (n < count && asked[n] !== f) n++;
        if (n < count) continue;
        if (count === MOST_ASKED) return 2;
        asked[count++] = f;
        const x = position[i * 3];
        const y = position[i * 3 + 1];
        const z = position[i * 3 + 2];
        const near = 1 / (m[8] * x + m[9] * y + m[10] * z + m[11]);
        const sx = (m[0] * x + m[1] * y + m[2] * z + m[3]) * near;
        const sy = (m[4] * x + m[5] * y + m[6] * z + m[7]) * near;
        const here = inFront(eye, f, sx, sy, near) ? 1 : 0;
        if (all >= 0 && all !== here) return 2;
        all = here;
      }
    if (all < 0) return 0;
    for (let row = top; row <= bottom; row++)
      for (let p = row * columns + left, end = row * columns + right; p <= end; p++)
        if (smooth[p] !== 1 && !smoothAt(eye, p)) return 2;
    return all;
  },
};

const frameOf = ({ settings }: EyeBuffer) => ({
  scale: settings[SETTINGS.scale],
  columns: settings[SETTINGS.columns],
  rows: settings[SETTINGS.rows],
});

/**
 * The surface goes on around a pixel of the buffer: faces drawn beside it are the one in its middle or meet that one at a
 * corner, and faces turned to the eye that meet do not cover each other. Asked often, so remembered.
 */
function smoothAt(eye: EyeBuffer, p: number): boolean {
  const { smooth, buffer } = eye;
  if (smooth[p]) return smooth[p] === 1;
  const { columns } = frameOf(eye);
  const f = buffer[p];
  let goesOn = f >= 0;
  let last = f;
  for (let i = p - columns - 1, end = i + 3 * columns; goesOn && i < end; i += columns)
    for (let k = i; k < i + 3; k++) {
      const g = buffer[k];
      if (g === last || g === f) continue;
      last = g;
      if (g < 0 || !meet(eye, f, g)) goesOn = false;
    }
  smooth[p] = goesOn ? 1 : 2;
  return goesOn;
}

function meet({ facing, corner }: EyeBuffer, f: number, g: number): boolean {
  if (facing[f] < 0 || facing[g] < 0) return false;
  const a = corner[f * 3];
  const b = corner[f * 3 + 1];
  const c = corner[f * 3 + 2];
  for (let k = g * 3; k < g * 3 + 3; k++) if (corner[k] === a || corner[k] === b || corner[k] === c) return true;
  return false;
}

/** Where a pixel of the pane lies in the buffer; −1: beside it. */
function pixelAt(eye: EyeBuffer, x: number, y: number): number {
  const { scale, columns, rows } = frameOf(eye);
  const column = Math.floor((x - eye.settings[SETTINGS.box]) * scale) + 1;
  const row = Math.floor((y - eye.settings[SETTINGS.box + 1]) * scale) + 1;
  return column < 1 || row < 1 || column >= columns - 1 || row >= rows - 1 ? -1 : row * columns + column;
}

/** Where a place was moved to: its pixel, and one over its distance. */
const moved = new Float64Array(3);

function inFront(eye: EyeBuffer, f: number, x: number, y: number, near: number): boolean {
  const { edges, buffer } = eye;
  const { columns } = frameOf(eye);
  let p = pixelAt(eye, x, y);
  if (p < 0) return false;
  if (smoothAt(eye, p)) {
    if (buffer[p] === f) return true;
    for (let i = p - columns - 1, end = i + 3 * columns; i < end; i += columns)
      if (buffer[i] === f || buffer[i + 1] === f || buffer[i + 2] === f) return true;
  }
  const e = f * 9;
  const e0 = edges[e] * x + edges[e + 1] * y + edges[e + 2];
  const e1 = edges[e + 3] * x + edges[e + 4] * y + edges[e + 5];
  const e2 = edges[e + 6] * x + edges[e + 7] * y + edges[e + 8];
  if (e0 >= 0 && e1 >= 0 && e2 >= 0) return !covered(eye, f, p, x, y, near);
  // In the gutter: as much is seen as of the nearest place of its face.
  placeOf(eye, f, e0 > 0 ? e0 : 0, e1 > 0 ? e1 : 0, e2 > 0 ? e2 : 0);
  p = pixelAt(eye, moved[0], moved[1]);
  if (p < 0) return false;
  if (buffer[p] === f && smoothAt(eye, p)) return true;
  return !covered(eye, f, p, moved[0], moved[1], moved[2]);
}

/** Whether something lies before a place of a face: its pixel of the buffer, that of the pane, and one over its distance. */
function covered(eye: EyeBuffer, f: number, p: number, x: number, y: number, near: number): boolean {
  const { buffer, edges } = eye;
  const { columns, scale } = frameOf(eye);
  const limit = near * (1 + NEARER);
  // What is hidden mostly lies behind what is drawn right there.
  if (lies(eye, buffer[p], f, x, y, limit)) return true;
  let last = f;
  let drawn = false;
  for (let i = p - columns - 1, end = i + 3 * columns; i < end; i += columns)
    for (let k = i; k < i + 3; k++) {
      const g = buffer[k];
      if (g === f) drawn = true;
      if (g === last || g === f || g < 0) continue;
      last = g;
      if (g !== buffer[p] && lies(eye, g, f, x, y, limit)) return true;
    }
  // A face that is not drawn anywhere near is too small for it, or lies behind what is drawn there.
  const g = buffer[p] * 9;
  if (drawn || g < 0) return false;
  const e = f * 9;
  const a = edges[g] + edges[g + 3] + edges[g + 6];
  const b = edges[g + 1] + edges[g + 4] + edges[g + 7];
  const own = Math.abs(edges[e] + edges[e + 3] + edges[e + 6]) + Math.abs(edges[e + 1] + edges[e + 4] + edges[e + 7]);
  const slopes = (Math.abs(a) + Math.abs(b)) / scale + Math.min(own / scale, OWN_DEPTHS * depthOf(eye, f));
  return a * x + b * y + edges[g + 2] + edges[g + 5] + edges[g + 8] > limit + slopes;
}

/** A face lies before a place that is not its own. */
function lies({ edges }: EyeBuffer, g: number, f: number, x: number, y: number, limit: number): boolean {
  if (g < 0 || g === f) return false;
  const e = g * 9;
  const e0 = edges[e] * x + edges[e + 1] * y + edges[e + 2];
  if (e0 < 0) return false;
  const e1 = edges[e + 3] * x + edges[e + 4] * y + edges[e + 5];
  if (e1 < 0) return false;
  const e2 = edges[e + 6] * x + edges[e + 7] * y + edges[e + 8];
  return e2 >= 0 && e0 + e1 + e2 > limit;
}

/** By how much one over the distance differs over a face. */
function depthOf({ positions: p, indices, settings: m }: EyeBuffer, f: number): number {
  let [least, most] = [Infinity, 0];
  for (let k = f * 3; k < f * 3 + 3; k++) {
    const v = indices[k] * 3;
    const near = 1 / Math.max(1e-9, m[8] * p[v] + m[9] * p[v + 1] + m[10] * p[v + 2] + m[11]);
    if (near < least) least = near;
    if (near > most) most = near;
  }
  return most - least;
}

/** The pixel of a place of a face by shares of its corners, whatever they add up to, and one over its distance: into `moved`. */
function placeOf({ positions: p, indices, settings: m }: EyeBuffer, f: number, s0: number, s1: number, s2: number): void {
  const a = indices[f * 3] * 3;
  const b = indices[f * 3 + 1] * 3;
  const c = indices[f * 3 + 2] * 3;
  // The edge functions give a corner's weight over w of the place: their shares are the weights themselves.
  const by = 1 / (s0 + s1 + s2);
  const x = (p[a] * s0 + p[b] * s1 + p[c] * s2) * by;
  const y = (p[a + 1] * s0 + p[b + 1] * s1 + p[c + 1] * s2) * by;
  const z = (p[a + 2] * s0 + p[b + 2] * s1 + p[c + 2] * s2) * by;
  const w = m[8] * x + m[9] * y + m[10] * z + m[11];
  moved[0] = (m[0] * x + m[1] * y + m[2] * z + m[3]) / w;
  moved[1] = (m[4] * x + m[5] * y + m[6] * z + m[7]) / w;
  moved[2] = 1 / w;
}
