/** Models read and unwrapped in this very process: on the command line and in reader processes. */
import { readFile } from 'node:fs/promises';
import { ModelError, type Model } from '../core/mesh/model';
import { readModel, type ColladaRead, type ReadModelOptions } from '../core/mesh/readModel';
import { unwrap, type AtlasMaker, type Unwrapped, type UnwrapOptions } from '../core/mesh/unwrap';
import { nodeDecoders } from './decoders';

/** What models are read with in Node. */
export const NODE_READING: ReadModelOptions = {
  decoders: nodeDecoders,
  collada: async (bytes) => (await import('./collada')).readCollada(bytes),
};

type Refusal = { ok: false; message: string };

async function orRefusal<T extends object>(work: () => Promise<T>): Promise<({ ok: true } & T) | Refusal> {
  try {
    return { ok: true, ...(await work()) };
  } catch (error) {
    if (error instanceof ModelError) return { ok: false, message: error.message };
    throw error;
  }
}

export const readModelFile = (path: string, name: string): Promise<{ ok: true; model: Model } | Refusal> =>
  orRefusal(async () => ({ model: await readModel(new Map([[name, await readFile(path)]]), NODE_READING) }));

export const readColladaFile = (path: string): Promise<({ ok: true } & ColladaRead) | Refusal> =>
  orRefusal(async () => (await import('./collada')).readCollada(await readFile(path)));

export const unwrapModel = (model: Model, options: UnwrapOptions): Promise<{ ok: true; found: Unwrapped } | Refusal> =>
  orRefusal(async () => {
    const watlas = await import('watlas');
    await watlas.Initialize();
    return { found: unwrap(model, watlas.Atlas as unknown as AtlasMaker, options) };
  });
