/** The eye of the flat pane: texels from the top left, zoom in pixels per texel. */
import { OrthographicCamera } from 'three';
import type { LookLeft } from '../core/piece/look';

export class FlatCamera {
  readonly camera = new OrthographicCamera(0, 1, 0, 1, -10, 10);
  /** Screen (CSS) pixels per texel. */
  zoom = 1;
  /** Radians by which the sheet is turned, clockwise on the screen. */
  angle = 0;
  /** Left and right of the screen change places, after it is turned. */
  flipped = false;
  /** Texel at the pane's centre. */
  centreX = 0;
  centreY = 0;
  private paneWidth = 1;
  private paneHeight = 1;
  /** Until the artist moves it, the sheet stays fitted when the pane changes. */
  private fitted: { width: number; height: number } | null = null;

  resize(paneWidth: number, paneHeight: number): void {
    this.paneWidth = Math.max(1, paneWidth);
    this.paneHeight = Math.max(1, paneHeight);
    if (this.fitted) this.fit(this.fitted.width, this.fitted.height);
    else this.apply();
  }

  /** A texel comes to the middle, two pixels a texel or more. */
  goTo(x: number, y: number): void {
    this.fitted = null;
    this.centreX = x;
    this.centreY = y;
    this.zoom = Math.max(2, this.zoom);
  }

  fit(width: number, height: number): void {
    this.fitted = { width, height };
    this.centreX = width / 2;
    this.centreY = height / 2;
    this.zoom = Math.min((this.paneWidth - 32) / width, (this.paneHeight - 32) / height);
    if (!(this.zoom > 0.001)) this.zoom = 0.001;
    this.apply();
  }

  /** Where it is, to be taken up again. */
  get left(): LookLeft['flat'] {
    const { zoom, angle, flipped, centreX, centreY, fitted } = this;
    return { zoom, angle, flipped, centreX, centreY, fitted: fitted !== null };
  }

  takeUp({ zoom, angle, flipped, centreX, centreY, fitted }: LookLeft['flat']): void {
    this.angle = angle;
    this.flipped = flipped;
    if (fitted && this.fitted) return this.fit(this.fitted.width, this.fitted.height);
    this.fitted = null;
    Object.assign(this, { zoom: Math.min(64, Math.max(0.02, zoom)), centreX, centreY });
    this.apply();
  }

  oneToOne(): void {
    this.fitted = null;
    this.zoom = 1;
    this.apply();
  }

  pan(dx: number, dy: number): void {
    this.fitted = null;
    const [x, y] = this.intoSheet(dx, dy);
    this.centreX -= x / this.zoom;
    this.centreY -= y / this.zoom;
    this.apply();
  }

  /** Turns the sheet by so many radians; the texel under (x, y), pane pixels, stays there. */
  turn(by: number, x = this.paneWidth / 2, y = this.paneHeight / 2): void {
    const before = this.texelAt(x, y);
    // Seen in a mirror it turns the other way round.
    this.angle = turned(this.angle + (this.flipped ? -by : by));
    this.hold(before, x, y);
  }

  /** As in a mirror that stands upright in the pane's middle. */
  flip(): void {
    this.flipped = !this.flipped;
    this.apply();
  }

  /** Neither turned nor flipped. */
  upright(): void {
    this.angle = 0;
    this.flipped = false;
    this.apply();
  }

  /** A texel is moved under a pane pixel. */
  private hold(texel: { x: number; y: number }, x: number, y: number): void {
    const now = this.texelAt(x, y);
    this.centreX += texel.x - now.x;
    this.centreY += texel.y - now.y;
    this.apply();
  }

  /** A way on the screen as it goes in the sheet, and back. */
  private intoSheet(x: number, y: number): [number, number] {
    const [c, s] = [Math.cos(this.angle), Math.sin(this.angle)];
    const sx = this.flipped ? -x : x;
    return [sx * c + y * s, y * c - sx * s];
  }

  private ontoScreen(x: number, y: number): [number, number] {
    const [c, s] = [Math.cos(this.angle), Math.sin(this.angle)];
    const sx = x * c - y * s;
    return [this.flipped ? -sx : sx, x * s + y * c];
  }

  /** The texel under (x, y), pane pixels, stays there. */
  zoomAt(factor: number, x: number, y: number): void {
    this.fitted = null;
    const before = this.texelAt(x, y);
    this.zoom = Math.min(64, Math.max(0.02, this.zoom / factor));
    this.hold(before, x, y);
  }

  texelAt(x: number, y: number): { x: number; y: number } {
    const [dx, dy] = this.intoSheet((x - this.paneWidth / 2) / this.zoom, (y - this.paneHeight / 2) / this.zoom);
    return { x: this.centreX + dx, y: this.centreY + dy };
  }

  pixelAt(x: number, y: number): { x: number; y: number } {
    const [dx, dy] = this.ontoScreen((x - this.centreX) * this.zoom, (y - this.centreY) * this.zoom);
    return { x: dx + this.paneWidth / 2, y: dy + this.paneHeight / 2 };
  }

  private apply(): void {
    const w = this.paneWidth / this.zoom / 2;
    const h = this.paneHeight / this.zoom / 2;
    const { camera } = this;
    const side = this.flipped ? -w : w;
    camera.left = -side;
    camera.right = side;
    // Y down: top is the smaller number.
    camera.top = -h;
    camera.bottom = h;
    camera.position.set(this.centreX, this.centreY, 0);
    camera.rotation.z = -this.angle;
    camera.updateMatrixWorld();
    camera.updateProjectionMatrix();
  }
}

/** Within half a turn; the last rounding errors of a whole one go. */
function turned(a: number): number {
  const t = Math.atan2(Math.sin(a), Math.cos(a));
  return Math.abs(t) < 1e-9 ? 0 : t;
}
