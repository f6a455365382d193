/** What models are read with in the page: decoders that load when they are needed, and the server for COLLADA. */
import { readZip } from '../../core/codec/zip';
import { ModelError } from '../../core/mesh/model';
import { readModel, type ColladaRead, type NamedPictures, type ReadModelOptions } from '../../core/mesh/readModel';
import { browserDecoders } from './decoders';

/** The body of a POST to the server, or its refusal as a ModelError. */
export async function askServer(path: string, body: Uint8Array, what: string): Promise<Uint8Array> {
  const response = await fetch(path, { method: 'POST', body: body as Uint8Array<ArrayBuffer> }).catch(() => {
    throw new ModelError(`The server does not answer: ${what} when it is back.`);
  });
  if (response.ok) return new Uint8Array(await response.arrayBuffer());
  const { message } = (await response.json().catch(() => ({}))) as { message?: string };
  throw new ModelError(message ?? `The server did not do it: ${what} again.`);
}

async function collada(bytes: Uint8Array): Promise<ColladaRead> {
  const files = readZip(await askServer('/api/collada', bytes, 'drop the model again'), 'The answer');
  const model = await readModel(new Map([['model.glb', files.get('model.glb')!]]));
  return { model, pictures: JSON.parse(new TextDecoder().decode(files.get('pictures.json'))) as NamedPictures[] };
}

export const BROWSER_READING: ReadModelOptions = { decoders: browserDecoders, collada };
