/** Decoders of compressed models, loaded only when a file needs them. */
import type { GltfDependencies } from '../../core/mesh/readGltf';

export async function browserDecoders(): Promise<GltfDependencies> {
  const [{ MeshoptDecoder }, draco, wasm] = await Promise.all([
    import('meshoptimizer'),
    import('draco3d'),
    fetch(new URL('draco3d/draco_decoder.wasm', import.meta.url)).then((r) => r.arrayBuffer()),
  ]);
  await MeshoptDecoder.ready;
  return {
    'meshopt.decoder': MeshoptDecoder,
    'draco3d.decoder': await (draco.default ?? draco).createDecoderModule({ wasmBinary: wasm }),
  };
}
