/** Where a mirror's planes lie, and what dragging them means; what of a picture stands out. */
import { NO_MIRROR } from '@/core/hand/mirror';
import { mirrorFigures, movedMirror } from '../mirrorPlanes';
import { standsOut } from '../../pointer/capture';

const BOX = { min: [-1, 0, -2], max: [1, 4, 2] };

describe('planes of a mirror', () => {
  test('stand through the middle and around the model, each with a handle on its rim', () => {
    const figures = mirrorFigures({ ...NO_MIRROR, axes: ['x', 'y'] }, [0.5, 1, 0], BOX, false);
    expect(figures.map((f) => f.id)).toEqual(['x', 'y']);
    for (const [n, figure] of figures.entries()) {
      expect(figure.outline).toHaveLength(4);
      for (const corner of [...figure.outline, figure.handle]) expect(corner[n]).toBe([0.5, 1][n]);
    }
    const [across] = figures;
    expect(Math.max(...across.outline.map((p) => p[1]))).toBeGreaterThan(4);
    expect(across.handle[1]).toBe(Math.max(...across.outline.map((p) => p[1])));
  });

  test('on a canvas they are lines over it, and turns have a middle', () => {
    const sheet = { min: [0, 0, 0], max: [256, 128, 0] };
    const figures = mirrorFigures({ axes: ['x', 'z'], radial: 6, around: 'z' }, [100, 64, 0], sheet, true);
    expect(figures.map((f) => [f.id, f.outline.length])).toEqual([
      ['x', 2],
      ['round', 2],
    ]);
    expect(figures[0].outline.every((p) => p[0] === 100)).toBe(true);
    expect(figures[1].handle).toEqual([100, 64, 0]);
  });

  test('a plane moves along its axis alone, the axis of turns beside itself', () => {
    const mirror = { ...NO_MIRROR, axes: ['x' as const], around: 'y' as const };
    expect(movedMirror(mirror, [1, 2, 3], 'x', [9, 8, 7], false)).toEqual([9, 2, 3]);
    expect(movedMirror(mirror, [1, 2, 3], 'round', [9, 8, 7], false)).toEqual([9, 2, 7]);
    expect(movedMirror(mirror, [1, 2, 0], 'round', [9, 8, 0], true)).toEqual([9, 8, 0]);
  });
});

describe('a tip out of what is seen', () => {
  const picture = (at: (x: number, y: number) => readonly number[]) =>
    Array.from({ length: 64 }, (_, i) => [...at(i % 8, i >> 3), 255]).flat();
  const ground = [139, 139, 139];
  const inside = (x: number, y: number) => x > 2 && x < 5 && y > 2 && y < 5;

  test.each([
    ['dark on light', [30, 30, 30], [220, 220, 220]],
    ['light on dark', [220, 220, 220], [30, 30, 30]],
  ])('paints what stands out against its rim: %s', (_, thing, around) => {
    const paints = standsOut(
      picture((x, y) => (inside(x, y) ? thing : around)),
      8,
      8,
      ground,
    )!;
    for (let i = 0; i < 64; i++) expect(paints[i]).toBe(inside(i % 8, i >> 3) ? 255 : 0);
  });

  test('takes a thing with nothing around it whole, and never the ground of the pane', () => {
    const alone = standsOut(
      picture((x, y) => (inside(x, y) ? [10 * x, 50, 90] : ground)),
      8,
      8,
      ground,
    )!;
    for (let i = 0; i < 64; i++) expect(alone[i]).toBe(inside(i % 8, i >> 3) ? 255 : 0);
  });

  test('says so when all of it looks the same', () => {
    expect(
      standsOut(
        picture((x) => [100 + (x % 3), 100, 100]),
        8,
        8,
        ground,
      ),
    ).toBeNull();
    expect(
      standsOut(
        picture(() => ground),
        8,
        8,
        ground,
      ),
    ).toBeNull();
  });
});
