/** Formats that sharp does not read, or not as they are meant. */
import { bmp } from './bmp';
import { dds } from './dds';
import { exr } from './exr';
import type { PictureFormat } from './format';
import { hdr } from './hdr';
import { tga } from './tga';

export const FORMATS_READ: readonly PictureFormat[] = [exr, hdr, dds, bmp, tga];
