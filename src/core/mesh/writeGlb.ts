/** A model as GLB 2.0 through @gltf-transform: one mesh a part, one primitive a material in it. */
import { Document, WebIO, type Material } from '@gltf-transform/core';
import type { Model } from './model';

/** Encoded pictures of one material; all optional. `ormPng`: occlusion, roughness, metallic in R, G, B. */
export interface MaterialPictures {
  baseColourPng?: Uint8Array;
  ormPng?: Uint8Array;
  normalPng?: Uint8Array;
  /** UV set that the pictures belong to. */
  uvSet?: number;
  name?: string;
  wrapU?: boolean;
  wrapV?: boolean;
}

export async function writeGlb(model: Model, pictures: (MaterialPictures | null)[] = []): Promise<Uint8Array> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Brindle';
  const buffer = document.createBuffer();
  const materials = model.materials.map((_, m) => makeMaterial(document, model, m, pictures[m] ?? null));
  const scene = document.createScene('Scene');
  document.getRoot().setDefaultScene(scene);
  const groups = new Map<number, number[]>();
  for (let f = 0; f < model.facePart.length; f++) {
    const key = model.facePart[f] * 65536 + model.faceMaterial[f];
    const list = groups.get(key);
    if (list) list.push(f);
    else groups.set(key, [f]);
  }
  model.parts.forEach((name, part) => {
    const mesh = document.createMesh(name);
    for (const [key, faces] of groups) {
      if (Math.floor(key / 65536) !== part) continue;
      const { indices, vertices } = compact(model, faces);
      const primitive = document.createPrimitive().setMaterial(materials[key % 65536]);
      const attribute = (semantic: string, type: 'VEC2' | 'VEC3', source: Float32Array, size: number) => {
        const array = new Float32Array(vertices.length * size);
        vertices.forEach((v, i) => {
          for (let k = 0; k < size; k++) array[i * size + k] = source[v * size + k];
        });
        primitive.setAttribute(semantic, document.createAccessor().setType(type).setArray(array).setBuffer(buffer));
      };
      attribute('POSITION', 'VEC3', model.positions, 3);
      attribute('NORMAL', 'VEC3', model.normals, 3);
      let set = 0;
      // Sets must be numbered without gaps; a set that this part lacks is written as zeros if a later one exists.
      const has = model.uvs.map((uv) => vertices.every((v) => Number.isFinite(uv[v * 2]) && Number.isFinite(uv[v * 2 + 1])));
      for (let k = 0; k <= has.lastIndexOf(true); k++)
        attribute(`TEXCOORD_${set++}`, 'VEC2', has[k] ? model.uvs[k] : new Float32Array(model.uvs[k].length), 2);
      primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(indices).setBuffer(buffer));
      mesh.addPrimitive(primitive);
    }
    if (mesh.listPrimitives().length) scene.addChild(document.createNode(name).setMesh(mesh));
  });
  return new WebIO().writeBinary(document);
}

function compact(model: Model, faces: number[]) {
  const known = new Map<number, number>();
  const vertices: number[] = [];
  const indices = new Uint32Array(faces.length * 3);
  faces.forEach((f, n) => {
    for (let k = 0; k < 3; k++) {
      const v = model.indices[f * 3 + k];
      let i = known.get(v);
      if (i === undefined) {
        i = vertices.push(v) - 1;
        known.set(v, i);
      }
      indices[n * 3 + k] = i;
    }
  });
  return { vertices, indices: vertices.length < 65536 ? Uint16Array.from(indices) : indices };
}

function makeMaterial(document: Document, model: Model, m: number, pictures: MaterialPictures | null): Material {
  const source = model.materials[m];
  const material = document
    .createMaterial(pictures?.name ?? source.name)
    .setDoubleSided(source.doubleSided)
    .setAlphaMode(source.seeThrough ? 'BLEND' : 'OPAQUE');
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
  if (pictures.normalPng) settle(material.setNormalTexture(texture('normal', pictures.normalPng)).getNormalTextureInfo());
  return material;
}
