/** What lies in the two scenes, and rays against it; all without a graphics card. */
import { LineLoop, LineSegments, Mesh, Texture, type ShaderMaterial } from 'three';
import { createCanvasPiece } from '../../core/piece/create';
import type { Piece } from '../../core/document/schema';
import type { Geometry } from '../../engine/protocol';
import { FlatScene } from '../flatScene';
import { ModelCamera } from '../modelCamera';
import { ModelScene } from '../modelScene';
import type { PlaneTextures } from '../sheetTextures';
import type { Shown } from '../shown';
import { hitOf, planeTexel, projected, rayThrough, unprojected } from '../sight';

const NO_LIGHT = { texture: new Texture(), shading: { value: [] } };
const PANE = { width: 640, height: 480 };
let ids = 0;
const canvas = (width: number, height: number): Piece =>
  createCanvasPiece({ name: 'Setts', width, height, wrapU: true, wrapV: false, newId: () => `id${ids++}` }).piece;

const textures = (width: number, height: number) => ({ width, height, texture: () => new Texture() }) as unknown as PlaneTextures;

function shownOf(piece: Piece, change: Partial<Shown> = {}): Shown {
  const [{ id, width, height }] = piece.sheets;
  return {
    ...{ piece, geometry: null, view: 'lit', maskMode: null, albedoMarks: false, form: false, sheetId: id },
    ...{ texturesOf: () => textures(width, height) },
    ...change,
  };
}

/** Two triangles side by side in the plane z = 0, a part each, of one sheet. */
function twoParts(): { piece: Piece; geometry: Geometry } {
  const piece = canvas(128, 128);
  piece.sheets[0].materialIndex = 0;
  const geometry: Geometry = {
    positions: Float32Array.of(...[-1, 0, 0], ...[0, 0, 0], ...[-1, 1, 0], ...[0, 0, 0], ...[1, 0, 0], ...[1, 1, 0]),
    normals: Float32Array.from({ length: 18 }, (_, n) => (n % 3 === 2 ? 1 : 0)),
    uv: Float32Array.of(0, 0, 0.5, 0, 0, 1, 0.5, 0, 1, 0, 1, 1),
    indices: Uint32Array.of(0, 1, 2, 3, 4, 5),
    facePart: Uint16Array.of(0, 1),
    faceMaterial: Uint16Array.of(0, 0),
    parts: ['Left', 'Right'],
    texelsPerMetre: {},
    wires: { [piece.sheets[0].id]: Float32Array.of(0, 0, 0.5, 0, 0.5, 0, 0, 1) },
  };
  return { piece, geometry };
}

describe('rays', () => {
  test('through a pixel and back is the same pixel, at any depth', () => {
    const camera = new ModelCamera();
    camera.resize(PANE.width / PANE.height);
    camera.look(0.7, -0.3);
    camera.frame([-1, -1, -1], [1, 1, 1], PANE.width / PANE.height);
    for (const [x, y] of [
      [0, 0],
      [320, 240],
      [611, 37],
    ]) {
      const { origin, direction } = rayThrough(camera, PANE, x, y);
      expect(Math.hypot(...direction)).toBeCloseTo(1, 9);
      for (const far of [2, 5, 9]) {
        const at = projected(
          camera,
          PANE,
          origin.map((o, k) => o + direction[k] * far),
        );
        expect(at.x).toBeCloseTo(x, 5);
        expect(at.y).toBeCloseTo(y, 5);
      }
      const moved = unprojected(camera, PANE, [0.2, 0.1, 0.3], x, y);
      const back = projected(camera, PANE, moved);
      expect([back.x, back.y].map((v) => Math.round(v * 1e4) / 1e4)).toEqual([x, y]);
    }
  });

  test('a canvas: the plane’s corner is its first texel, and repeats go on counting', () => {
    const piece = { ...canvas(256, 128), planeRepeats: 3 };
    const model = new ModelScene(NO_LIGHT);
    model.build(piece, null);
    const at = (x: number, y: number) => {
      const hit = hitOf({ origin: [x, y, 2], direction: [0, 0, -1], pixelSpread: 0.001 }, model, piece, null);
      return hit && planeTexel(hit, model.planeHeight!, piece);
    };
    expect(at(-0.4999, 0.2499)).toMatchObject({ x: expect.closeTo(0, 0) as number, y: expect.closeTo(0, 0) as number });
    // It wraps across only: three times the width, once the height.
    expect(at(0.4999, -0.2499)).toMatchObject({ x: expect.closeTo(768, 0) as number, y: expect.closeTo(128, 0) as number });
    expect(at(0, 0)).toMatchObject({ x: expect.closeTo(384, 3) as number, y: expect.closeTo(64, 3) as number });
    expect(at(0.6, 0)).toBeNull();
  });

  test('a model: the hit says sheet and part, and goes through what is hidden', () => {
    const { piece, geometry } = twoParts();
    const model = new ModelScene(NO_LIGHT);
    model.build(piece, geometry);
    const at = (x: number) =>
      hitOf({ origin: [x, 0.2, 3], direction: [0, 0, -1], pixelSpread: 0.001 }, model, piece, geometry)?.part ?? null;
    model.dress(shownOf(piece, { geometry }));
    expect([at(-0.6), at(0.6)]).toEqual(['Left', 'Right']);
    model.follow({ ...piece, hiddenParts: ['Left'] }, geometry);
    expect([at(-0.6), at(0.6)]).toEqual([null, 'Right']);
    expect(model.scene.children.map((c) => c.visible)).toEqual([false, true]);
  });
});

describe('the scenes', () => {
  test('on the model a mask alone takes the place of the work, over it lies above, and hidden parts hide both', () => {
    const { piece, geometry } = twoParts();
    const model = new ModelScene(NO_LIGHT);
    model.build(piece, geometry);
    const count = () => model.scene.children.length;
    model.dress(shownOf(piece, { geometry }));
    expect(count()).toBe(2);
    model.dress(shownOf(piece, { geometry, maskMode: 'over', albedoMarks: true }));
    expect(count()).toBe(6);
    model.follow({ ...piece, hiddenParts: ['Right'] }, geometry);
    expect(model.scene.children.filter((c) => c.visible)).toHaveLength(3);
    model.dress(shownOf(piece, { geometry, maskMode: 'alone', albedoMarks: true }));
    expect(count()).toBe(2);
    // The mask of another sheet is not this one's.
    model.dress(shownOf(piece, { geometry, maskMode: 'over', sheetId: 'another' }));
    expect(count()).toBe(2);
  });

  test('a canvas is repeated as often as the piece says, in the directions that wrap', () => {
    const piece = canvas(64, 64);
    const model = new ModelScene(NO_LIGHT);
    model.build(piece, null);
    model.dress(shownOf(piece));
    model.follow({ ...piece, planeRepeats: 4 }, null);
    const uv = (model.scene.children[0] as Mesh).geometry.getAttribute('uv');
    expect(Math.max(...Array.from({ length: 4 }, (_, n) => uv.getX(n)))).toBe(4);
    expect(Math.max(...Array.from({ length: 4 }, (_, n) => uv.getY(n)))).toBe(1);
  });

  test('the flat sheet: repeated where it wraps, with its border, its wire and what lies over it', () => {
    const { piece, geometry } = twoParts();
    const flat = new FlatScene();
    flat.setWireOpacity(0);
    flat.dress(shownOf(piece, { geometry, view: 'roughness', maskMode: 'black', albedoMarks: true }));
    const { children } = flat.scene;
    expect(children.filter((c) => c instanceof LineLoop)).toHaveLength(1);
    const wire = children.find((c) => c instanceof LineSegments)!;
    expect(wire.visible).toBe(false);
    flat.setWireOpacity(0.4);
    expect(wire.visible).toBe(true);
    const at = wire.geometry.getAttribute('position');
    expect([at.getX(1), at.getY(1), at.getX(3), at.getY(3)]).toEqual([64, 0, 0, 128]);
    const sheets = children.filter((c): c is Mesh => c instanceof Mesh && !(c instanceof LineSegments));
    expect(sheets).toHaveLength(3);
    for (const mesh of sheets) {
      const { repeats } = (mesh.material as ShaderMaterial).uniforms;
      expect([(repeats.value as { x: number }).x, (repeats.value as { y: number }).y]).toEqual([3, 1]);
      mesh.geometry.computeBoundingBox();
      expect(mesh.geometry.boundingBox!.max.x).toBe(192);
    }
    // As often as is asked, but only where it wraps.
    flat.setRepeats([7, 5]);
    flat.dress(shownOf(piece, { geometry }));
    const seven = flat.scene.children.find((c): c is Mesh => c instanceof Mesh && !(c instanceof LineSegments))!;
    seven.geometry.computeBoundingBox();
    const { min, max } = seven.geometry.boundingBox!;
    expect([max.x - min.x, max.y - min.y]).toEqual([7 * 128, 128]);
    // Anew, not on top of what was there.
    flat.dress(shownOf(piece, { geometry }));
    expect(flat.scene.children).toHaveLength(3);
  });
});
