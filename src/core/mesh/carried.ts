/**
 * What a glTF material has beyond what a piece paints: its extensions (unlit, clear coat, sheen, transmission …, ours to know or not),
 * with their pictures. It is kept as the file has it and goes out again.
 */
import type { Document, GLTF } from '@gltf-transform/core';

export interface CarriedPicture {
  mime: string;
  bytes: Uint8Array<ArrayBuffer>;
  /** Filters and wraps (glTF 2.0, 5.26); null: the usual ones. */
  sampler: GLTF.ISampler | null;
}

export interface Carried {
  /** By name, as glTF JSON. Texture infos name pictures of `pictures` instead of textures of a file. */
  extensions: Record<string, unknown>;
  pictures: CarriedPicture[];
}

/** Those that are read into fields of a material; and one that would overrule what is painted. */
const NOT_CARRIED: ReadonlySet<string> = new Set(['KHR_materials_emissive_strength', 'KHR_materials_pbrSpecularGlossiness']);
/** Of pictures in formats that glTF does not have by itself. */
const TEXTURE_EXTENSIONS: Readonly<Record<string, string>> = {
  'image/ktx2': 'KHR_texture_basisu',
  'image/webp': 'EXT_texture_webp',
  'image/avif': 'EXT_texture_avif',
};
const MOST_DEPTH = 12;

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Goes over a JSON value; `texture` makes of each texture info what is to stand there, undefined: nothing. */
function mapped(value: unknown, texture: (info: Record<string, unknown>) => unknown, depth = 0): unknown {
  if (depth > MOST_DEPTH) return undefined;
  if (Array.isArray(value)) return value.map((one) => mapped(one, texture, depth + 1));
  if (!isObject(value)) return value;
  const entries = Object.entries(value).map(([key, inner]): [string, unknown] => [
    key,
    /texture$/i.test(key) && isObject(inner) && Number.isInteger(inner.index)
      ? texture(inner)
      : mapped(inner, texture, depth + 1),
  ]);
  return Object.fromEntries(entries.filter(([key, inner]) => inner !== undefined && key !== '__proto__'));
}

/** null: the material has nothing but what is read. `document`: the same file, where its pictures have been unpacked. */
export function carriedOf(json: GLTF.IGLTF, material: number, document: Document): Carried | null {
  const given = json.materials?.[material]?.extensions;
  if (!isObject(given)) return null;
  const images = document.getRoot().listTextures();
  const pictures: CarriedPicture[] = [];
  const places = new Map<number, number>();
  const texture = (info: Record<string, unknown>) => {
    const index = info.index as number;
    const known = places.get(index);
    if (known !== undefined) return { ...info, index: known };
    const from = json.textures?.[index];
    if (!from) return undefined;
    const extended = Object.values(TEXTURE_EXTENSIONS).map((name) => (from.extensions?.[name] as { source?: number })?.source);
    const image = images[from.source ?? extended.find((source) => source !== undefined) ?? -1];
    const bytes = image?.getImage();
    if (!bytes?.length) return undefined;
    places.set(index, pictures.length);
    pictures.push({
      mime: image.getMimeType(),
      bytes: Uint8Array.from(bytes),
      sampler: json.samplers?.[from.sampler ?? -1] ?? null,
    });
    return { ...info, index: pictures.length - 1 };
  };
  const extensions = mapped(
    Object.fromEntries(Object.entries(given).filter(([name, value]) => !NOT_CARRIED.has(name) && isObject(value))),
    texture,
  ) as Record<string, unknown>;
  return Object.keys(extensions).length ? { extensions, pictures } : null;
}

/** For faces that have no UVs for the pictures. */
export const withoutPictures = ({ extensions }: Carried): Carried => ({
  extensions: mapped(extensions, () => undefined) as Record<string, unknown>,
  pictures: [],
});

/** Names of all extensions in a JSON value. */
function extensionNames(value: unknown, into: Set<string>): void {
  if (Array.isArray(value)) for (const one of value) extensionNames(one, into);
  if (!isObject(value)) return;
  for (const [key, inner] of Object.entries(value)) {
    if (key === 'extensions' && isObject(inner)) for (const name of Object.keys(inner)) into.add(name);
    extensionNames(inner, into);
  }
}

const padded = (length: number): number => (length + 3) & ~3;

/**
 * A GLB whose materials have what was carried. `json`, `binary`: as they are without; `carried`: one for each of its materials.
 * Equal pictures are written once.
 */
export function glbWithCarried(json: GLTF.IGLTF, binary: Uint8Array, carried: readonly (Carried | null)[]): Uint8Array {
  const parts: Uint8Array[] = [binary];
  let length = binary.length;
  const used = new Set(json.extensionsUsed ?? []);
  const required = new Set(json.extensionsRequired ?? []);
  const written = new Map<Uint8Array, number>();
  const imageOf = ({ mime, bytes }: CarriedPicture): number => {
    const known = written.get(bytes);
    if (known !== undefined) return known;
    const at = padded(length);
    parts.push(new Uint8Array(at - length), bytes);
    length = at + bytes.length;
    const view = (json.bufferViews ??= []).push({ buffer: 0, byteOffset: at, byteLength: bytes.length }) - 1;
    const image = (json.images ??= []).push({ bufferView: view, mimeType: mime }) - 1;
    written.set(bytes, image);
    return image;
  };
  const textureOf = (picture: CarriedPicture): number => {
    const source = imageOf(picture);
    const sampler = picture.sampler ? (json.samplers ??= []).push(picture.sampler) - 1 : undefined;
    const extension = TEXTURE_EXTENSIONS[picture.mime];
    if (extension) {
      used.add(extension);
      required.add(extension);
    }
    const texture = extension ? { extensions: { [extension]: { source } } } : { source };
    return (json.textures ??= []).push({ ...texture, ...(sampler === undefined ? {} : { sampler }) }) - 1;
  };
  carried.forEach((one, m) => {
    const material = json.materials?.[m];
    if (!one || !material) return;
    const textures = one.pictures.map(textureOf);
    const extensions = mapped(one.extensions, (info) => ({ ...info, index: textures[info.index as number] }));
    material.extensions = { ...material.extensions, ...(extensions as Record<string, unknown>) };
  });
  extensionNames(json.materials, used);
  if (used.size) json.extensionsUsed = [...used];
  if (required.size) json.extensionsRequired = [...required];
  if (length > 0) {
    json.buffers = [{ ...(json.buffers?.[0] ?? {}), byteLength: length }];
    delete json.buffers[0].uri;
  }
  return packed(json, parts, length);
}

/** The container (glTF 2.0, section 4.4). */
function packed(json: GLTF.IGLTF, binary: readonly Uint8Array[], binaryLength: number): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json));
  const [jsonLength, binLength] = [padded(text.length), padded(binaryLength)];
  const size = 12 + 8 + jsonLength + (binLength ? 8 + binLength : 0);
  const out = new Uint8Array(size);
  const view = new DataView(out.buffer);
  [0x46546c67, 2, size, jsonLength, 0x4e4f534a].forEach((value, n) => view.setUint32(n * 4, value, true));
  out.fill(0x20, 20, 20 + jsonLength);
  out.set(text, 20);
  if (!binLength) return out;
  let at = 20 + jsonLength;
  view.setUint32(at, binLength, true);
  view.setUint32(at + 4, 0x004e4942, true);
  at += 8;
  for (const part of binary) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
