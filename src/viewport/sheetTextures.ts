/**
 * The display planes of one sheet on the graphics card. Textures are made by hand so that a dab uploads only
 * the rectangles it changed, on every mip level, instead of a whole picture. A plane that is even all over is one texel.
 */
import { ExternalTexture } from 'three';
import { extentOf, partsOf } from '../core/tile/mips';
import type { PixelPatch } from '../engine/protocol';
import type { Sheet } from '../core/document/schema';
import { PLANES, type PlaneId } from '../core/kinds/shown';

/** Texels on the longer side up to which a sheet is meant to show them: as squares, without blending. */
const LOW_RES = 128;
export const isLowRes = ({ width, height }: Pick<Sheet, 'width' | 'height'>): boolean => Math.max(width, height) <= LOW_RES;

/** Rows that are filled at once where an even plane becomes one of texels. */
const FILL_BYTES = 1 << 20;

/** What materials ask of a sheet's planes. */
export interface PlaneTextures {
  /** Made when it is first asked for: few sheets have all planes. */
  texture(plane: PlaneId): ExternalTexture;
}

interface Plane {
  texture: ExternalTexture;
  handle: WebGLTexture;
  /** The one texel that it consists of; null: it has all of them. */
  even: Uint8Array | null;
}

export class SheetTextures implements PlaneTextures {
  readonly width: number;
  readonly height: number;
  private planes = new Map<PlaneId, Plane>();

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

  texture(plane: PlaneId): ExternalTexture {
    return this.plane(plane).texture;
  }

  private plane(id: PlaneId): Plane {
    let plane = this.planes.get(id);
    if (!plane) {
      const handle = this.make(id, 1, 1);
      this.planes.set(id, (plane = { texture: new ExternalTexture(handle), handle, even: new Uint8Array(4) }));
      this.gl.bindTexture(this.gl.TEXTURE_2D, null);
    }
    return plane;
  }

  /** Leaves it bound. */
  private make(id: PlaneId, width: number, height: number): WebGLTexture {
    const { gl, sheet } = this;
    const wrapU = this.onModel || sheet.wrapU;
    const wrapV = this.onModel || sheet.wrapV;
    const levels = Math.floor(Math.log2(Math.max(width, height))) + 1;
    const anisotropy = gl.getExtension('EXT_texture_filter_anisotropic');
    const handle = gl.createTexture()!;
    gl.bindTexture(gl.TEXTURE_2D, handle);
    gl.texStorage2D(gl.TEXTURE_2D, levels, PLANES[id].encoding === 'srgb' ? gl.SRGB8_ALPHA8 : gl.RGBA8, width, height);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, isLowRes(sheet) ? gl.NEAREST : gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, wrapU ? gl.REPEAT : gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, wrapV ? gl.REPEAT : gl.CLAMP_TO_EDGE);
    // Drivers may blend over several texels in spite of the filter.
    if (anisotropy && !isLowRes(sheet)) {
      const most = gl.getParameter(anisotropy.MAX_TEXTURE_MAX_ANISOTROPY_EXT) as number;
      gl.texParameterf(gl.TEXTURE_2D, anisotropy.TEXTURE_MAX_ANISOTROPY_EXT, Math.min(this.anisotropyWanted, most));
    }
    return handle;
  }

  /** Materials keep their texture, which is another one on the card. Leaves it bound. */
  private replace(id: PlaneId, width: number, height: number): Plane {
    const plane = this.plane(id);
    this.gl.deleteTexture(plane.handle);
    plane.handle = plane.texture.sourceTexture = this.make(id, width, height);
    return plane;
  }

  /** The caller resets three's texture state afterwards. Texels of another size of the sheet are left out. */
  upload(patch: PixelPatch): void {
    const { plane: id, data } = patch;
    const { gl, width, height } = this;
    const extent = extentOf(patch);
    if (!extent) {
      const plane = this.plane(id).even ? this.plane(id) : this.replace(id, 1, 1);
      gl.bindTexture(gl.TEXTURE_2D, plane.handle);
      gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, data, 0);
      plane.even = data;
      return;
    }
    if (extent.x + extent.width > width || extent.y + extent.height > height) return;
    if (this.plane(id).even) this.fill(id);
    else gl.bindTexture(gl.TEXTURE_2D, this.plane(id).handle);
    for (const { level, rect, texels } of partsOf(patch)) {
      const { x, y, width: columns, height: rows } = rect;
      gl.texSubImage2D(gl.TEXTURE_2D, level, x, y, columns, rows, gl.RGBA, gl.UNSIGNED_BYTE, texels);
    }
  }

  /** From one texel to all of them, the same. Leaves it bound. */
  private fill(id: PlaneId): void {
    const { gl } = this;
    const texel = this.plane(id).even!;
    const plane = this.replace(id, this.width, this.height);
    plane.even = null;
    // New storage is zero.
    if (texel.every((v) => v === 0)) return;
    const rows = Math.min(this.height, Math.max(1, Math.floor(FILL_BYTES / 4 / this.width)));
    const strip = new Uint8Array(this.width * rows * 4);
    new Uint32Array(strip.buffer).fill(new Uint32Array(texel.slice().buffer)[0]);
    for (let level = 0, w = this.width, h = this.height; ; level++, w = Math.max(1, w >> 1), h = Math.max(1, h >> 1)) {
      for (let y = 0; y < h; y += rows)
        gl.texSubImage2D(gl.TEXTURE_2D, level, 0, y, w, Math.min(rows, h - y), gl.RGBA, gl.UNSIGNED_BYTE, strip, 0);
      if (w === 1 && h === 1) break;
    }
  }

  dispose(): void {
    for (const { handle } of this.planes.values()) this.gl.deleteTexture(handle);
  }
}
