/** The flat sheet as three.js draws it: repeated where it wraps, with its border and the edges of its UVs. */
import { COLOUR_MAP } from '../core/kinds/maps';
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  LineBasicMaterial,
  LineLoop,
  LineSegments,
  Mesh,
  PlaneGeometry,
  Scene,
  Vector3,
  type Material,
  type Vector2,
} from 'three';
import type { Sheet } from '../core/document/schema';
import { mapMaterial } from './materials';
import { laidOver, sheetAtWork, type Shown } from './shown';

const line = (opacity: number) => new LineBasicMaterial({ color: 0xffffff, transparent: true, opacity, toneMapped: false });

export class FlatScene {
  readonly scene = new Scene();
  private objects: (Mesh | LineSegments | LineLoop)[] = [];
  private wire: LineSegments<BufferGeometry, LineBasicMaterial> | null = null;
  private wireOpacity = 0.35;
  private repeats: readonly [number, number] = [3, 3];
  /** Of the sheet that is shown: once where it does not wrap. */
  seenRepeats: readonly [number, number] = [1, 1];

  /** All of it anew, for what is to be seen now. */
  dress(shown: Shown): void {
    this.dispose();
    this.scene.clear();
    const sheet = sheetAtWork(shown);
    const textures = shown.texturesOf(sheet.id);
    const [repeatU, repeatV] = (this.seenRepeats = [sheet.wrapU ? this.repeats[0] : 1, sheet.wrapV ? this.repeats[1] : 1]);
    const map = shown.maskMode === 'alone' ? 'mask' : shown.view === 'lit' ? COLOUR_MAP : shown.view;
    const sheetMaterial = (...of: [Parameters<typeof mapMaterial>[2], Parameters<typeof mapMaterial>[4]?]) => {
      const material = mapMaterial(sheet, textures, of[0], DoubleSide, of[1]);
      (material.uniforms.repeats.value as Vector2).set(repeatU, repeatV);
      material.uniforms.crisp.value = 1;
      return material;
    };
    const quad = new Mesh(quadOf(sheet, repeatU, repeatV), sheetMaterial(map));
    quad.position.set(sheet.width / 2, sheet.height / 2, 0);
    const outline = new LineLoop(outlineOf(sheet), line(0.55));
    outline.renderOrder = 2;
    const over = laidOver(shown).map(([name, mode]) => {
      const mesh = new Mesh(quad.geometry, sheetMaterial(name, mode));
      mesh.position.set(sheet.width / 2, sheet.height / 2, 0.5);
      mesh.renderOrder = 1;
      return mesh;
    });
    const edges = shown.geometry?.wires[sheet.id];
    this.wire = edges ? new LineSegments(wireOf(sheet, edges), line(this.wireOpacity)) : null;
    if (this.wire) {
      this.wire.visible = this.wireOpacity > 0;
      this.wire.renderOrder = 2;
    }
    this.objects = [quad, outline, ...over, ...(this.wire ? [this.wire] : [])];
    for (const o of this.objects) {
      o.frustumCulled = false;
      this.scene.add(o);
    }
  }

  /** How often a sheet that wraps is seen across and down: odd, so that it lies in the middle. Shown when it is dressed next. */
  setRepeats(repeats: readonly [number, number]): void {
    this.repeats = repeats;
  }

  setWireOpacity(opacity: number): void {
    this.wireOpacity = opacity;
    if (!this.wire) return;
    this.wire.material.opacity = opacity;
    this.wire.visible = opacity > 0;
  }

  dispose(): void {
    for (const o of this.objects) {
      o.geometry.dispose();
      (o.material as Material).dispose();
    }
    this.objects = [];
  }
}

function quadOf(sheet: Sheet, repeatU: number, repeatV: number): PlaneGeometry {
  const quad = new PlaneGeometry(sheet.width * repeatU, sheet.height * repeatV);
  // PlaneGeometry's V runs up; ours, like the camera, runs down.
  const [uv, position] = [quad.getAttribute('uv') as BufferAttribute, quad.getAttribute('position')];
  for (let i = 0; i < uv.count; i++) uv.setY(i, position.getY(i) > 0 ? 1 : 0);
  return quad;
}

const outlineOf = ({ width, height }: Sheet): BufferGeometry =>
  new BufferGeometry().setFromPoints([
    new Vector3(0, 0, 1),
    new Vector3(width, 0, 1),
    new Vector3(width, height, 1),
    new Vector3(0, height, 1),
  ]);

/** `edges`: u v u v a line. */
function wireOf({ width, height }: Sheet, edges: Float32Array): BufferGeometry {
  const points = new Float32Array((edges.length / 2) * 3);
  for (let i = 0; i < edges.length / 2; i++) {
    points[i * 3] = edges[i * 2] * width;
    points[i * 3 + 1] = edges[i * 2 + 1] * height;
    points[i * 3 + 2] = 1;
  }
  return new BufferGeometry().setAttribute('position', new BufferAttribute(points, 3));
}
