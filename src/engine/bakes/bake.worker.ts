/** First tries of bakes, small and quick, in a thread of the page’s own: what they are looked at with. */
import '../../core/compute';
import { BakeDesk } from '../../core/bake/desk';
import { decodePng } from '../../core/codec/png';
import { sharesOf, type BakeSpec } from '../../core/kinds/bakes/spec';
import type { Model } from '../../core/mesh/model';
import { readModel } from '../../core/mesh/readModel';
import type { Bitmap } from '../../core/tile/bitmap';
import { TILE, tileX, tileY } from '../../core/tile/tiles';
import type { TriedBake } from '../protocol';
import { browserDecoders } from '../reading/decoders';
import type { TryAnswer, TryRequest } from './bakeTry';
import { roughly, TRY_SIDES } from './roughly';

const scope = self as unknown as {
  postMessage(message: TryAnswer): void;
  onmessage: ((event: MessageEvent<TryRequest>) => void) | null;
};
const desk = new BakeDesk();
let newest = 0;
let chain: Promise<void> = Promise.resolve();

/** To the engine, which shows what is tried. */
let engine: MessagePort | null = null;

scope.onmessage = ({ data }) => {
  if (data.type === 'engine') return void (engine = data.port);
  if (data.type === 'try') newest = data.id;
  // What was made ready in vain says why when it is asked for.
  chain = chain.then(() => carryOut(data)).catch(() => undefined);
};

async function carryOut(request: Exclude<TryRequest, { type: 'engine' }>): Promise<void> {
  if (request.type === 'model') return desk.take(request.address, request.model);
  if (request.type === 'ready') return makeReady(request.spec);
  const { id, spec } = request;
  // Something newer has been asked for in the meantime.
  if (request.type === 'try' && id !== newest) return;
  try {
    await fetchFiles(spec);
    if (request.type === 'parts') return scope.postMessage({ id, parts: desk.partsOf(spec.twin!.file) });
    if (request.type === 'fit') return scope.postMessage({ id, fit: desk.fit(spec) });
    for (const side of TRY_SIDES) {
      const rough = roughly(spec, side);
      const rougher = side < TRY_SIDES.at(-1)! && Math.max(rough.width, rough.height) < Math.max(spec.width, spec.height);
      const picture = await baked(id, rough);
      if (!picture) return;
      const { width, height, data, missed } = picture;
      engine!.postMessage({ id, width, height, data } satisfies TriedBake, [data.buffer]);
      scope.postMessage({ id, width, height, missed, rougher });
      if (!rougher) return;
    }
  } catch (error) {
    scope.postMessage({ id, message: (error as Error).message });
  }
}

async function makeReady(spec: BakeSpec): Promise<void> {
  await fetchFiles(spec);
  desk.ready(TRY_SIDES.map((side) => roughly(spec, side)));
}

/** What a bake reads beside the model. */
async function fetchFiles(spec: BakeSpec): Promise<void> {
  if (spec.twin && !desk.has(spec.twin.file)) desk.take(spec.twin.file, await fetchTwin(spec.twin));
  for (const address of sharesOf(spec)) if (!desk.hasShare(address)) desk.takeShare(address, await fetchShare(address));
}

async function fetchTwin({ file, name }: NonNullable<BakeSpec['twin']>): Promise<Model> {
  const bytes = await fetchFile(file, 'The dense model is not on the server any more: choose its file again.');
  return readModel(new Map([[name, bytes]]), { decoders: browserDecoders });
}

const fetchShare = async (address: string): Promise<Bitmap> =>
  decodePng(
    await fetchFile(address, 'The mask of its reach is not on the server any more: choose the mask again.'),
    'The mask of its reach',
  );

/** `gone`: what is said where the server does not have it. */
async function fetchFile(address: string, gone: string): Promise<Uint8Array> {
  const response = await fetch(`/api/twins/${address}`);
  if (!response.ok) throw new Error(gone);
  return new Uint8Array(await response.arrayBuffer());
}

/** null: something newer was asked for. */
async function baked(id: number, spec: BakeSpec) {
  const { width, height } = spec;
  const data = new Uint16Array(width * height * 4);
  let missed = 0;
  for (const tile of desk.tiles(spec)) {
    const steps = desk.steps(spec, tile);
    for (;;) {
      const { done, value } = steps.next();
      if (done) {
        if (value) {
          missed += value.missed;
          put(data, width, height, tile, value.data);
        }
        break;
      }
      // What was asked in the meantime comes in here.
      await new Promise((resolve) => setTimeout(resolve, 0));
      if (id !== newest) return null;
    }
  }
  return { width, height, data, missed };
}

function put(to: Uint16Array, width: number, height: number, tile: number, texels: Uint16Array): void {
  const [x0, y0] = [tileX(tile) * TILE, tileY(tile) * TILE];
  const columns = Math.min(TILE, width - x0) * 4;
  for (let y = 0; y < Math.min(TILE, height - y0); y++)
    to.set(texels.subarray(y * TILE * 4, y * TILE * 4 + columns), ((y0 + y) * width + x0) * 4);
}
