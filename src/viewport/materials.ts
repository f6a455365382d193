/** How sheets are drawn: lit, or one map alone with exact values. */
import { DoubleSide, FrontSide, GLSL3, MeshStandardMaterial, ShaderMaterial, Vector2, type Side } from 'three';
import type { MapId } from '../core/kinds/maps';
import { fenceAtWork } from '../core/document/fence';
import type { Sheet } from '../core/document/schema';
import { PLAUSIBLE_ALBEDO } from '../core/kinds/filters/more';
import { mapOn, shownOn } from '../core/kinds/shown';
import { lightShader, type Light } from './light';
import type { PlaneTextures } from './sheetTextures';

export type View = 'lit' | MapId;
/** `bake`: a bake is looked at instead; its texels come in the plane `view`, three channels. */
export type Looking = View | 'bake';
/** How a mask is looked at: grey by itself, tinted over what is seen, or what it lets through on black. */
export type MaskMode = 'alone' | 'over' | 'black';

/**
 * Stripes over what a fence keeps clean; what it lets through is not touched. One read more a pixel. `c`: the colour as it goes
 * to the screen; stripes are dark on light and light on dark.
 */
const HATCH = `
  vec3 hatched(vec3 c, vec2 at, sampler2D fence) {
    float outside = step(texture(fence, at).r, 0.5);
    float stripe = step(0.78, fract((gl_FragCoord.x - gl_FragCoord.y) / 9.0));
    float light = step(dot(c, vec3(0.3, 0.59, 0.11)), 0.45);
    return mix(c, vec3(light), 0.5 * outside * stripe);
  }`;

const isFenced = (sheet: Sheet): boolean => fenceAtWork(sheet) !== null;

type Shader = Parameters<MeshStandardMaterial['onBeforeCompile']>[0];

/** Adds the hatch of a fence to a shader of three's own. */
function hatch(shader: Shader, t: PlaneTextures): void {
  shader.uniforms.fence = { value: t.texture('fence') };
  shader.fragmentShader = shader.fragmentShader
    .replace('void main() {', `uniform sampler2D fence;\n${HATCH}\nvoid main() {`)
    .replace(
      '#include <dithering_fragment>',
      '#include <dithering_fragment>\ngl_FragColor.rgb = hatched(gl_FragColor.rgb, vMapUv, fence);',
    );
}

export function litMaterial(sheet: Sheet, t: PlaneTextures, light: Light): MeshStandardMaterial {
  const seeThrough = sheet.preview.alpha < 1 || sheet.maps.includes(mapOn('colour', 3));
  const occluded = sheet.maps.includes(mapOn('surface', 0));
  const glows = sheet.maps.includes(mapOn('emissive', 0));
  const material = new MeshStandardMaterial({
    map: t.texture('colour'),
    roughnessMap: t.texture('surface'),
    metalnessMap: t.texture('surface'),
    normalMap: t.texture('normal'),
    aoMap: occluded ? t.texture('surface') : null,
    emissiveMap: glows ? t.texture('emissive') : null,
    emissive: glows ? 0xffffff : 0x000000,
    // Our V runs down; three's tangents come from UV derivatives and want Y the other way round.
    normalScale: new Vector2(1, -1),
    roughness: 1,
    metalness: 1,
    transparent: seeThrough,
    opacity: sheet.preview.alpha,
    depthWrite: sheet.preview.alpha >= 1,
    side: sheet.preview.doubleSided ? DoubleSide : FrontSide,
  });
  const fenced = isFenced(sheet);
  material.onBeforeCompile = (shader) => {
    lightShader(shader, light);
    if (fenced) hatch(shader, t);
  };
  material.customProgramCacheKey = () => (fenced ? 'lit, fenced' : 'lit');
  return material;
}

const VERTEX = `
  out vec2 vUvs;
  out float vForm;
  uniform vec2 repeats;
  in float form;
  void main() {
    vUvs = uv * repeats;
    vForm = form;
    gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  }`;

/**
 * `crisp`: texels as squares where one is two pixels or more (the flat pane). Colour goes through the sRGB encoding of the
 * output; values are written as they are, so that the screen shows exactly the stored 8-bit value. `formed`: shaded by shape
 * (core/mesh/form.ts): an attribute, 0 where a geometry has none.
 */
const FRAGMENT = `
  in vec2 vUvs;
  in float vForm;
  out vec4 result;
  uniform float formed;
  uniform sampler2D map;
  uniform int channel;
  uniform vec2 size;
  uniform float crisp;
  uniform vec2 wraps;
  uniform int overlay;
  uniform vec3 tint;
  uniform vec2 plausible;
  uniform sampler2D fence;
  uniform float fenced;
  ${HATCH}
  void main() {
    vec2 at = vUvs;
    vec4 texel;
    vec2 spread = fwidth(at * size);
    if (crisp > 0.5 && max(spread.x, spread.y) < 0.5) {
      vec2 inside = mix(clamp(at, 0.0, 1.0), fract(at), wraps);
      texel = texelFetch(map, ivec2(min(inside * vec2(textureSize(map, 0)), vec2(textureSize(map, 0)) - 1.0)), 0);
    } else texel = texture(map, at);
    if (overlay == 3) {
      // Stripes over what is darker (cool) or lighter (warm) than any surface that is no metal.
      vec3 c = mix(1.055 * pow(texel.rgb, vec3(1.0 / 2.4)) - 0.055, texel.rgb * 12.92, vec3(lessThanEqual(texel.rgb, vec3(0.0031308))));
      float l = dot(c, vec3(0.3, 0.59, 0.11));
      float stripe = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0));
      float off = l < plausible.x || l > plausible.y ? 1.0 : 0.0;
      result = vec4(l < plausible.x ? vec3(0.2, 0.45, 1.0) : vec3(1.0, 0.25, 0.1), 0.85 * off * stripe);
    } else if (channel == -2) result = vec4(texel.rgb, 1.0);
    else if (overlay > 0) {
      // Straight alpha: 1 tints where the mask shows, 2 blackens where it hides.
      float m = texel.r;
      result = overlay == 1 ? vec4(tint, 0.62 * m) : vec4(0.0, 0.0, 0.0, 1.0 - m);
    } else if (channel < 0) {
      vec3 c = texel.rgb;
      vec3 low = c * 12.92;
      vec3 high = 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055;
      result = vec4(mix(high, low, vec3(lessThanEqual(c, vec3(0.0031308)))), 1.0);
    } else {
      float v = channel == 0 ? texel.r : channel == 1 ? texel.g : channel == 2 ? texel.b : texel.a;
      result = vec4(vec3(v), 1.0);
    }
    if (overlay == 0) result.rgb = mix(result.rgb, vec3(step(vForm, 0.0)), abs(vForm) * formed);
    if (fenced > 0.5 && overlay == 0) result.rgb = hatched(result.rgb, at, fence);
  }`;

/** A blue-green that few materials have, so that it stands out on most of them; as the screen shows it. */
const TINT: [number, number, number] = [0.05, 0.72, 0.85];

export function mapMaterial(
  sheet: Sheet,
  t: PlaneTextures,
  map: MapId | 'mask' | 'bake',
  side: Side = FrontSide,
  overlay: 'none' | 'over' | 'black' | 'albedo' = 'none',
  formed = false,
): ShaderMaterial {
  const { plane, channel } = shownOn(map);
  const over = overlay !== 'none';
  return new ShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side,
    transparent: over,
    depthWrite: !over,
    polygonOffset: over,
    polygonOffsetFactor: -1,
    polygonOffsetUnits: -1,
    uniforms: {
      map: { value: t.texture(plane) },
      channel: { value: channel },
      size: { value: new Vector2(sheet.width, sheet.height) },
      repeats: { value: new Vector2(1, 1) },
      formed: { value: formed ? 1 : 0 },
      crisp: { value: 0 },
      wraps: { value: new Vector2(sheet.wrapU ? 1 : 0, sheet.wrapV ? 1 : 0) },
      overlay: { value: { none: 0, over: 1, black: 2, albedo: 3 }[overlay] },
      plausible: { value: new Vector2(PLAUSIBLE_ALBEDO.low, PLAUSIBLE_ALBEDO.high) },
      tint: { value: TINT },
      fenced: { value: isFenced(sheet) && !over ? 1 : 0 },
      fence: { value: isFenced(sheet) && !over ? t.texture('fence') : null },
    },
  });
}
