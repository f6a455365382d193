/**
 * A model as GLB 2.0 through @gltf-transform: one mesh a part, one primitive a material in it. Where a material has a normal picture
 * its tangents go out too, as MikkTSpace gives them (glTF 2.0, 3.7.2.1); what has no UVs goes out without pictures.
 */
import {
  Document,
  Format,
  GLB_BUFFER,
  WebIO,
  type mat4,
  type Material,
  type Node,
  type Primitive,
  type Scene,
} from '@gltf-transform/core';
import { KHRMaterialsEmissiveStrength } from '@gltf-transform/extensions';
import { determinant3, inverse, transform } from './matrix';
import { glbWithCarried, withoutPictures, type Carried } from './carried';
import type { Model, ModelMaterial } from './model';
import { cornerTangents } from './tangents';

/** Encoded pictures of one material; all optional. `ormPng`: occlusion, roughness, metallic in R, G, B. */
export interface MaterialPictures {
  /** With alpha where `alpha` says how it is meant. */
  baseColourPng?: Uint8Array;
  /** Left out: all is solid. */
  alpha?: AlphaUse;
  emissivePng?: Uint8Array;
  ormPng?: Uint8Array;
  normalPng?: Uint8Array;
  /** UV set that the pictures belong to. */
  uvSet?: number;
  name?: string;
  wrapU?: boolean;
  wrapV?: boolean;
}

/** How holes are meant: texels are there or not, or they let something through (glTF 2.0, 3.9.4). */
export type AlphaUse = 'MASK' | 'BLEND';

export async function writeGlb(model: Model, pictures: (MaterialPictures | null)[] = []): Promise<Uint8Array> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Brindle';
  const buffer = document.createBuffer();
  // Materials are created in the model's order, used or not, because sheets refer to them by number (materials.test.ts).
  const made = model.materials.map((_, m) => makeMaterial(document, model, m, pictures[m] ?? null));
  const bareTwins = new Map<number, Material>();
  /** `bare`: for faces without UVs for the pictures. Such twins of a material come after all others. */
  const materialOf = (m: number, bare: boolean): Material | null => {
    if (!bare || !pictures[m]) return made[m] ?? null;
    const twin = bareTwins.get(m) ?? makeMaterial(document, model, m, null);
    bareTwins.set(m, twin);
    return twin;
  };
  const tangents = new Map<number, Float32Array>();
  const tangentsFor = (set: number): Float32Array => {
    const known = tangents.get(set);
    if (known) return known;
    const found = cornerTangents({ ...model, uv: model.uvs[set] });
    tangents.set(set, found);
    return found;
  };
  const scene = document.createScene('Scene');
  document.getRoot().setDefaultScene(scene);
  const groups = new Map<number, number[]>();
  for (let f = 0; f < model.facePart.length; f++) {
    const key = model.facePart[f] * 65536 + model.faceMaterial[f];
    const list = groups.get(key);
    if (list) list.push(f);
    else groups.set(key, [f]);
  }
  const nodes = sceneNodes(document, scene, model);
  model.parts.forEach((name, part) => {
    const mesh = document.createMesh(name);
    const local = localTo(nodes.get(part));
    // Where its node does more than a mesh can be taken back from, the part stands beside it.
    if (!local) nodes.delete(part);
    for (const [key, faces] of groups) {
      if (Math.floor(key / 65536) !== part) continue;
      const m = key % 65536;
      const there = model.uvs.map((uv) => faces.every((f) => cornersOf(model, f).every((v) => isPlace(uv, v))));
      const set = pictures[m]?.uvSet ?? 0;
      const bare = !there[set];
      const { indices, vertices, corners } = compact(model, faces, pictures[m]?.normalPng && !bare ? tangentsFor(set) : null);
      const primitive = document.createPrimitive().setMaterial(materialOf(m, bare));
      const attribute = (
        semantic: string,
        type: 'VEC2' | 'VEC3' | 'VEC4',
        source: Float32Array,
        size: number,
        from: readonly number[] = vertices,
      ) => {
        const array = new Float32Array(from.length * size);
        from.forEach((v, i) => {
          for (let k = 0; k < size; k++) array[i * size + k] = source[v * size + k];
        });
        primitive.setAttribute(semantic, document.createAccessor().setType(type).setArray(array).setBuffer(buffer));
      };
      attribute('POSITION', 'VEC3', model.positions, 3);
      attribute('NORMAL', 'VEC3', model.normals, 3);
      if (corners) attribute('TANGENT', 'VEC4', tangentsFor(set), 4, corners);
      if (local) moveInto(local, primitive, indices);
      // Sets must be numbered without gaps; a set that this part lacks is written as zeros if a later one exists.
      for (let k = 0; k <= there.lastIndexOf(true); k++)
        attribute(`TEXCOORD_${k}`, 'VEC2', there[k] ? model.uvs[k] : new Float32Array(model.uvs[k].length), 2);
      primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(indices).setBuffer(buffer));
      mesh.addPrimitive(primitive);
    }
    if (!mesh.listPrimitives().length) return;
    const node = nodes.get(part);
    if (node) node.setMesh(mesh);
    else scene.addChild(document.createNode(name).setMesh(mesh));
  });
  const io = new WebIO().registerExtensions([KHRMaterialsEmissiveStrength]);
  if (!model.materials.some(({ carried }) => carried)) return io.writeBinary(document);
  const { json, resources } = await io.writeJSON(document, { format: Format.GLB });
  const carried: (Carried | null)[] = model.materials.map((material) => material.carried ?? null);
  for (const m of bareTwins.keys()) carried.push(carried[m] && withoutPictures(carried[m]));
  return glbWithCarried(json, resources[GLB_BUFFER] ?? new Uint8Array(0), carried);
}

/** The nodes that the file came with, and on which of them each part hangs. */
function sceneNodes(document: Document, scene: Scene, { nodes = [] }: Model): Map<number, Node> {
  const made = nodes.map(({ name, matrix, extras = {} }) =>
    document
      .createNode(name)
      .setMatrix(matrix as mat4)
      .setExtras(extras),
  );
  const parts = new Map<number, Node>();
  nodes.forEach(({ parent, part }, n) => {
    (made[parent] ?? scene).addChild(made[n]);
    if (part >= 0) parts.set(part, made[n]);
  });
  return parts;
}

/** From world space into a node's own, as it stands once it is written; null: there is no way. */
const localTo = (node: Node | undefined): number[] | null => (node ? inverse(node.getWorldMatrix()) : null);

function moveInto(local: readonly number[], primitive: Primitive, indices: Uint16Array | Uint32Array): void {
  const array = (semantic: string) => (primitive.getAttribute(semantic)?.getArray() ?? null) as Float32Array | null;
  const [positions, normals, tangents] = [array('POSITION')!, array('NORMAL')!, array('TANGENT')];
  const side = determinant3(local) < 0 ? -1 : 1;
  for (let v = 0; v < positions.length / 3; v++) {
    transform(positions, normals, v, local);
    const n = v * 3;
    const l = Math.hypot(normals[n], normals[n + 1], normals[n + 2]) || 1;
    for (let k = 0; k < 3; k++) normals[n + k] /= l;
    if (!tangents) continue;
    const t = v * 4;
    const to = [0, 1, 2].map((r) => local[r] * tangents[t] + local[4 + r] * tangents[t + 1] + local[8 + r] * tangents[t + 2]);
    const long = Math.hypot(...to) || 1;
    for (let k = 0; k < 3; k++) tangents[t + k] = to[k] / long;
    tangents[t + 3] *= side;
  }
  // A node that mirrors turns faces about when it is read.
  if (side < 0) for (let i = 0; i < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];
}

const cornersOf = ({ indices }: Model, f: number): number[] => [indices[f * 3], indices[f * 3 + 1], indices[f * 3 + 2]];
const isPlace = (uv: Float32Array, v: number): boolean => Number.isFinite(uv[v * 2]) && Number.isFinite(uv[v * 2 + 1]);

/**
 * The vertices that some faces use, and these faces by them. With tangents (4 × float32 a corner of the model) vertices part where
 * theirs do, and `corners` names one corner for each.
 */
function compact(model: Model, faces: number[], tangents: Float32Array | null) {
  const known = new Map<number | string, number>();
  const vertices: number[] = [];
  const corners: number[] | null = tangents ? [] : null;
  const indices = new Uint32Array(faces.length * 3);
  faces.forEach((f, n) => {
    for (let k = 0; k < 3; k++) {
      const c = f * 3 + k;
      const v = model.indices[c];
      const key = tangents ? `${v} ${tangents.subarray(c * 4, c * 4 + 4).join(' ')}` : v;
      let i = known.get(key);
      if (i === undefined) {
        i = vertices.push(v) - 1;
        corners?.push(c);
        known.set(key, i);
      }
      indices[n * 3 + k] = i;
    }
  });
  return { vertices, corners, indices: vertices.length < 65536 ? Uint16Array.from(indices) : indices };
}

/** The file's, or what is painted, whichever lets more through. Where light is transmitted nothing has to be blended. */
function alphaModeOf(source: ModelMaterial, painted?: AlphaUse): ModelMaterial['alphaMode'] {
  const blends = source.seeThrough && !source.carried?.extensions.KHR_materials_transmission;
  const modes = [source.alphaMode, painted ?? 'OPAQUE', blends ? 'BLEND' : 'OPAQUE'] as const;
  return modes.find((mode) => mode === 'BLEND') ?? modes.find((mode) => mode === 'MASK') ?? 'OPAQUE';
}

function makeMaterial(document: Document, model: Model, m: number, pictures: MaterialPictures | null): Material {
  const source = model.materials[m];
  const material = document
    .createMaterial(pictures?.name ?? source.name)
    .setDoubleSided(source.doubleSided)
    .setAlphaMode(alphaModeOf(source, pictures?.alpha))
    .setAlphaCutoff(source.alphaCutoff)
    .setEmissiveFactor(source.emissiveLinear);
  if (source.emissiveStrength !== 1)
    material.setExtension(
      'KHR_materials_emissive_strength',
      document
        .createExtension(KHRMaterialsEmissiveStrength)
        .createEmissiveStrength()
        .setEmissiveStrength(source.emissiveStrength),
    );
  if (!pictures)
    return material
      .setBaseColorFactor(source.baseColourLinear)
      .setMetallicFactor(source.metallic)
      .setRoughnessFactor(source.roughness);
  const REPEAT = 10497;
  const CLAMP = 33071;
  const texture = (name: string, png: Uint8Array) =>
    document
      .createTexture(`${material.getName()} ${name}`)
      .setMimeType('image/png')
      .setImage(png as Uint8Array<ArrayBuffer>);
  const settle = (info: ReturnType<Material['getBaseColorTextureInfo']>) =>
    info
      ?.setTexCoord(pictures.uvSet ?? 0)
      .setWrapS(pictures.wrapU === false ? CLAMP : REPEAT)
      .setWrapT(pictures.wrapV === false ? CLAMP : REPEAT);
  material.setBaseColorFactor([1, 1, 1, source.seeThrough ? source.baseColourLinear[3] : 1]);
  if (pictures.baseColourPng)
    settle(material.setBaseColorTexture(texture('base colour', pictures.baseColourPng)).getBaseColorTextureInfo());
  material.setRoughnessFactor(1).setMetallicFactor(1);
  if (pictures.ormPng) {
    const orm = texture('occlusion roughness metallic', pictures.ormPng);
    settle(material.setMetallicRoughnessTexture(orm).getMetallicRoughnessTextureInfo());
    settle(material.setOcclusionTexture(orm).getOcclusionTextureInfo());
  }
  if (pictures.emissivePng) {
    settle(material.setEmissiveTexture(texture('emissive', pictures.emissivePng)).getEmissiveTextureInfo());
    material.setEmissiveFactor([1, 1, 1]);
  }
  if (pictures.normalPng) settle(material.setNormalTexture(texture('normal', pictures.normalPng)).getNormalTextureInfo());
  return material;
}
