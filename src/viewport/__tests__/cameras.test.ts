/** The two eyes: what is framed is seen, what is under the pointer stays there, pixels are pixels. */
import { Vector3 } from 'three';
import { seededRandom } from '../../core/testing/models';
import { FlatCamera } from '../flatCamera';
import { ModelCamera } from '../modelCamera';

const PANE = { width: 700, height: 500 };
const ASPECT = PANE.width / PANE.height;

function eye(yaw = 0.45, pitch = 0.2): ModelCamera {
  const camera = new ModelCamera();
  camera.resize(ASPECT);
  camera.look(yaw, pitch);
  camera.frame([-1, 0, -0.5], [1, 3, 0.5], ASPECT);
  return camera;
}
const corners = [-1, 1].flatMap((x) => [0, 3].flatMap((y) => [-0.5, 0.5].map((z) => new Vector3(x, y, z))));
/** Pixels from the pane's upper left corner. */
function pixel(camera: ModelCamera, point: Vector3): [number, number] {
  const p = point.clone().project(camera.camera);
  return [((p.x + 1) / 2) * PANE.width, ((1 - p.y) / 2) * PANE.height];
}

describe('the eye of the model', () => {
  test.each([
    [0.45, 0.2],
    [0, 0],
    [2.5, -1.2],
    [-1.3, 1.5],
  ])('from yaw %d and pitch %d the whole box is seen, and fills the pane one way', (yaw, pitch) => {
    const camera = eye(yaw, pitch);
    const seen = corners.map((c) => c.clone().project(camera.camera));
    const most = Math.max(...seen.flatMap((p) => [Math.abs(p.x), Math.abs(p.y)]));
    expect(most).toBeLessThan(1);
    expect(most).toBeGreaterThan(0.9);
    for (const p of seen) expect(Math.abs(p.z)).toBeLessThan(1);
  });

  test('zooming keeps what is under the pointer where it is, and ends at a hundredth and at twenty times the size', () => {
    const random = seededRandom(3);
    const camera = eye();
    for (let n = 0; n < 200; n++) {
      const point = new Vector3(random() * 2 - 1, random() * 3, random() - 0.5);
      const before = pixel(camera, point);
      camera.zoom(0.8 + random() * 0.45, point);
      const after = pixel(camera, point);
      expect(Math.hypot(after[0] - before[0], after[1] - before[1])).toBeLessThan(0.01);
    }
    const size = Math.hypot(2, 3, 1);
    const target = new Vector3(0, 1.5, 0);
    const near = eye();
    for (let n = 0; n < 100; n++) near.zoom(0.5, null);
    expect(near.camera.position.distanceTo(target)).toBeCloseTo(size / 100, 6);
    for (let n = 0; n < 100; n++) near.zoom(2, null);
    expect(near.camera.position.distanceTo(target)).toBeCloseTo(size * 20, 4);
  });

  test('sliding moves what it looks at by just so many pixels', () => {
    const camera = eye();
    const middle = new Vector3(0, 1.5, 0);
    const before = pixel(camera, middle);
    camera.pan(37, -12, PANE.height);
    const after = pixel(camera, middle);
    expect(after[0] - before[0]).toBeCloseTo(37, 6);
    expect(after[1] - before[1]).toBeCloseTo(-12, 6);
  });

  test('a pane’s height turns half around, never over the top', () => {
    const camera = eye(0, 0);
    const before = camera.camera.position.clone();
    camera.orbit(PANE.height, 0, PANE.height);
    expect(camera.camera.position.z).toBeCloseTo(-before.z, 6);
    camera.orbit(0, PANE.height * 5, PANE.height);
    const up = new Vector3().setFromMatrixColumn(camera.camera.matrix, 1);
    expect(up.y).toBeGreaterThan(0);
    expect(camera.camera.position.y).toBeGreaterThan(before.y);
  });

  test('a pixel at one metre is as wide as the field says', () => {
    const camera = eye();
    expect(camera.pixelSpread(500) * 500).toBeCloseTo(2 * Math.tan(Math.PI / 12), 9);
  });
});

describe('the eye of the flat sheet', () => {
  const flat = () => {
    const camera = new FlatCamera();
    camera.resize(PANE.width, PANE.height);
    camera.fit(256, 128);
    return camera;
  };

  test('a fitted sheet lies in the middle with a margin, also after the pane changed', () => {
    const camera = flat();
    camera.resize(400, 300);
    const [a, b] = [camera.pixelAt(0, 0), camera.pixelAt(256, 128)];
    expect(a.x).toBeCloseTo(16, 9);
    expect(b.x).toBeCloseTo(400 - 16, 9);
    expect((a.y + b.y) / 2).toBeCloseTo(150, 9);
  });

  test('zooming keeps the texel under the pointer, and ends at 1/50 and 64', () => {
    const camera = flat();
    const random = seededRandom(4);
    for (let n = 0; n < 100; n++) {
      const [x, y] = [random() * PANE.width, random() * PANE.height];
      const before = camera.texelAt(x, y);
      camera.zoomAt(0.7 + random() * 0.6, x, y);
      const after = camera.texelAt(x, y);
      expect(Math.hypot(after.x - before.x, after.y - before.y)).toBeLessThan(1e-6);
      const back = camera.pixelAt(after.x, after.y);
      expect(Math.hypot(back.x - x, back.y - y)).toBeLessThan(1e-6);
    }
    for (let n = 0; n < 50; n++) camera.zoomAt(0.5, 9, 9);
    expect(camera.zoom).toBe(64);
    for (let n = 0; n < 50; n++) camera.zoomAt(2, 9, 9);
    expect(camera.zoom).toBe(0.02);
  });

  test('what three draws is what `pixelAt` says, and sliding undoes the fit', () => {
    const camera = flat();
    camera.pan(-31, 8);
    const p = new Vector3(40, 77, 0).project(camera.camera);
    const at = camera.pixelAt(40, 77);
    expect(((p.x + 1) / 2) * PANE.width).toBeCloseTo(at.x, 4);
    expect(((1 - p.y) / 2) * PANE.height).toBeCloseTo(at.y, 4);
    const { zoom } = camera;
    camera.resize(900, 900);
    expect(camera.zoom).toBe(zoom);
    camera.oneToOne();
    expect(camera.zoom).toBe(1);
  });
});

describe('the flat sheet, turned', () => {
  const camera = () => {
    const c = new FlatCamera();
    c.resize(PANE.width, PANE.height);
    c.fit(256, 128);
    return c;
  };
  /** As three.js draws it. */
  const drawn = (c: FlatCamera, x: number, y: number) => {
    const p = new Vector3(x, y, 0).project(c.camera);
    return [((p.x + 1) / 2) * PANE.width, ((1 - p.y) / 2) * PANE.height];
  };

  test.each([
    [0, false],
    [0.4, false],
    [-2.1, true],
    [3, true],
  ])('by %d, flipped: %s: pixels and texels are each other’s, and what is drawn lies there', (angle, flipped) => {
    const c = camera();
    if (flipped) c.flip();
    c.turn(angle, 120, 80);
    c.zoomAt(0.7, 300, 200);
    const random = seededRandom(5);
    for (let n = 0; n < 20; n++) {
      const [x, y] = [random() * PANE.width, random() * PANE.height];
      const t = c.texelAt(x, y);
      const back = c.pixelAt(t.x, t.y);
      expect([back.x, back.y]).toEqual([expect.closeTo(x, 6), expect.closeTo(y, 6)]);
      const on = drawn(c, t.x, t.y);
      expect(on).toEqual([expect.closeTo(x, 3), expect.closeTo(y, 3)]);
    }
  });

  test('turning keeps the texel under the hand, sliding follows it, upright is as before', () => {
    const c = camera();
    const before = c.texelAt(200, 150);
    c.turn(0.8, 200, 150);
    expect(c.texelAt(200, 150)).toEqual({ x: expect.closeTo(before.x, 6) as number, y: expect.closeTo(before.y, 6) as number });
    c.pan(30, -12);
    expect(c.texelAt(230, 138)).toEqual({ x: expect.closeTo(before.x, 6) as number, y: expect.closeTo(before.y, 6) as number });
    c.flip();
    c.upright();
    expect([c.angle, c.flipped]).toEqual([0, false]);
    for (let n = 0; n < 24; n++) c.turn(Math.PI / 12);
    expect(c.angle).toBe(0);
  });
});
