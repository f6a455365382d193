/**
 * OpenEXR through three's loader. The loader reads one simple kind of file, so each file is brought to that kind first: one part, its
 * full-size level only, blocks in order, the channels of one layer called R, G, B, A or Y ("OpenEXR File Layout", openexr.com). What
 * neither reads is refused by a sentence that says what it is.
 */
import { FloatType, RedFormat, RGBAFormat } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { quietly } from '../../core/quietly';
import { PictureDamaged, PictureRefused, startsWith, type PictureFormat } from './format';

const MAGIC = 20_000_630;
const FLAGS = { singleTile: 0x200, longNames: 0x400, deep: 0x800, multiPart: 0x1000 } as const;
const COMPRESSIONS = ['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'] as const;
/** Lines of a block by compression. */
const BLOCK_LINES = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];
const UINT = 0;
const FLOAT = 2;
const MOST_PARTS = 64;
const MOST_CHANNELS = 1024;

const AS_ZIP = 'save it with ZIP compression';

interface Channel {
  name: string;
  /** 0 uint, 1 half, 2 float. */
  type: number;
  linear: number;
  sampling: [number, number];
}

interface Part {
  compression: number;
  window: [number, number, number, number];
  channels: Channel[];
  tiles: { width: number; height: number; mode: number; roundUp: boolean } | null;
  kind: string;
  name: string;
  chunkCount: number | null;
}

/** Reads little-endian values one after another; throws beyond the end. */
class Cursor {
  readonly view: DataView;
  constructor(
    readonly bytes: Uint8Array,
    public at = 0,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  private step(n: number): number {
    if (n < 0 || this.at + n > this.bytes.length) throw new PictureDamaged();
    this.at += n;
    return this.at - n;
  }
  byte = () => this.view.getUint8(this.step(1));
  int = () => this.view.getInt32(this.step(4), true);
  uint = () => this.view.getUint32(this.step(4), true);
  long = () => Number(this.view.getBigUint64(this.step(8), true));
  take = (n: number) => this.bytes.subarray(this.step(n), this.at);
  text(): string {
    const end = this.bytes.indexOf(0, this.at);
    if (end < 0 || end - this.at > 255) throw new PictureDamaged();
    const text = Buffer.from(this.take(end - this.at)).toString('utf8');
    this.at++;
    return text;
  }
}

export interface ExrHead {
  parts: Part[];
  flags: number;
  /** Where the tables of offsets begin. */
  end: number;
}

/** `bytes`: the file, or so much of its beginning that its header is in it. Throws PictureRefused, or another error where it is damaged. */
export function readExrHead(bytes: Uint8Array): ExrHead {
  const cursor = new Cursor(bytes);
  if (cursor.int() !== MAGIC) throw new PictureDamaged();
  const version = cursor.int();
  if ((version & 0xff) !== 2) throw new PictureRefused(`is an EXR of version ${version & 0xff}, and 2 is read: export it anew.`);
  const parts: Part[] = [];
  const several = (version & FLAGS.multiPart) !== 0;
  for (;;) {
    const part = readPart(cursor);
    if (part) parts.push(part);
    if (!several || !part) break;
    if (parts.length > MOST_PARTS)
      throw new PictureRefused(`has more than ${MOST_PARTS} parts, the most that is read: split it.`);
  }
  if (parts.length === 0) throw new PictureDamaged();
  if (version & FLAGS.deep || parts.some((p) => p.kind.startsWith('deep')))
    throw new PictureRefused('is a deep EXR, of several values a texel, which is not read: flatten it first.');
  return { parts, flags: version, end: cursor.at };
}

/** null: an empty header, which ends those of several parts. */
function readPart(cursor: Cursor): Part | null {
  const part: Partial<Part> = {};
  let attributes = 0;
  for (;;) {
    const name = cursor.text();
    if (name === '') break;
    attributes++;
    cursor.text();
    const value = new Cursor(cursor.take(cursor.uint()));
    if (name === 'channels') part.channels = readChannels(value);
    else if (name === 'compression') part.compression = value.byte();
    else if (name === 'dataWindow') part.window = [value.int(), value.int(), value.int(), value.int()];
    else if (name === 'type') part.kind = Buffer.from(value.bytes).toString('latin1');
    else if (name === 'name') part.name = Buffer.from(value.bytes).toString('utf8');
    else if (name === 'chunkCount') part.chunkCount = value.int();
    else if (name === 'tiles') {
      const [width, height, mode] = [value.uint(), value.uint(), value.byte()];
      part.tiles = { width, height, mode: mode & 15, roundUp: mode >> 4 === 1 };
    }
  }
  if (attributes === 0) return null;
  const { channels, compression, window } = part;
  if (!channels?.length || compression === undefined || !window) throw new PictureDamaged();
  if (compression >= COMPRESSIONS.length)
    throw new PictureRefused(`uses a compression that is not read here (number ${compression}): ${AS_ZIP}.`);
  if (part.tiles && !(part.tiles.width > 0 && part.tiles.height > 0)) throw new PictureDamaged();
  return { tiles: null, kind: '', name: '', chunkCount: null, ...part, channels, compression, window };
}

function readChannels(cursor: Cursor): Channel[] {
  const channels: Channel[] = [];
  for (let name = cursor.text(); name !== ''; name = cursor.text()) {
    const [type, linear] = [cursor.int(), cursor.byte()];
    cursor.take(3);
    channels.push({ name, type, linear, sampling: [cursor.int(), cursor.int()] });
    if (channels.length > MOST_CHANNELS) throw new PictureDamaged();
  }
  if (channels.some(({ type }) => type < 0 || type > 2)) throw new PictureDamaged();
  return channels;
}

/** What is read of a file: channels of one layer of one part, in order. */
export interface ExrChoice {
  part: number;
  /** Without a name: "". */
  layer: string;
  channels: Channel[];
  /** The last channel is alpha. */
  alpha: boolean;
  /** Names of other layers, and of channels beside these. */
  others: string[];
}

const layerOf = (name: string): string => name.slice(0, Math.max(0, name.lastIndexOf('.')));
const lastOf = (name: string): string => name.slice(name.lastIndexOf('.') + 1);
/** Channels that are read together, by the last part of their names. */
const SETS: readonly (readonly string[])[] = [['R', 'G', 'B'], ['X', 'Y', 'Z'], ['R', 'G'], ['X', 'Y'], ['U', 'V'], ['Y']];

/** The layer without a name comes first, if it has colours; then the first layer of colours, then what there is. */
export function chooseLayer({ parts }: ExrHead): ExrChoice {
  const layers: (ExrChoice & { rank: number })[] = [];
  parts.forEach((part, n) => {
    for (const layer of new Set(part.channels.map(({ name }) => layerOf(name)))) {
      const members = part.channels.filter(({ name }) => layerOf(name) === layer);
      const find = (last: string) => members.find(({ name }) => lastOf(name).toUpperCase() === last);
      const set = SETS.findIndex((names) => names.every(find));
      const channels = set < 0 ? [members[0]] : SETS[set].map((name) => find(name)!);
      const opacity = set < 0 || !['R', 'Y'].includes(SETS[set][0]) ? undefined : find('A');
      // Red and green are made up to colours, which keeps alpha apart from grey with alpha.
      const alpha = opacity !== undefined && (channels.length !== 2 || SETS[set][0] === 'Y');
      if (alpha) channels.push(opacity);
      const label = layer || part.name;
      const rank = (set < 0 ? SETS.length : set) * 2 + (layer ? 1 : 0);
      layers.push({ part: n, layer: label, channels, alpha, others: [], rank });
    }
  });
  const best = layers.reduce((a, b) => (b.rank < a.rank ? b : a));
  const taken = new Set(best.channels);
  const mine = parts[best.part].channels.filter((c) => layerOf(c.name) === layerOf(best.channels[0].name) && !taken.has(c));
  const others = [...layers.filter((l) => l !== best).map((l) => l.layer || l.channels[0].name), ...mine.map((c) => c.name)];
  return { part: best.part, layer: best.layer, channels: best.channels, alpha: best.alpha, others };
}

export const exr: PictureFormat = {
  is: (head) => startsWith(head, '\x76\x2f\x31\x01'),
  /** The largest of its parts, since which one is read is chosen later. */
  size(head) {
    const sizes = readExrHead(head).parts.map(({ window: [x0, y0, x1, y1] }) => ({ width: x1 - x0 + 1, height: y1 - y0 + 1 }));
    return sizes.reduce((a, b) => (b.width * b.height > a.width * a.height ? b : a));
  },
  read,
};

/** Colours of an OpenEXR are multiplied by alpha (Technical Introduction to OpenEXR, "Alpha"): here they are straight. */
function unmultiply(rgba: Float32Array): void {
  for (let i = 0; i < rgba.length; i += 4) {
    const alpha = rgba[i + 3];
    if (alpha > 0 && alpha < 1) for (let k = 0; k < 3; k++) rgba[i + k] /= alpha;
  }
}

/** Half, float and whole numbers; half and float are linear light. */
function read(bytes: Uint8Array): ReturnType<PictureFormat['read']> {
  const head = readExrHead(bytes);
  const choice = chooseLayer(head);
  const part = head.parts[choice.part];
  checkReadable(part, choice.channels);
  const [x0, y0, x1, y1] = part.window;
  const [width, height] = [x1 - x0 + 1, y1 - y0 + 1];
  const blocks = blocksOf(bytes, head, choice.part);
  const made = choice.channels.length === 2 && !choice.alpha ? 3 : choice.channels.length;
  const values = new Float32Array(width * height * made);
  for (const group of groupsOf(choice.channels))
    decodeGroup(part, blocks, group, values, made, choice.channels.indexOf(group[0]));
  const said = [
    made !== choice.channels.length ? 'has two channels: they come in as red and green' : null,
    choice.others.length ? `holds more than ${called(choice)}, which is read: ${listed(choice.others)} left out` : null,
  ].filter((s) => s !== null);
  if (made === 4) unmultiply(values);
  return { width, height, channels: made, values, whole: null, alpha: choice.alpha, left: said.join('; ') || null };
}

const called = ({ layer, channels }: ExrChoice): string =>
  layer ? `the layer "${layer.slice(0, 60)}"` : channels.map(({ name }) => name).join('');
const listed = (names: readonly string[]): string => {
  const few = names.slice(0, 4).map((name) => `"${name.slice(0, 60)}"`);
  return `${few.join(', ')}${names.length > 4 ? ` and ${names.length - 4} more are` : names.length > 1 ? ' are' : ' is'}`;
};

/** What the loader would read as something else, or not at all. */
function checkReadable({ channels, compression, tiles }: Part, wanted: readonly Channel[]): void {
  const name = COMPRESSIONS[compression];
  if (channels.some(({ sampling }) => sampling[0] !== 1 || sampling[1] !== 1))
    throw new PictureRefused('is an EXR with channels at half size (luminance and chroma), which are not read: save it as RGB.');
  const types = new Set(channels.map(({ type }) => (type === UINT ? FLOAT : type)));
  const dwa = name.startsWith('DWA');
  if (types.size > 1 && (name === 'PIZ' || dwa))
    throw new PictureRefused(`mixes half and full numbers with ${name} compression, which is not read: ${AS_ZIP}.`);
  const whole = channels.some(({ type }) => type === UINT);
  if (whole && (name === 'PXR24' || dwa))
    throw new PictureRefused(`holds whole numbers with ${name} compression, which are not read: ${AS_ZIP}.`);
  if (dwa && (channels.length !== wanted.length || wanted.length < 3 || lastOf(wanted[0].name) !== 'R'))
    throw new PictureRefused(`has other channels than RGB or RGBA with ${name} compression, which are not read: ${AS_ZIP}.`);
  if (tiles && tiles.mode > 2) throw new PictureDamaged();
}

/** A block as it lies in the file: place (a line, or column and row of a tile) and packed data. */
interface Block {
  place: number[];
  data: Uint8Array;
}

/** Blocks of the full-size level of a part, by place. Tables of offsets are followed; a block that is missing means damage. */
function blocksOf(bytes: Uint8Array, head: ExrHead, wanted: number): Block[] {
  const several = (head.flags & FLAGS.multiPart) !== 0;
  let table = head.end;
  for (let n = 0; n < wanted; n++) table += chunksOf(head.parts[n]) * 8;
  const part = head.parts[wanted];
  const tiled = isTiled(part);
  const [x0, y0, x1, y1] = part.window;
  const lines = BLOCK_LINES[part.compression];
  const across = tiled ? Math.ceil((x1 - x0 + 1) / part.tiles!.width) : 1;
  const down = Math.ceil((y1 - y0 + 1) / (tiled ? part.tiles!.height : lines));
  const blocks = new Array<Block | undefined>(across * down);
  const cursor = new Cursor(bytes, table);
  for (let n = chunksOf(part); n > 0; n--) {
    const chunk = new Cursor(bytes, cursor.long());
    if (several && chunk.int() !== wanted) throw new PictureDamaged();
    const place = tiled ? [chunk.int(), chunk.int(), chunk.int(), chunk.int()] : [chunk.int()];
    const data = chunk.take(chunk.uint());
    if (tiled && (place[2] !== 0 || place[3] !== 0)) continue;
    const at = tiled ? place[1] * across + place[0] : (place[0] - y0) / lines;
    if (!Number.isInteger(at) || at < 0 || at >= blocks.length || (tiled && place[0] >= across)) throw new PictureDamaged();
    blocks[at] = { place, data };
  }
  if (blocks.includes(undefined)) throw new PictureDamaged();
  return blocks as Block[];
}

const isTiled = (part: Part): boolean => part.tiles !== null && part.kind !== 'scanlineimage';

/** How many blocks a part has, in all its levels. */
function chunksOf(part: Part): number {
  if (part.chunkCount !== null) {
    if (part.chunkCount < 0 || part.chunkCount > 1 << 24) throw new PictureDamaged();
    return part.chunkCount;
  }
  const [x0, y0, x1, y1] = part.window;
  const [width, height] = [x1 - x0 + 1, y1 - y0 + 1];
  if (!isTiled(part)) return Math.ceil(height / BLOCK_LINES[part.compression]);
  const { tiles } = part;
  const sides = (whole: number, tile: number, levels: number) =>
    Array.from({ length: levels }, (_, l) => {
      const size = tiles!.roundUp ? Math.ceil(whole / 2 ** l) : Math.floor(whole / 2 ** l);
      return Math.ceil(Math.max(1, size) / tile);
    });
  const levels = (of: number) => (tiles!.roundUp ? Math.ceil(Math.log2(of)) : Math.floor(Math.log2(of))) + 1;
  if (tiles!.mode === 0) return sides(width, tiles!.width, 1)[0] * sides(height, tiles!.height, 1)[0];
  if (tiles!.mode === 1) {
    const count = levels(Math.max(width, height));
    const ys = sides(height, tiles!.height, count);
    return sides(width, tiles!.width, count).reduce((sum, x, l) => sum + x * ys[l], 0);
  }
  const sum = (list: number[]) => list.reduce((a, b) => a + b, 0);
  return sum(sides(width, tiles!.width, levels(width))) * sum(sides(height, tiles!.height, levels(height)));
}

/** Channels of one type that make up colours are decoded together, others one by one. */
function groupsOf(wanted: readonly Channel[]): (readonly Channel[])[] {
  const together = wanted.length >= 3 && wanted.every(({ type }) => type === wanted[0].type) && wanted[0].type !== UINT;
  return together ? [wanted] : wanted.map((channel) => [channel]);
}

/** Writes the channels of a group into `values`, which has `made` numbers a texel, from number `first` on; rows from the top. */
function decodeGroup(
  part: Part,
  blocks: readonly Block[],
  group: readonly Channel[],
  values: Float32Array,
  made: number,
  first: number,
): void {
  const loader = new EXRLoader();
  loader.setDataType(FloatType).setOutputFormat(group.length === 1 ? RedFormat : RGBAFormat);
  const file = simpleFile(part, blocks, group);
  const { width, height, data } = quietly(() => loader.parse(file.buffer)) as {
    width: number;
    height: number;
    data: Float32Array;
  };
  const stride = data.length / (width * height);
  // Whole numbers are passed through as if they were float, and are the same bits.
  const source = group[0].type === UINT ? new Uint32Array(data.buffer, data.byteOffset, data.length) : data;
  for (let y = 0, o = first; y < height; y++)
    for (let x = 0; x < width; x++, o += made)
      // The loader's rows run up.
      for (let c = 0; c < group.length; c++) values[o + c] = source[((height - 1 - y) * width + x) * stride + c];
}

/** A file of one part with one level, in which the channels of `group` are R, G, B, A or Y. */
function simpleFile(part: Part, blocks: readonly Block[], group: readonly Channel[]): Uint8Array<ArrayBuffer> {
  const names = group.length === 1 ? ['Y'] : ['R', 'G', 'B', 'A'];
  const chunks: Uint8Array[] = [];
  const int = (...values: number[]) => new Uint8Array(Int32Array.from(values).buffer);
  const text = (value: string) => new TextEncoder().encode(`${value}\0`);
  const attribute = (name: string, type: string, ...value: Uint8Array[]) => {
    const bytes = Buffer.concat(value);
    chunks.push(text(name), text(type), int(bytes.length), bytes);
  };
  const list = part.channels.flatMap((channel) => {
    const at = group.indexOf(channel);
    const name = at >= 0 ? names[at] : 'other';
    const type = channel.type === UINT ? FLOAT : channel.type;
    return [text(name), int(type), Uint8Array.of(channel.linear, 0, 0, 0), int(...channel.sampling)];
  });
  const tiled = isTiled(part);
  chunks.push(int(MAGIC, 2 | (tiled ? FLAGS.singleTile : 0)));
  attribute('channels', 'chlist', ...list, Uint8Array.of(0));
  attribute('compression', 'compression', Uint8Array.of(part.compression));
  attribute('dataWindow', 'box2i', int(...part.window));
  if (tiled) attribute('tiles', 'tiledesc', int(part.tiles!.width, part.tiles!.height), Uint8Array.of(0));
  chunks.push(Uint8Array.of(0), new Uint8Array(blocks.length * 8));
  for (const { place, data } of blocks) chunks.push(int(...place, data.length), data);
  const file = new Uint8Array(chunks.reduce((size, chunk) => size + chunk.length, 0));
  let at = 0;
  for (const chunk of chunks) {
    file.set(chunk, at);
    at += chunk.length;
  }
  return file;
}
