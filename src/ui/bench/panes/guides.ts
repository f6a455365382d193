/** Guides over the flat pane: which, how strong, how dense. They stay in the browser, as the brush does. */
export const GUIDE_KINDS = ['none', 'square', 'isometric', 'thirds', 'picture'] as const;
export type GuideKind = (typeof GUIDE_KINDS)[number];

export interface Guides {
  kind: GuideKind;
  opacity: number;
  /** Cells across the sheet. */
  count: number;
  /** Data address of a picture of one's own. */
  picture: string | null;
}

export const NO_GUIDES: Guides = { kind: 'none', opacity: 0.5, count: 8, picture: null };

/** The kind that a key goes on to; a picture only where one was chosen. */
export function nextGuide({ kind, picture }: Guides): GuideKind {
  const kinds = GUIDE_KINDS.filter((k) => k !== 'picture' || picture);
  return kinds[(kinds.indexOf(kind) + 1) % kinds.length];
}

/** Lines of a guide over a sheet of width × height, in texels: x1 y1 x2 y2. */
export function guideLines(kind: GuideKind, count: number, width: number, height: number): [number, number, number, number][] {
  const out: [number, number, number, number][] = [];
  const cell = width / count;
  if (kind === 'thirds') {
    for (const t of [1 / 3, 2 / 3]) out.push([width * t, 0, width * t, height], [0, height * t, width, height * t]);
    return out;
  }
  if (kind === 'square') {
    for (let x = cell; x < width - 1e-6; x += cell) out.push([x, 0, x, height]);
    for (let y = cell; y < height - 1e-6; y += cell) out.push([0, y, width, y]);
    return out;
  }
  if (kind !== 'isometric') return out;
  // Uprights, and lines that rise one in two (the slope of isometric drawing on a grid of texels).
  for (let x = cell; x < width - 1e-6; x += cell) out.push([x, 0, x, height]);
  const rise = width / 2;
  for (let y = -rise; y < height + rise; y += cell) {
    for (const [a, b] of [
      [y, y + rise],
      [y + rise, y],
    ]) {
      const line = clipped(0, a, width, b, height);
      if (line) out.push(line);
    }
  }
  return out;
}

/** The part of a line from left to right that lies between 0 and the height. */
function clipped(x1: number, y1: number, x2: number, y2: number, height: number): [number, number, number, number] | null {
  if ((y1 < 0 && y2 < 0) || (y1 > height && y2 > height)) return null;
  const at = (y: number) => x1 + ((x2 - x1) * (y - y1)) / (y2 - y1);
  const end = (x: number, y: number): [number, number] => (y < 0 ? [at(0), 0] : y > height ? [at(height), height] : [x, y]);
  return [...end(x1, y1), ...end(x2, y2)];
}
