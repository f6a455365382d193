/**
 * The display planes of one sheet on the graphics card. Textures are made by hand so that a dab uploads only
 * the rectangles it changed, on every mip level, instead of a whole picture.
 */
import { ExternalTexture } from 'three';
import type { PixelPatch } from '../engine/protocol';
import type { Sheet } from '../core/document/schema';
import { PLANE_IDS, PLANES, type PlaneId } from '../core/strata/displayPlanes';

export class SheetTextures {
  readonly textures = {} as Record<PlaneId, ExternalTexture>;
  private handles = {} as Record<PlaneId, WebGLTexture>;

  constructor(
    private gl: WebGL2RenderingContext,
    sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>,
    /** On a model UVs may lie in another turn of the square: textures repeat, as in glTF. */
    onModel: boolean,
    anisotropyWanted: number,
  ) {
    const { width, height } = sheet;
    const wrapU = onModel || sheet.wrapU;
    const wrapV = onModel || sheet.wrapV;
    const levels = Math.floor(Math.log2(Math.max(width, height))) + 1;
    const anisotropy = gl.getExtension('EXT_texture_filter_anisotropic');
    for (const plane of PLANE_IDS) {
      const handle = gl.createTexture()!;
      gl.bindTexture(gl.TEXTURE_2D, handle);
      const format = PLANES[plane].encoding === 'srgb' ? gl.SRGB8_ALPHA8 : gl.RGBA8;
      gl.texStorage2D(gl.TEXTURE_2D, levels, format, width, height);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.LINEAR);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, wrapU ? gl.REPEAT : gl.CLAMP_TO_EDGE);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, wrapV ? gl.REPEAT : gl.CLAMP_TO_EDGE);
      if (anisotropy) {
        const most = gl.getParameter(anisotropy.MAX_TEXTURE_MAX_ANISOTROPY_EXT) as number;
        gl.texParameterf(gl.TEXTURE_2D, anisotropy.TEXTURE_MAX_ANISOTROPY_EXT, Math.min(anisotropyWanted, most));
      }
      this.handles[plane] = handle;
      this.textures[plane] = new ExternalTexture(handle);
    }
    gl.bindTexture(gl.TEXTURE_2D, null);
  }

  /** The caller resets three's texture state afterwards. */
  upload({ plane, rects, data }: PixelPatch): void {
    const { gl } = this;
    gl.bindTexture(gl.TEXTURE_2D, this.handles[plane]);
    let at = 0;
    rects.forEach((r, level) => {
      gl.texSubImage2D(gl.TEXTURE_2D, level, r.x, r.y, r.width, r.height, gl.RGBA, gl.UNSIGNED_BYTE, data, at);
      at += r.width * r.height * 4;
    });
  }

  dispose(): void {
    for (const plane of PLANE_IDS) this.gl.deleteTexture(this.handles[plane]);
  }
}
