/** The eye of the model pane during a stroke or while a shape is drawn: how places in space come to lie in the pane. */
import { z } from 'zod';
import type { Image } from './mirror';

const finite = z.number().refine(Number.isFinite, 'a finite number');

export const viewSchema = z.object({
  /**
   * World space to pane pixels, homogeneous: three rows of four, row by row. The first two give the pixel times w, the third w,
   * which is the distance in metres along the way that the eye looks and above 0 in front of it.
   */
  matrix: z.array(finite).length(12),
  eye: z.tuple([finite, finite, finite]),
  /** Of the pane, in pixels. */
  width: z.number().positive().max(32768),
  height: z.number().positive().max(32768),
});
export type View = z.infer<typeof viewSchema>;

/** The pixel of a place in space; null behind the eye. */
export function pixelIn({ matrix: m }: View, [x, y, z]: readonly number[]): { x: number; y: number } | null {
  const w = m[8] * x + m[9] * y + m[10] * z + m[11];
  if (!(w > 0)) return null;
  return { x: (m[0] * x + m[1] * y + m[2] * z + m[3]) / w, y: (m[4] * x + m[5] * y + m[6] * z + m[7]) / w };
}

/** The view of an eye that an image of the model stands before: a place is seen where the view sees what it is the image of. */
export function viewOfImage(view: View, image: Image, middle: readonly number[]): View {
  // Images are turns and reflections: the transpose turns back.
  const back = [0, 1, 2].map((r) => [image[0][r], image[1][r], image[2][r]]) as unknown as Image;
  const shift = middle.map((v, r) => v - (back[r][0] * middle[0] + back[r][1] * middle[1] + back[r][2] * middle[2]));
  const matrix = [0, 1, 2].flatMap((row) => {
    const [a, b, c, d] = view.matrix.slice(row * 4, row * 4 + 4);
    const turned = [0, 1, 2].map((k) => a * back[0][k] + b * back[1][k] + c * back[2][k]);
    return [...turned, a * shift[0] + b * shift[1] + c * shift[2] + d];
  });
  const eye = [0, 1, 2].map((r) => image[r].reduce((sum, v, k) => sum + v * (view.eye[k] - middle[k]), middle[r]));
  return { ...view, matrix, eye: eye as View['eye'] };
}
