/** One size of a picture: full, or halved some times. */
export interface PictureLevel {
  width: number;
  height: number;
  /** RGBA, 16 bit, straight alpha. */
  data: Uint16Array;
}
