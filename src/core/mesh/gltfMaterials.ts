/** Materials of a glTF file: factors, pictures, and how each picture is laid on (glTF 2.0, 3.9; KHR_texture_transform). */
import { TextureInfo, type Material, type Texture } from '@gltf-transform/core';
import type { EmissiveStrength, Transform } from '@gltf-transform/extensions';
import { called } from './gltfChecks';
import type { ModelMaterial, ModelPicture, PictureWrap } from './model';

const WRAPS: Record<number, PictureWrap> = {
  [TextureInfo.WrapMode.CLAMP_TO_EDGE]: 'clamp',
  [TextureInfo.WrapMode.MIRRORED_REPEAT]: 'mirror',
  [TextureInfo.WrapMode.REPEAT]: 'repeat',
};

export function readMaterial(material: Material, notes: string[]): ModelMaterial {
  const picture = (texture: Texture | null, info: TextureInfo | null, what: string): ModelPicture | null => {
    const bytes = texture?.getImage();
    if (!bytes || bytes.length === 0) return null;
    const mime = texture!.getMimeType();
    if (mime === 'image/ktx2') {
      notes.push(
        `The ${what} picture of ${called(material.getName())} is KTX2, which is not read: export the model with PNG or JPEG pictures to have it.`,
      );
      return null;
    }
    const moved = info?.getExtension<Transform>('KHR_texture_transform') ?? null;
    return {
      mime,
      bytes,
      uvSet: moved?.getTexCoord() ?? info?.getTexCoord() ?? 0,
      wrap: [WRAPS[info?.getWrapS() ?? 0] ?? 'repeat', WRAPS[info?.getWrapT() ?? 0] ?? 'repeat'],
      transform: moved && { offset: [...moved.getOffset()], turn: moved.getRotation(), scale: [...moved.getScale()] },
    };
  };
  const factor = material.getBaseColorFactor();
  return {
    name: material.getName(),
    baseColourLinear: [factor[0], factor[1], factor[2], factor[3]],
    metallic: material.getMetallicFactor(),
    roughness: material.getRoughnessFactor(),
    seeThrough: material.getAlphaMode() === 'BLEND' || material.getExtension('KHR_materials_transmission') !== null,
    alphaMode: material.getAlphaMode(),
    alphaCutoff: material.getAlphaCutoff(),
    emissiveLinear: [...material.getEmissiveFactor()] as [number, number, number],
    emissiveStrength: material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1,
    normalScale: material.getNormalScale(),
    occlusionStrength: material.getOcclusionStrength(),
    doubleSided: material.getDoubleSided(),
    baseColourPicture: picture(material.getBaseColorTexture(), material.getBaseColorTextureInfo(), 'base colour'),
    metallicRoughnessPicture: picture(
      material.getMetallicRoughnessTexture(),
      material.getMetallicRoughnessTextureInfo(),
      'metallic-roughness',
    ),
    normalPicture: picture(material.getNormalTexture(), material.getNormalTextureInfo(), 'normal'),
    emissivePicture: picture(material.getEmissiveTexture(), material.getEmissiveTextureInfo(), 'emissive'),
    occlusionPicture: picture(material.getOcclusionTexture(), material.getOcclusionTextureInfo(), 'occlusion'),
  };
}
