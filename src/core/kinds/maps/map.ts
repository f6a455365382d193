/**
 * What a map is: one plane of data over a sheet. Each is a file beside this one with a line in `index.ts`: where it is
 * drawn, how layers join on it, what a model's material says on it, how it goes out and what files of it are called.
 * Besides these a sheet can have grayscale masks of its own, named by the artist ("oil", "transmission"): their ids
 * begin with `own-`.
 */
import type { BlendId } from '../../colour/blend';
import type { ModelMaterial, ModelPicture } from '../../mesh/model';

/** What a picture of a material means: sRGB colours, numbers as they are, or directions in tangent space. */
export type Meaning = 'colour' | 'values' | 'directions';

/** A texel of a material's picture in the sheet's size. */
export interface PictureTexel {
  /** RGBA, 16 bit, of the whole sheet; the texel begins at `o`. */
  rgba: Uint16Array;
  o: number;
  /** The picture lies on the sheet's UVs as it is; else there is nothing where its alpha is 0. */
  plain: boolean;
}

/** A picture of a material (glTF 2.0, 3.9) as paint on the map. */
export interface PictureIn {
  of: (material: ModelMaterial) => ModelPicture | null;
  /** In sentences about what could not be read. */
  called: string;
  means: Meaning;
  /** Its alpha says something; left out: it counts as solid. */
  alpha?: (material: ModelMaterial) => boolean;
  /** Whether the map is worth having; left out: it is. */
  worth?: (material: ModelMaterial, rgba: Uint16Array) => boolean;
  /** Writes a texel as the map stores it (`storedChannels`), 16 bit, its coverage last. */
  texel: (material: ModelMaterial, from: PictureTexel, to: Uint16Array, at: number) => void;
}

/** Where the map goes in a GLB: a texture of its own, or the alpha of another map's. Packed maps go by `packed`. */
export type PictureOut = { texture: 'baseColour' | 'normal' | 'emissive'; always?: true } | { alphaOf: 'baseColour' };

export interface MapDef {
  label: string;
  /** Two letters for a column head. */
  short: string;
  /** `colour`: RGB in the sRGB curve. `value`: one number, 0..1, as is. `normal`: a direction, each axis −1..1 as 0..1. */
  kind: 'colour' | 'value' | 'normal';
  /** What the sheet shows where no layer says anything. sRGB 0..1 for colour. */
  ground: readonly number[];
  /** Value a new coat cell starts with. */
  start: readonly number[];
  /** How much lower a source begins where a coat is spread by one; left out: a quarter. */
  spread?: number;
  /** How values are written for people. `offset`: 0.5 is level, shown as −0.5 … +0.5. */
  display: 'colour' | 'percent' | 'offset';
  hint: string;
  /** New sheets have it. */
  atStart?: true;
  /** The first of its channels in the planes that the lit view draws from (strata/displayPlanes.ts); left out: it is looked at by itself only. */
  shown?: { plane: 'colour' | 'surface' | 'normal' | 'emissive'; channel: 0 | 1 | 2 | 3 };
  /** Its slopes are seen in the normal that is drawn and delivered. */
  relief?: boolean;
  /** How layers, and adjustments, join on it unless a cell says otherwise; left out: by the layer's own mode. */
  joins?: { layer: BlendId; adjust: BlendId };
  /** Its channel in the picture that packs three maps in one, in glTF's places (glTF 2.0, 3.9.2 and 3.9.3). */
  packed?: 0 | 1 | 2;
  /** What the first coat of a new sheet says on it: of the model's material (null: on a canvas). null, or left out: nothing. */
  coat?: (material: ModelMaterial | null) => readonly number[] | null;
  pictureIn?: PictureIn;
  pictureOut?: PictureOut;
  /** On a tab, where the label is long. */
  tab?: string;
  /** A word or two of a file's name that mean it: what the trade calls it. */
  fileWords?: RegExp;
  /** What a new brush writes into it; left out: nothing, and `start` once it is switched on. */
  brush?: { on: boolean; value: number };
}

/** A share, 0..1, as it is stored. */
export const stored16 = (v: number): number => Math.min(1, Math.max(0, v)) * 65535 + 0.5;
