/** Decoders of compressed models for Node. */
import { createRequire } from 'node:module';
import type { GltfDependencies } from '../core/mesh/readGltf';

export async function nodeDecoders(): Promise<GltfDependencies> {
  const { MeshoptDecoder } = await import('meshoptimizer');
  await MeshoptDecoder.ready;
  const draco = createRequire(import.meta.url)('draco3d') as { createDecoderModule: () => Promise<object> };
  return { 'meshopt.decoder': MeshoptDecoder, 'draco3d.decoder': await draco.createDecoderModule() };
}
