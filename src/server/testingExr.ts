/** EXR files for tests, written after "OpenEXR File Layout" alone: without compression or with ZIPS, in lines or tiles, of several parts. */
import { deflateSync } from 'node:zlib';
import { DataUtils } from 'three';

export interface ExrChannel {
  name: string;
  type: 'uint' | 'half' | 'float';
  at: (x: number, y: number) => number;
}
export interface ExrPart {
  width: number;
  height: number;
  channels: ExrChannel[];
  name?: string;
  zip?: boolean;
  /** Side of tiles, and how many levels there are. */
  tiles?: { side: number; mode: 'one' | 'mip' | 'rip' };
  /** Blocks lie in the file from the last to the first. */
  backwards?: boolean;
  origin?: [number, number];
}

const TYPES = { uint: 0, half: 1, float: 2 } as const;
const int = (...values: number[]) => Buffer.from(Int32Array.from(values).buffer);
const text = (value: string) => Buffer.from(`${value}\0`);

function sample({ type }: ExrChannel, value: number): Buffer {
  const bytes = Buffer.alloc(type === 'half' ? 2 : 4);
  if (type === 'half') bytes.writeUInt16LE(DataUtils.toHalfFloat(value));
  else if (type === 'float') bytes.writeFloatLE(value);
  else bytes.writeUInt32LE(value);
  return bytes;
}

/** Bytes split into even and odd ones, then differences, then deflate. */
function zipped(raw: Buffer): Buffer {
  const half = Math.ceil(raw.length / 2);
  const split = Buffer.alloc(raw.length);
  raw.forEach((byte, i) => (split[(i >> 1) + (i & 1 ? half : 0)] = byte));
  const differences = Buffer.from(split);
  for (let i = 1; i < split.length; i++) differences[i] = (split[i] - split[i - 1] + 128) & 255;
  const packed = deflateSync(differences);
  return packed.length < raw.length ? packed : raw;
}

/** The file, of one part or of several. */
export function exr(...parts: ExrPart[]): Uint8Array {
  const several = parts.length > 1;
  const flags = several ? 0x1000 : parts[0].tiles ? 0x200 : 0;
  const heads: Buffer[] = [];
  const chunkLists: Buffer[][] = [];
  parts.forEach((part, n) => {
    const { width, height, tiles, origin: [x0, y0] = [0, 0] } = part;
    const channels = [...part.channels].sort((a, b) => (a.name < b.name ? -1 : 1));
    const attribute = (name: string, type: string, value: Buffer) => heads.push(text(name), text(type), int(value.length), value);
    const list = channels.map(({ name, type }) => Buffer.concat([text(name), int(TYPES[type], 0, 1, 1)]));
    attribute('channels', 'chlist', Buffer.concat([...list, Buffer.of(0)]));
    attribute('compression', 'compression', Buffer.of(part.zip ? 2 : 0));
    attribute('dataWindow', 'box2i', int(x0, y0, x0 + width - 1, y0 + height - 1));
    attribute('strange', 'strangeType', Buffer.from('unknown to any reader'));
    if (part.name) attribute('name', 'string', Buffer.from(part.name));
    const mode = { one: 0, mip: 1, rip: 2 }[tiles?.mode ?? 'one'];
    if (tiles) attribute('tiles', 'tiledesc', Buffer.concat([int(tiles.side, tiles.side), Buffer.of(mode)]));
    const chunks: Buffer[] = [];
    const block = (place: number[], x: number, y: number, w: number, h: number, dim: number) => {
      const rows: Buffer[] = [];
      for (let row = y; row < y + h; row++)
        for (const channel of channels)
          for (let column = x; column < x + w; column++) rows.push(sample(channel, dim * channel.at(column, row)));
      const raw = Buffer.concat(rows);
      const data = part.zip ? zipped(raw) : raw;
      chunks.push(Buffer.concat([...(several ? [int(n)] : []), int(...place, data.length), data]));
    };
    if (!tiles) for (let y = 0; y < height; y++) block([y0 + y], 0, y, width, 1, 1);
    else {
      const levels = (of: number) => (tiles.mode === 'one' ? 1 : Math.floor(Math.log2(of)) + 1);
      const level = (lx: number, ly: number) => {
        const [w, h] = [Math.max(1, width >> lx), Math.max(1, height >> ly)];
        for (let ty = 0; ty * tiles.side < h; ty++)
          for (let tx = 0; tx * tiles.side < w; tx++) {
            const [x, y] = [tx * tiles.side, ty * tiles.side];
            // Smaller levels hold something else, so that a reader that takes them for the picture is found out.
            block([tx, ty, lx, ly], x, y, Math.min(tiles.side, w - x), Math.min(tiles.side, h - y), lx + ly ? 0 : 1);
          }
      };
      if (tiles.mode === 'rip')
        for (let ly = 0; ly < levels(height); ly++) for (let lx = 0; lx < levels(width); lx++) level(lx, ly);
      else for (let l = 0; l < levels(Math.max(width, height)); l++) level(l, l);
    }
    if (several) {
      attribute('type', 'string', Buffer.from(tiles ? 'tiledimage' : 'scanlineimage'));
      attribute('chunkCount', 'int', int(chunks.length));
    }
    heads.push(Buffer.of(0));
    chunkLists.push(chunks);
  });
  if (several) heads.push(Buffer.of(0));
  const head = Buffer.concat([int(20_000_630, 2 | flags), ...heads]);
  const table = Buffer.alloc(chunkLists.reduce((sum, chunks) => sum + chunks.length * 8, 0));
  let at = head.length + table.length;
  const body: Buffer[] = [];
  let row = 0;
  chunkLists.forEach((chunks, n) => {
    const order = chunks.map((_, i) => i);
    if (parts[n].backwards) order.reverse();
    for (const i of order) {
      table.writeBigUInt64LE(BigInt(at), (row + i) * 8);
      body.push(chunks[i]);
      at += chunks[i].length;
    }
    row += chunks.length;
  });
  return new Uint8Array(Buffer.concat([head, table, ...body]));
}
