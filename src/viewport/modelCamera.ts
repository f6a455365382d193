/** The eye of the model pane: turns around a point, slides, moves towards what is under the pointer. */
import { PerspectiveCamera, Vector3 } from 'three';
import type { LookLeft } from '../core/piece/look';

const FIELD_DEGREES = 30;

export class ModelCamera {
  readonly camera = new PerspectiveCamera(FIELD_DEGREES, 1, 0.01, 100);
  private target = new Vector3();
  private distance = 1;
  /** Radians: around the vertical, and up from the horizon. */
  private yaw = 0.45;
  private pitch = 0.2;
  private size = 1;

  /** Looks at a box from where the eye is, as near as the whole box allows. */
  frame(min: readonly number[], max: readonly number[], aspect: number): void {
    this.size = Math.hypot(...min.map((v, k) => max[k] - v)) || 1;
    this.target.set(...(min.map((v, k) => (v + max[k]) / 2) as [number, number, number]));
    this.apply();
    const axes = [0, 1, 2].map((k) => new Vector3().setFromMatrixColumn(this.camera.matrix, k));
    const up = Math.tan((FIELD_DEGREES * Math.PI) / 360);
    let distance = 0;
    for (let corner = 0; corner < 8; corner++) {
      const p = new Vector3(...[0, 1, 2].map((k) => (corner & (1 << k) ? max[k] : min[k]))).sub(this.target);
      const [x, y, towards] = axes.map((axis) => p.dot(axis));
      distance = Math.max(distance, towards + Math.abs(y) / up, towards + Math.abs(x) / (up * Math.max(0.05, aspect)));
    }
    // A little air around it.
    this.distance = Math.max(1e-6, distance * 1.04);
    this.apply();
  }

  /** Looks at a place from where the surface faces, from near by. */
  goTo(place: readonly number[], normal: readonly number[]): void {
    this.target.set(place[0], place[1], place[2]);
    const limit = Math.PI / 2 - 0.01;
    const pitch = Math.asin(Math.min(1, Math.max(-1, normal[1])));
    this.yaw = Math.atan2(normal[0], normal[2]);
    this.pitch = Math.min(limit, Math.max(-limit, pitch));
    this.distance = this.size * 0.6;
    this.apply();
  }

  /** Where it is, to be taken up again. */
  get left(): LookLeft['model'] {
    const { yaw, pitch, distance, target } = this;
    return { yaw, pitch, distance, target: [target.x, target.y, target.z] };
  }

  takeUp({ yaw, pitch, distance, target }: LookLeft['model']): void {
    this.yaw = yaw;
    this.pitch = pitch;
    this.distance = Math.min(this.size * 20, Math.max(this.size * 0.01, distance));
    this.target.set(...target);
    this.apply();
  }

  look(yaw: number, pitch: number): void {
    this.yaw = yaw;
    this.pitch = pitch;
    this.apply();
  }

  /** Pixels of pointer movement; a pane's height turns half around. */
  orbit(dx: number, dy: number, paneHeight: number): void {
    this.yaw -= (dx / paneHeight) * Math.PI;
    const limit = Math.PI / 2 - 0.01;
    this.pitch = Math.min(limit, Math.max(-limit, this.pitch + (dy / paneHeight) * Math.PI));
    this.apply();
  }

  pan(dx: number, dy: number, paneHeight: number): void {
    const perPixel = (2 * Math.tan((FIELD_DEGREES * Math.PI) / 360) * this.distance) / paneHeight;
    const right = new Vector3().setFromMatrixColumn(this.camera.matrix, 0);
    const up = new Vector3().setFromMatrixColumn(this.camera.matrix, 1);
    this.target.addScaledVector(right, -dx * perPixel).addScaledVector(up, dy * perPixel);
    this.apply();
  }

  /** factor < 1 comes nearer; the point `towards` (if any) stays where it is on the screen. */
  zoom(factor: number, towards: Vector3 | null): void {
    const next = Math.min(this.size * 20, Math.max(this.size * 0.01, this.distance * factor));
    const real = next / this.distance;
    if (towards) this.target.lerp(towards, 1 - real);
    this.distance = next;
    this.apply();
  }

  resize(aspect: number): void {
    this.camera.aspect = aspect;
    this.camera.updateProjectionMatrix();
  }

  /** Metres that a screen pixel spans at one metre from the eye. */
  pixelSpread(paneHeight: number): number {
    return (2 * Math.tan((FIELD_DEGREES * Math.PI) / 360)) / paneHeight;
  }

  private apply(): void {
    const { camera } = this;
    const c = Math.cos(this.pitch);
    camera.position
      .set(Math.sin(this.yaw) * c, Math.sin(this.pitch), Math.cos(this.yaw) * c)
      .multiplyScalar(this.distance)
      .add(this.target);
    camera.lookAt(this.target);
    camera.near = Math.max(this.distance / 1000, this.distance - this.size * 3);
    camera.far = this.distance + this.size * 3;
    camera.updateMatrix();
    camera.updateMatrixWorld();
    camera.updateProjectionMatrix();
  }
}
