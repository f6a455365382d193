/**
 * The light around the model: an overcast sky over a quay, with soft windows for metals to reflect. It is prepared ahead
 * (demo/light), since preparing it for every roughness would add a second or two to each start on software graphics.
 *
 * The file, deflated, little-endian. First 3 × 31 32-bit floats: how the light shades matte surfaces (core/light/shading.ts),
 * for red, green and blue. Then half floats: for each level from the sharpest, for each face (+X −X +Y −Y +Z −Z), all reds,
 * all greens, all blues, in the row order of graphics cards. Linear light.
 */
import {
  CompressedCubeTexture,
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  RGBAFormat,
  ShaderChunk,
  Vector3,
  type Material,
  type Texture,
} from 'three';
import { SHADE_GLSL, SHADING_TERMS } from '../core/light/shading';

/** Pixels along a face of the sharpest level, for mirrors. The last level is for full roughness. */
export const LIGHT_SIZE = 256;
export const LIGHT_LEVELS = 6;
const FILE = '/light.bin';
const HALF_ONE = 0x3c00;
/** After a lost connection the file is requested again. */
const RETRY_MS = 2000;

interface Level {
  width: number;
  height: number;
  data: Uint16Array;
}
type Face = { width: number; height: number; mipmaps: Level[] };

export interface Light {
  /** What shiny surfaces reflect, prepared for every roughness. */
  texture: Texture;
  /** What matte surfaces show: a uniform that every lit material shares. */
  shading: { value: Vector3[] };
}

/** Pixels along a face, level by level. */
const levelSizes = Array.from({ length: LIGHT_LEVELS }, (_, n) => LIGHT_SIZE >> n);
const HALVES = levelSizes.reduce((sum, size) => sum + size * size * 6 * 3, 0);
const SHADING_BYTES = SHADING_TERMS.length * 3 * 4;

/** Fills faces (with an alpha of 1) and shading from the plain bytes of a file. Throws, changing nothing, if the length is wrong. */
export function unpackLight(bytes: ArrayBuffer, faces: Face[], shading: Vector3[]): void {
  const due = SHADING_BYTES + HALVES * 2;
  if (bytes.byteLength !== due) throw new Error(`The light has ${bytes.byteLength} bytes, not ${due}.`);
  const terms = new Float32Array(bytes, 0, SHADING_BYTES / 4);
  shading.forEach((term, n) => term.fromArray([0, 1, 2].map((c) => terms[c * SHADING_TERMS.length + n])));
  const halves = new Uint16Array(bytes, SHADING_BYTES);
  let from = 0;
  levelSizes.forEach((size, level) => {
    const n = size * size;
    for (const { mipmaps } of faces) {
      const { data } = mipmaps[level];
      for (let c = 0; c < 3; c++, from += n) for (let i = 0; i < n; i++) data[i * 4 + c] = halves[from + i];
      for (let i = 0; i < n; i++) data[i * 4 + 3] = HALF_ONE;
    }
  });
}

/** Black until its file has been loaded. `changed` is called then. */
export function loadLight(changed: () => void): Light {
  const faces: Face[] = Array.from({ length: 6 }, () => ({
    width: LIGHT_SIZE,
    height: LIGHT_SIZE,
    mipmaps: levelSizes.map((size) => ({ width: size, height: size, data: new Uint16Array(size * size * 4) })),
  }));
  const texture = new CompressedCubeTexture(faces as never, RGBAFormat as never, HalfFloatType);
  texture.minFilter = LinearMipmapLinearFilter;
  texture.magFilter = LinearFilter;
  texture.generateMipmaps = false;
  // It is prepared for every roughness, and its axes are those of a texture that a renderer has drawn.
  texture.isRenderTargetTexture = true;
  (texture as { isPMREMTexture?: boolean }).isPMREMTexture = true;
  texture.needsUpdate = true;
  const shading = { value: SHADING_TERMS.map(() => new Vector3()) };
  let disposed = false;
  let retry: ReturnType<typeof setTimeout> | undefined;
  texture.addEventListener('dispose', () => {
    disposed = true;
    clearTimeout(retry);
  });
  const load = async (): Promise<void> => {
    const answer = await fetch(FILE);
    if (!answer.ok) throw new Error(`The light around the model could not be loaded (${answer.status}).`);
    const plain = answer.body!.pipeThrough(new DecompressionStream('deflate'));
    unpackLight(await new Response(plain).arrayBuffer(), faces, shading.value);
    texture.needsUpdate = true;
    changed();
  };
  const loadOrRetry = (): void => {
    void load().catch(() => {
      if (!disposed) retry = setTimeout(loadOrRetry, RETRY_MS);
    });
  };
  loadOrRetry();
  return { texture, shading };
}

/**
 * Three reads both what matte surfaces show and what the roughest ones reflect from faces of 8 × 8 pixels, whose edges show
 * as lines and hexagons on round models. At full roughness the prepared picture is the same integral that the shading states
 * exactly, so the shading replaces it; the level before it is fine enough.
 */
const LIT_CHUNK = (() => {
  const [matte, rough] = [
    'textureLod( envMap, envMapRotation * worldNormal, ENVMAP_MAX_LOD )',
    'textureLod( envMap, envMapRotation * reflectVec, roughnessToMip( roughness ) )',
  ];
  const chunk = ShaderChunk.envmap_physical_pars_fragment;
  if (![matte, rough].every((read) => chunk.includes(read)))
    throw new Error('This version of three reads its light in another way: adapt src/viewport/light.ts.');
  return `
#ifdef USE_ENVMAP
${SHADE_GLSL}
  vec3 reflectedAt(vec3 direction, float lod) {
    float last = ENVMAP_MAX_LOD - 1.0;
    vec3 sharp = textureLod(envMap, direction, min(lod, last)).rgb;
    return lod > last ? mix(sharp, shadeAt(direction), lod - last) : sharp;
  }
#endif
${chunk
  .replace(matte, 'vec4(shadeAt(envMapRotation * worldNormal), 1.0)')
  .replace(rough, 'vec4(reflectedAt(envMapRotation * reflectVec, roughnessToMip(roughness)), 1.0)')}`;
})();

/** Makes a physical material of three's read this light. To be called from its `onBeforeCompile`. */
export function lightShader(shader: Parameters<Material['onBeforeCompile']>[0], { shading }: Light): void {
  shader.uniforms.shading = shading;
  shader.fragmentShader = shader.fragmentShader.replace('#include <envmap_physical_pars_fragment>', LIT_CHUNK);
}
