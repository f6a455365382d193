/**
 * The display planes of one sheet on the graphics card. Textures are made by hand so that a dab uploads only
 * the rectangles it changed, on every mip level, instead of a whole picture.
 */
import { ExternalTexture } from 'three';
import type { PixelPatch } from '../engine/protocol';
import type { Sheet } from '../core/document/schema';
import { PLANES, type PlaneId } from '../core/kinds/shown';

/** Texels on the longer side up to which a sheet is meant to show them: as squares, without blending. */
const LOW_RES = 128;
export const isLowRes = ({ width, height }: Pick<Sheet, 'width' | 'height'>): boolean => Math.max(width, height) <= LOW_RES;

export class SheetTextures {
  readonly width: number;
  readonly height: number;
  private handles = new Map<PlaneId, { handle: WebGLTexture; texture: ExternalTexture }>();

  constructor(
    private gl: WebGL2RenderingContext,
    private sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>,
    /** On a model UVs may lie in another turn of the square: textures repeat, as in glTF. */
    private onModel: boolean,
    private anisotropyWanted: number,
  ) {
    this.width = sheet.width;
    this.height = sheet.height;
  }

  /** Made when it is first asked for: few sheets have all planes. */
  texture(plane: PlaneId): ExternalTexture {
    return this.plane(plane).texture;
  }

  private plane(plane: PlaneId) {
    let made = this.handles.get(plane);
    if (!made) this.handles.set(plane, (made = this.make(plane)));
    return made;
  }

  private make(plane: PlaneId) {
    const { gl, sheet } = this;
    const wrapU = this.onModel || sheet.wrapU;
    const wrapV = this.onModel || sheet.wrapV;
    const levels = Math.floor(Math.log2(Math.max(sheet.width, sheet.height))) + 1;
    const anisotropy = gl.getExtension('EXT_texture_filter_anisotropic');
    const handle = gl.createTexture()!;
    gl.bindTexture(gl.TEXTURE_2D, handle);
    const format = PLANES[plane].encoding === 'srgb' ? gl.SRGB8_ALPHA8 : gl.RGBA8;
    gl.texStorage2D(gl.TEXTURE_2D, levels, format, sheet.width, sheet.height);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, isLowRes(sheet) ? gl.NEAREST : gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, wrapU ? gl.REPEAT : gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, wrapV ? gl.REPEAT : gl.CLAMP_TO_EDGE);
    // Drivers may blend over several texels in spite of the filter.
    if (anisotropy && !isLowRes(sheet)) {
      const most = gl.getParameter(anisotropy.MAX_TEXTURE_MAX_ANISOTROPY_EXT) as number;
      gl.texParameterf(gl.TEXTURE_2D, anisotropy.TEXTURE_MAX_ANISOTROPY_EXT, Math.min(this.anisotropyWanted, most));
    }
    gl.bindTexture(gl.TEXTURE_2D, null);
    return { handle, texture: new ExternalTexture(handle) };
  }

  /** The caller resets three's texture state afterwards. Texels of another size of the sheet are left out. */
  upload({ plane, rects, data }: PixelPatch): void {
    const { gl } = this;
    if (rects[0].x + rects[0].width > this.width || rects[0].y + rects[0].height > this.height) return;
    gl.bindTexture(gl.TEXTURE_2D, this.plane(plane).handle);
    let at = 0;
    rects.forEach((r, level) => {
      gl.texSubImage2D(gl.TEXTURE_2D, level, r.x, r.y, r.width, r.height, gl.RGBA, gl.UNSIGNED_BYTE, data, at);
      at += r.width * r.height * 4;
    });
  }

  dispose(): void {
    for (const { handle } of this.handles.values()) this.gl.deleteTexture(handle);
  }
}
