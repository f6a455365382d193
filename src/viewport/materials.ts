/** How sheets are drawn: lit, or one map alone with exact values. */
import { DoubleSide, FrontSide, GLSL3, MeshStandardMaterial, ShaderMaterial, Vector2, type Side } from 'three';
import type { MapId } from '../core/document/maps';
import type { Sheet } from '../core/document/schema';
import type { SheetTextures } from './sheetTextures';

export type View = 'lit' | MapId;

/** Which plane and channel shows a map; channel −1: colour. */
export const VIEW_SOURCE: Record<MapId, { plane: 'colour' | 'surface'; channel: number }> = {
  'base-colour': { plane: 'colour', channel: -1 },
  height: { plane: 'surface', channel: 0 },
  roughness: { plane: 'surface', channel: 1 },
  metallic: { plane: 'surface', channel: 2 },
};

export function litMaterial(sheet: Sheet, t: SheetTextures): MeshStandardMaterial {
  const seeThrough = sheet.preview.alpha < 1;
  return new MeshStandardMaterial({
    map: t.textures.colour,
    roughnessMap: t.textures.surface,
    metalnessMap: t.textures.surface,
    normalMap: t.textures.normal,
    // Our V runs down; three's tangents come from UV derivatives and want Y the other way round.
    normalScale: new Vector2(1, -1),
    roughness: 1,
    metalness: 1,
    transparent: seeThrough,
    opacity: sheet.preview.alpha,
    depthWrite: !seeThrough,
    side: sheet.preview.doubleSided ? DoubleSide : FrontSide,
  });
}

const VERTEX = `
  out vec2 vUvs;
  uniform vec2 repeats;
  void main() {
    vUvs = uv * repeats;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;

/**
 * `crisp`: texels as squares when enlarged (the flat pane). Colour goes through the sRGB encoding of the
 * output; values are written as they are, so that the screen shows exactly the stored 8-bit value.
 */
const FRAGMENT = `
  in vec2 vUvs;
  out vec4 result;
  uniform sampler2D map;
  uniform int channel;
  uniform vec2 size;
  uniform float crisp;
  uniform vec2 wraps;
  void main() {
    vec2 at = vUvs;
    vec4 texel;
    if (crisp > 0.5) {
      vec2 inside = mix(clamp(at, 0.0, 1.0), fract(at), wraps);
      texel = texelFetch(map, ivec2(min(inside * size, size - 1.0)), 0);
    } else texel = texture(map, at);
    if (channel < 0) {
      vec3 c = texel.rgb;
      vec3 low = c * 12.92;
      vec3 high = 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055;
      result = vec4(mix(high, low, vec3(lessThanEqual(c, vec3(0.0031308)))), 1.0);
    } else {
      float v = channel == 0 ? texel.r : channel == 1 ? texel.g : texel.b;
      result = vec4(vec3(v), 1.0);
    }
  }`;

export function mapMaterial(sheet: Sheet, t: SheetTextures, map: MapId, side: Side = FrontSide): ShaderMaterial {
  const { plane, channel } = VIEW_SOURCE[map];
  return new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side,
    uniforms: {
      map: { value: t.textures[plane] },
      channel: { value: channel },
      size: { value: new Vector2(sheet.width, sheet.height) },
      repeats: { value: new Vector2(1, 1) },
      crisp: { value: 0 },
      wraps: { value: new Vector2(sheet.wrapU ? 1 : 0, sheet.wrapV ? 1 : 0) },
    },
  });
}
