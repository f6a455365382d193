/** Where changed texels are seen in the flat pane, against a search over its pixels. */
import { changedBoxes } from '../changedBoxes';
import { FlatCamera } from '../flatCamera';

const pane = { width: 300, height: 200 };

function view(sheet: { width: number; height: number }, repeats: [number, number], set: (c: FlatCamera) => void = () => {}) {
  const camera = new FlatCamera();
  camera.resize(pane.width, pane.height);
  camera.fit(sheet.width, sheet.height);
  set(camera);
  return { camera, view: { pixelAt: (x: number, y: number) => camera.pixelAt(x, y), zoom: camera.zoom, sheet, repeats, pane } };
}

const within = (x: number, y: number, b: { x: number; y: number; width: number; height: number }) =>
  x >= b.x && y >= b.y && x < b.x + b.width && y < b.y + b.height;

describe('boxes of the flat pane', () => {
  test.each([
    ['fitted', [1, 1], () => {}],
    ['near', [1, 1], (c: FlatCamera) => c.zoomAt(1 / 7, 120, 90)],
    ['turned and flipped', [1, 1], (c: FlatCamera) => (c.turn(0.7), c.flip())],
    ['repeated', [3, 3], (c: FlatCamera) => c.zoomAt(2.5, 150, 100)],
  ] as const)('hold every pixel that shows a changed texel: %s', (_, repeats, set) => {
    const sheet = { width: 512, height: 256 };
    const { camera, view: v } = view(sheet, [...repeats], set);
    const texels = { x: 200, y: 100, width: 30, height: 12 };
    const boxes = changedBoxes(texels, v)!;
    expect(boxes.every((b) => [b.x, b.y, b.width, b.height].every(Number.isInteger))).toBe(true);
    let shown = 0;
    for (let y = 0; y < pane.height; y++)
      for (let x = 0; x < pane.width; x++) {
        const at = camera.texelAt(x + 0.5, y + 0.5);
        const [u, w] = [Math.floor(at.x / sheet.width), Math.floor(at.y / sheet.height)];
        if (Math.abs(u) > (repeats[0] - 1) / 2 || Math.abs(w) > (repeats[1] - 1) / 2) continue;
        if (!within(at.x - u * sheet.width, at.y - w * sheet.height, texels)) continue;
        shown++;
        expect(boxes.some((b) => within(x, y, b))).toBe(true);
      }
    expect(shown).toBeGreaterThan(20);
  });

  test('what lies beside the pane needs no drawing, what fills it is drawn as a whole', () => {
    const { view: v } = view({ width: 512, height: 512 }, [1, 1], (c) => c.zoomAt(1 / 40, 0, 0));
    expect(changedBoxes({ x: 500, y: 500, width: 8, height: 8 }, v)).toEqual([]);
    const fitted = view({ width: 512, height: 512 }, [3, 3]).view;
    expect(changedBoxes({ x: 0, y: 0, width: 512, height: 512 }, fitted)).toBeNull();
  });
});
