/** One door for every model format: finds the model among the files and reads it. */
import { findCompanion, MODEL_FILE, namedPicture, type FileSet } from './companions';
import { MODEL_LIMITS, ModelError, type Model, type ModelMaterial } from './model';
import { called } from './gltfChecks';
import { isGlb, readGltf, type GltfDependencies } from './readGltf';
import { readObj } from './readObj';
import { readPly, readStl } from './readScan';

export interface ReadModelOptions {
  /** Called only when a file is compressed, so that decoders load lazily. */
  decoders?: () => Promise<GltfDependencies>;
  /** Reads COLLADA, which needs an XML parser, and a process that may die of it. */
  collada?: (bytes: Uint8Array) => Promise<ColladaRead>;
}

/** Fields of a material that hold pictures which COLLADA names. */
export type NamedPictures = Partial<
  Record<keyof Pick<ModelMaterial, 'baseColourPicture' | 'normalPicture' | 'emissivePicture'>, string>
>;

/** A model, and for each of its materials the names of the pictures that lie beside the file. */
export interface ColladaRead {
  model: Model;
  pictures: NamedPictures[];
}

const FORMATS = 'GLB, glTF, OBJ, PLY, STL or COLLADA';

/** Name of the file in the set that is the model, or a ModelError in one sentence. */
export function findModelFile(files: FileSet): string {
  const names = [...files.keys()];
  const models = names.filter((n) => MODEL_FILE.test(n));
  if (models.length > 1)
    throw new ModelError(
      `There are ${models.length} models here (${models.slice(0, 3).join(', ')}): drop one model with its files.`,
    );
  if (models.length === 1) return models[0];
  const glb = names.find((n) => isGlb(files.get(n)!));
  if (glb) return glb;
  const soon = names.find((n) => /\.(fbx|usdz?|blend)$/i.test(n));
  throw new ModelError(
    names.length === 0
      ? `There is no file here: choose a ${FORMATS} model.`
      : `${soon ?? names[0]} is not a model that Brindle reads: export it as ${FORMATS}.`,
  );
}

export async function readModel(files: FileSet, options: ReadModelOptions = {}): Promise<Model> {
  const name = findModelFile(files);
  const bytes = files.get(name)!;
  if (bytes.length === 0) throw new ModelError(`${name} is empty: copy or export it again.`);
  if (bytes.length > MODEL_LIMITS.maxFileBytes)
    throw new ModelError(
      `${name} is larger than ${MODEL_LIMITS.maxFileBytes >> 20} MiB, the most that is read: reduce the model.`,
    );
  if (isGlb(bytes)) return readGltf(name, files, await decodersFor(bytes, options));
  if (/\.glb$/i.test(name)) throw new ModelError(`${name} is not a GLB file, whatever its extension says: export it again.`);
  if (/\.gltf$/i.test(name)) return readGltf(name, files, await decodersFor(bytes, options));
  if (/\.ply$/i.test(name)) return readPly(name, bytes);
  if (/\.stl$/i.test(name)) return readStl(name, bytes);
  if (/\.dae$/i.test(name)) return readDae(name, files, options);
  return readObj(name, files);
}

/** Pictures are found among the files as those of an OBJ are. */
async function readDae(name: string, files: FileSet, { collada }: ReadModelOptions): Promise<Model> {
  if (!collada) throw new ModelError(`${name} is COLLADA, which is not read here: export it as GLB.`);
  const { model, pictures } = await collada(files.get(name)!);
  const missing = new Set<string>();
  model.materials.forEach((material, m) => {
    for (const [field, path] of Object.entries(pictures[m] ?? {}) as [keyof NamedPictures, string][]) {
      const bytes = findCompanion(files, path);
      if (bytes) material[field] = namedPicture(path, bytes);
      else missing.add(path);
    }
  });
  for (const path of missing)
    model.notes.push(`The picture ${called(path)} is missing: drop it together with the model to have it as a layer.`);
  return model;
}

async function decodersFor(bytes: Uint8Array, options: ReadModelOptions): Promise<GltfDependencies> {
  // The JSON chunk comes first; extension names are plain ASCII in it.
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 8 * 1024 * 1024));
  const compressed = /KHR_draco_mesh_compression|EXT_meshopt_compression|KHR_meshopt_compression/.test(head);
  return compressed && options.decoders ? options.decoders() : {};
}
