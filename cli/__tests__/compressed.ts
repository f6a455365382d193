/** The cube once more, compressed as files in the wild are: for tests of the decoders. */
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { Logger, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { draco, meshopt } from '@gltf-transform/functions';
import { MeshoptEncoder } from 'meshoptimizer';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { cubeModel } from '../../src/core/testing/models';

export async function compressedCube(kind: 'draco' | 'meshopt'): Promise<Uint8Array> {
  const draco3d = createRequire(join(process.cwd(), 'package.json'))('draco3d') as {
    createEncoderModule: () => Promise<object>;
    createDecoderModule: () => Promise<object>;
  };
  await MeshoptEncoder.ready;
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
    'draco3d.encoder': await draco3d.createEncoderModule(),
    'draco3d.decoder': await draco3d.createDecoderModule(),
    'meshopt.encoder': MeshoptEncoder,
  });
  io.setLogger(new Logger(Logger.Verbosity.SILENT));
  const document = await io.readBinary((await writeGlb(cubeModel())) as Uint8Array<ArrayBuffer>);
  await document.transform(kind === 'draco' ? draco() : meshopt({ encoder: MeshoptEncoder }));
  return io.writeBinary(document);
}
