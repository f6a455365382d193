/**
 * The light around the model: an overcast sky over a quay, with soft windows for metals to reflect. Made ahead
 * (demo/light), since preparing it for every roughness takes software graphics a second or two of each opening.
 *
 * The file, deflated: half floats, little end first; for each level from the sharpest, for each face (+X −X +Y −Y +Z −Z),
 * all reds, all greens, all blues, in the order in which graphics hold them. Linear light.
 */
import { CompressedCubeTexture, HalfFloatType, LinearFilter, LinearMipmapLinearFilter, RGBAFormat, type Texture } from 'three';

/** Pixels of a face of the sharpest level, for mirrors; the last is for what is all rough. */
export const LIGHT_SIZE = 128;
export const LIGHT_LEVELS = 5;
const FILE = '/light.bin';
const ONE = 0x3c00;
/** When the connection was lost, it is asked for again. */
const AGAIN_MS = 2000;

interface Level {
  width: number;
  height: number;
  data: Uint16Array;
}
type Face = { width: number; height: number; mipmaps: Level[] };

/** Pixels of a face, level by level. */
const levelSizes = Array.from({ length: LIGHT_LEVELS }, (_, n) => LIGHT_SIZE >> n);
const NUMBERS = levelSizes.reduce((sum, size) => sum + size * size * 6 * 3, 0);

/** From the file's numbers to pixels with an alpha of 1. Throws if they are not as many. */
export function unpackLight(halves: Uint16Array, faces: Face[]): void {
  if (halves.length !== NUMBERS) throw new Error(`The light has ${halves.length} numbers, not ${NUMBERS}.`);
  let from = 0;
  levelSizes.forEach((size, level) => {
    const n = size * size;
    for (const { mipmaps } of faces) {
      const { data } = mipmaps[level];
      for (let c = 0; c < 3; c++, from += n) for (let i = 0; i < n; i++) data[i * 4 + c] = halves[from + i];
      for (let i = 0; i < n; i++) data[i * 4 + 3] = ONE;
    }
  });
}

/** Black until it has come; what is made with it in the meantime stays as it is made. `changed`: told when it is there. */
export function loadLight(changed: () => void): Texture {
  const faces: Face[] = Array.from({ length: 6 }, () => ({
    width: LIGHT_SIZE,
    height: LIGHT_SIZE,
    mipmaps: levelSizes.map((size) => ({ width: size, height: size, data: new Uint16Array(size * size * 4) })),
  }));
  const texture = new CompressedCubeTexture(faces as never, RGBAFormat as never, HalfFloatType);
  texture.minFilter = LinearMipmapLinearFilter;
  texture.magFilter = LinearFilter;
  texture.generateMipmaps = false;
  // Prepared for every roughness, with axes as a renderer's own pictures have them.
  texture.isRenderTargetTexture = true;
  (texture as { isPMREMTexture?: boolean }).isPMREMTexture = true;
  texture.needsUpdate = true;
  let wanted = true;
  texture.addEventListener('dispose', () => (wanted = false));
  const come = async (): Promise<void> => {
    const answer = await fetch(FILE);
    if (!answer.ok) throw new Error(`The light around the model did not come (${answer.status}).`);
    const plain = answer.body!.pipeThrough(new DecompressionStream('deflate'));
    unpackLight(new Uint16Array(await new Response(plain).arrayBuffer()), faces);
    texture.needsUpdate = true;
    changed();
  };
  const tryIt = (): void => {
    if (wanted) void come().catch(() => setTimeout(tryIt, AGAIN_MS));
  };
  tryIt();
  return texture;
}
