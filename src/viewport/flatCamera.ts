/** The eye of the flat pane: texels from the top left, zoom in pixels per texel. */
import { OrthographicCamera } from 'three';

export class FlatCamera {
  readonly camera = new OrthographicCamera(0, 1, 0, 1, -10, 10);
  /** Screen (CSS) pixels per texel. */
  zoom = 1;
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

  fit(width: number, height: number): void {
    this.fitted = { width, height };
    this.centreX = width / 2;
    this.centreY = height / 2;
    this.zoom = Math.min((this.paneWidth - 32) / width, (this.paneHeight - 32) / height);
    if (!(this.zoom > 0.001)) this.zoom = 0.001;
    this.apply();
  }

  oneToOne(): void {
    this.fitted = null;
    this.zoom = 1;
    this.apply();
  }

  pan(dx: number, dy: number): void {
    this.fitted = null;
    this.centreX -= dx / this.zoom;
    this.centreY -= dy / this.zoom;
    this.apply();
  }

  /** The texel under (x, y), pane pixels, stays there. */
  zoomAt(factor: number, x: number, y: number): void {
    this.fitted = null;
    const before = this.texelAt(x, y);
    this.zoom = Math.min(64, Math.max(0.02, this.zoom / factor));
    const after = this.texelAt(x, y);
    this.centreX += before.x - after.x;
    this.centreY += before.y - after.y;
    this.apply();
  }

  texelAt(x: number, y: number): { x: number; y: number } {
    return { x: this.centreX + (x - this.paneWidth / 2) / this.zoom, y: this.centreY + (y - this.paneHeight / 2) / this.zoom };
  }

  pixelAt(x: number, y: number): { x: number; y: number } {
    return { x: (x - this.centreX) * this.zoom + this.paneWidth / 2, y: (y - this.centreY) * this.zoom + this.paneHeight / 2 };
  }

  private apply(): void {
    const w = this.paneWidth / this.zoom / 2;
    const h = this.paneHeight / this.zoom / 2;
    const { camera } = this;
    camera.left = this.centreX - w;
    camera.right = this.centreX + w;
    // Y down: top is the smaller number.
    camera.top = this.centreY - h;
    camera.bottom = this.centreY + h;
    camera.updateProjectionMatrix();
  }
}
