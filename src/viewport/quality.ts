/** How much the graphics can afford. Without a card every sample is computed by the processor that also paints. */
export interface Quality {
  antialias: boolean;
  anisotropy: number;
  maxPixelRatio: number;
  /** A guess at what the first frame takes. */
  frameMs: number;
  /** Every picture of the page is costly, whatever moves in it: what follows the pointer moves with the frames of the work. */
  costlyPage: boolean;
}

const FULL: Quality = { antialias: true, anisotropy: 8, maxPixelRatio: 2, frameMs: 4, costlyPage: false };
/** Measured with Mesa's software renderer on two cores: a frame of the lantern takes a third of the full one, the page itself 30 ms. */
const SPARING: Quality = { antialias: false, anisotropy: 2, maxPixelRatio: 1, frameMs: 120, costlyPage: true };

export function chooseQuality(): Quality {
  const gl = new OffscreenCanvas(1, 1).getContext('webgl2');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /llvmpipe|softpipe|swiftshader|software/i.test(name) ? SPARING : FULL;
}
