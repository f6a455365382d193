/** ./brindle bake MODEL [--dense FILE] --maps a,b --out DIR …: mesh maps as pictures; needs no database. */
import { createHash } from 'node:crypto';
import { mkdir, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { Ground } from '../src/core/rays/ground';
import { matchingOf, unmatched } from '../src/core/bake/matching';
import { decodePng, encodePng, PictureError } from '../src/core/codec/png';
import { BAKES, BAKE_TYPES, bakeSettingsSchema, type BakeType } from '../src/core/kinds/bakes';
import { BAKE_VERSION, bakeSpecSchema, type BakeSpec } from '../src/core/kinds/bakes/spec';
import { SUPERSAMPLES } from '../src/core/rays/points';
import { ModelError, type Model } from '../src/core/mesh/model';
import { readModel } from '../src/core/mesh/readModel';
import { firstUsableUvSet } from '../src/core/mesh/uvReport';
import type { Bitmap } from '../src/core/tile/bitmap';
import { TILE, tileX, tileY } from '../src/core/tile/tiles';
import { BakePool, FinalFault } from '../src/server/bakes/pool';
import { NODE_READING } from '../src/server/models';
import { BadInput, callerPath, forPeople, parseCommand, readInput } from './badInput';

const text = { type: 'string' } as const;

interface File {
  name: string;
  bytes: Uint8Array;
  address: string;
}

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(
    args,
    {
      dense: text,
      maps: text,
      size: text,
      samples: text,
      supersample: text,
      outward: text,
      inward: text,
      match: text,
      'reach-mask': text,
      'directions-mask': text,
      out: text,
    },
    ['MODEL'],
  );
  if (!values.out) throw new BadInput('Say where to write: --out DIR.');
  const size = whole(values.size ?? '1024', 'size', 16, 4096);
  const samples = whole(values.samples ?? '64', 'samples', 4, 1024);
  const supersample = whole(values.supersample ?? '1', 'supersample', 1, 8);
  if (!(SUPERSAMPLES as readonly number[]).includes(supersample))
    throw new BadInput(`--supersample is ${supersample}, but has to be 1, 2, 4 or 8.`);
  const share = (name: 'outward' | 'inward') => percent(values[name] ?? '2', name);
  const match = matched(values.match ?? 'whole');
  const types = typesOf(values.maps, values.dense !== undefined);

  const model = await fileAt(positionals[0]);
  const low = await read(model);
  const uvSet = firstUsableUvSet(low);
  if (uvSet < 0) throw new BadInput(`${model.name} has no UVs to bake into: unwrap it first, in Brindle or before.`);
  const dense = values.dense === undefined ? null : await fileAt(values.dense);
  const masks = await Promise.all([maskAt(values['reach-mask'], dense), maskAt(values['directions-mask'], dense)]);
  const [reachBy, splitBy] = masks.map((m) => m && { file: m.address });
  const reaches = { outward: share('outward'), inward: share('inward'), reachBy, splitBy };
  const use = dense && { file: dense.address, name: dense.name, ...reaches, match };
  if (use && dense) sayUnmatched(use, low, await read(dense));

  const files = new Map([model, dense, ...masks].filter((f) => f !== null).map((f) => [f.address, f]));
  const pool = new BakePool((address) => Promise.resolve(files.get(address) ?? null));
  const out = callerPath(values.out);
  await mkdir(out, { recursive: true });
  try {
    for (const [material, { name }] of low.materials.entries())
      for (const type of types) {
        const fromTwin = use !== null && BAKES[type].from.twin;
        const spec = specOf(
          { model: model.address, uvSet, material, width: size, height: size, supersample },
          type,
          samples,
          fromTwin ? use : null,
        );
        await bakeOne(pool, spec, join(out, fileName(model.name, low.materials.length > 1 ? name : null, type)));
      }
  } catch (error) {
    if (error instanceof FinalFault) throw new BadInput(error.message);
    throw error;
  } finally {
    await pool.close();
  }
}

function specOf(base: object, type: BakeType, samples: number, twin: object | null): BakeSpec {
  const settings = bakeSettingsSchema.parse('samples' in BAKES[type].start ? { type, samples } : { type });
  const parsed = bakeSpecSchema.safeParse({ version: BAKE_VERSION, ...base, settings, twin });
  if (!parsed.success) throw new BadInput(`That cannot be baked: ${parsed.error.issues[0].message}.`);
  return parsed.data;
}

function typesOf(asked: string | undefined, dense: boolean): BakeType[] {
  const names = (asked ?? 'occlusion,curvature').split(',').map((n) => n.trim());
  return names.map((n) => {
    if (!(BAKE_TYPES as string[]).includes(n)) throw new BadInput(`There is no map "${n}": there are ${BAKE_TYPES.join(', ')}.`);
    const type = n as BakeType;
    if (!BAKES[type].from.model && !dense) throw new BadInput(`"${n}" is baked from a dense model: name it with --dense FILE.`);
    return type;
  });
}

async function fileAt(path: string): Promise<File> {
  const bytes = await readInput(path);
  return { name: basename(path), bytes, address: createHash('sha256').update(bytes).digest('hex') };
}

/** A grey picture over the sheet; null: none was named. */
async function maskAt(path: string | undefined, dense: File | null): Promise<File | null> {
  if (path === undefined) return null;
  if (!dense) throw new BadInput('A mask of reaches or directions is for a dense model: name it with --dense FILE.');
  const file = await fileAt(path);
  await forPeople(() => Promise.resolve(decodePng(file.bytes, file.name)), [PictureError]);
  return file;
}

const read = ({ name, bytes }: File): Promise<Model> =>
  forPeople(() => readModel(new Map([[name, bytes]]), NODE_READING), [ModelError]);

function sayUnmatched(use: { match: 'whole' | 'names' }, low: Model, twin: Model): void {
  const left = unmatched(matchingOf({ ...use, pairs: [] }, low.parts, twin.parts), low.parts);
  if (left.length) process.stderr.write(`Nothing of the dense model belongs to ${left.join(', ')}: there it is missed.\n`);
  const [a, b] = [new Ground(low), new Ground(twin)];
  const ratio = b.size / a.size;
  if (ratio > 1.2 || ratio < 0.8)
    process.stderr.write(`The dense model is ${ratio.toFixed(2)} × as large as the model: most of it may be missed.\n`);
}

async function bakeOne(pool: BakePool, spec: BakeSpec, path: string): Promise<void> {
  const started = performance.now();
  const tiles = await pool.tiles(spec);
  const channels = BAKES[spec.settings.type].values === 'value' ? 1 : 3;
  const picture: Bitmap = {
    width: spec.width,
    height: spec.height,
    channels,
    bits: 16,
    data: new Uint16Array(spec.width * spec.height * channels),
  };
  let [done, missed] = [0, 0];
  const progress = (line: string) => process.stderr.isTTY && process.stderr.write(`\r${basename(path)}: ${line}   `);
  await Promise.all(
    tiles.map(async (tile) => {
      const baked = await pool.tile(spec, tile);
      done++;
      progress(`${Math.round((done / tiles.length) * 100)} %`);
      if (!baked) return;
      missed += baked.missed;
      put(picture, tile, baked.data);
    }),
  );
  await writeFile(path, encodePng(picture, BAKES[spec.settings.type].values === 'colour' ? 'srgb' : 'data'));
  if (process.stderr.isTTY) process.stderr.write('\r');
  const seconds = ((performance.now() - started) / 1000).toFixed(1);
  process.stdout.write(`${basename(path)}: ${seconds} s${missed ? `, ${missed} texels met nothing of the dense model` : ''}\n`);
}

function put({ width, height, channels, data }: Bitmap, tile: number, texels: Uint16Array): void {
  const [x0, y0] = [tileX(tile) * TILE, tileY(tile) * TILE];
  for (let y = 0; y < Math.min(TILE, height - y0); y++)
    for (let x = 0; x < Math.min(TILE, width - x0); x++)
      for (let c = 0; c < channels; c++) data[((y0 + y) * width + x0 + x) * channels + c] = texels[(y * TILE + x) * 4 + c];
}

/** The kind’s own word in the file’s name, so that it is known when it comes in again. */
function fileName(model: string, material: string | null, type: BakeType): string {
  const plain = (s: string) => s.replace(/[^\p{L}\p{N}-]+/gu, '-').replace(/^-+|-+$/g, '');
  return `${[model.replace(/\.[^.]*$/, ''), material]
    .filter((s) => s !== null)
    .map(plain)
    .join('_')}_${type}.png`;
}

function whole(given: string, name: string, min: number, max: number): number {
  const n = Number(given);
  if (!Number.isInteger(n) || n < min || n > max)
    throw new BadInput(`--${name} is "${given}", but has to be a whole number from ${min} to ${max}.`);
  return n;
}

function percent(given: string, name: string): number {
  const n = Number(given.replace(/%$/, ''));
  if (!(n >= 0 && n <= 200))
    throw new BadInput(`--${name} is "${given}", but has to be a percentage of the model's size, 0 to 200.`);
  return n / 100;
}

function matched(given: string): 'whole' | 'names' {
  if (given !== 'whole' && given !== 'names') throw new BadInput(`--match is "${given}", but has to be whole or names.`);
  return given;
}
