/**
 * Both panes on one canvas with one set of textures: the model and the flat sheet are current with each other
 * because they are drawn from the same texels in the same frame. Draws on demand only.
 */
import { Color, Euler, NeutralToneMapping, SRGBColorSpace, WebGLRenderer, type Camera, type Scene } from 'three';
import { fenceAtWork } from '../core/document/fence';
import type { Piece, Sheet } from '../core/document/schema';
import type { View } from '../core/hand/view';
import type { SurfaceHit } from '../core/mesh/surfaceQuery';
import { extentOf, together, type Rect } from '../core/tile/mips';
import type { Geometry, PixelPatch } from '../engine/protocol';
import { Signal } from '../engine/signal';
import { changedBoxes } from './changedBoxes';
import { FlatCamera } from './flatCamera';
import { FlatScene } from './flatScene';
import { loadLight } from './light';
import type { CageShape } from './cage';
import type { Looking, MaskMode } from './materials';
import { ModelCamera } from './modelCamera';
import { ModelScene } from './modelScene';
import { chooseQuality } from './quality';
import { Redraw, type PaneName } from './redraw';
import { SheetTextures, type PlaneTextures } from './sheetTextures';
import { sheetAtWork, type Shown } from './shown';
import { hitOf, planeTexel, projected, rayThrough, unprojected, viewOf, type Hit, type Ray } from './sight';

export interface PaneRect {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** New texels that wait for a frame at most: what is filled in behind goes to the card bit by bit. */
const MOST_WAITING = 16 << 20;

const planeOf = ({ sheetId, plane }: PixelPatch): string => `${sheetId} ${plane}`;

export class BenchViewport {
  readonly modelCamera = new ModelCamera();
  readonly flatCamera = new FlatCamera();
  private quality = chooseQuality();
  private renderer: WebGLRenderer;
  private model = new ModelScene(loadLight(() => this.redraw.ask('model')));
  private flat = new FlatScene();
  private sheets = new Map<string, SheetTextures>();
  private rects: { model: PaneRect | null; flat: PaneRect | null } = { model: null, flat: null };
  /** null until a piece is open. */
  private shown: Shown | null = null;
  private look = { view: 'lit' as Looking, maskMode: null as MaskMode | null, albedoMarks: false, form: false };
  private redraw: Redraw;
  /** What each pane shows: sheet and plane. */
  private seen = { model: new Set<string>(), flat: new Set<string>() };
  /** Told after each frame that was drawn. */
  readonly drawn = new Signal();
  /** Told after a frame that shows the work from elsewhere, or in a pane of another size: what lies over it has to follow. */
  readonly moved = new Signal();
  private shownFrom = '';

  constructor(private canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({
      canvas,
      antialias: this.quality.antialias,
      powerPreference: 'high-performance',
      // A pane in which nothing changed stays as it was drawn.
      preserveDrawingBuffer: true,
    });
    const draw = (panes: PaneName[]) => {
      this.drawChanged(panes);
      this.drawn.tell();
      this.tellMoved();
    };
    this.redraw = new Redraw(this.gl, draw, undefined, this.quality.frameMs);
    this.renderer.outputColorSpace = SRGBColorSpace;
    this.renderer.toneMapping = NeutralToneMapping;
    this.renderer.autoClear = false;
    this.model.changed.listen(() => this.redraw.ask('model'));
  }

  private tellMoved(): void {
    const from = JSON.stringify([this.modelCamera.left, this.flatCamera.left, this.rects]);
    if (from === this.shownFrom) return;
    this.shownFrom = from;
    this.moved.tell();
  }

  /** What follows the pointer moves with the frames that are drawn (`drawn`). */
  get costlyPage(): boolean {
    return this.quality.costlyPage;
  }

  get gl(): WebGL2RenderingContext {
    return this.renderer.getContext() as WebGL2RenderingContext;
  }

  // ── What is shown ────────────────────────────────────────────────────────────────────────────────────

  open(piece: Piece, geometry: Geometry | null): void {
    this.shown = { ...this.look, piece, geometry, sheetId: piece.sheets[0].id, texturesOf: (id) => this.sheets.get(id)! };
    for (const sheet of piece.sheets) this.makeTextures(sheet);
    this.model.build(piece, geometry);
    if (!geometry) this.modelCamera.look(0.3, 0.25);
    this.dress();
    this.frameModel();
    this.fitSheet();
  }

  private makeTextures(sheet: Sheet): void {
    this.sheets.get(sheet.id)?.dispose();
    const onModel = this.shown!.geometry !== null;
    this.sheets.set(sheet.id, new SheetTextures(this.gl, sheet, onModel, this.quality.anisotropy));
    this.renderer.resetState();
  }

  private fitSheet(): void {
    const { width, height } = sheetAtWork(this.shown!);
    this.flatCamera.fit(width, height);
  }

  /** Takes over a changed document: hidden parts, repeats. Pixels come separately. */
  setPiece(piece: Piece): void {
    const { shown } = this;
    if (!shown) return;
    const old = shown.piece;
    shown.piece = piece;
    const reshaped = piece.sheets.filter((s) => {
      const t = this.sheets.get(s.id);
      return !t || t.width !== s.width || t.height !== s.height;
    });
    // What waits is of the sheets as they were.
    if (reshaped.length > 0) this.upload(() => true);
    reshaped.forEach((s) => this.makeTextures(s));
    const maps = (p: Piece) => p.sheets.map((s) => `${s.maps.join()} ${s.wrapU} ${s.wrapV} ${fenceAtWork(s) !== null}`).join(';');
    if (reshaped.length || maps(old) !== maps(piece)) {
      this.dress();
      if (reshaped.some((s) => s.id === shown.sheetId)) this.fitSheet();
    } else if (
      old.hiddenParts !== piece.hiddenParts ||
      old.hiddenFaces !== piece.hiddenFaces ||
      old.planeRepeats !== piece.planeRepeats
    )
      this.model.follow(piece, shown.geometry);
    this.invalidate();
  }

  private setLook(change: Partial<BenchViewport['look']>): void {
    const next = { ...this.look, ...change };
    if (JSON.stringify(next) === JSON.stringify(this.look)) return;
    this.look = next;
    if (!this.shown) return;
    Object.assign(this.shown, next);
    this.dress();
  }

  setView(view: Looking): void {
    this.setLook({ view });
  }

  setMaskMode(maskMode: MaskMode | null): void {
    this.setLook({ maskMode });
  }

  /** The cage of a bake over the model; null: none. */
  setCage(shape: CageShape | null): void {
    this.model.showCage(this.shown?.geometry ?? null, shape);
    this.redraw.ask('model');
  }

  setForm(form: boolean): void {
    this.setLook({ form });
  }

  setAlbedoMarks(albedoMarks: boolean): void {
    this.setLook({ albedoMarks });
  }

  setSheet(sheetId: string): void {
    if (!this.shown || this.shown.sheetId === sheetId) return;
    this.shown.sheetId = sheetId;
    this.dress();
    this.fitSheet();
  }

  setFlatRepeats(repeats: readonly [number, number]): void {
    this.flat.setRepeats(repeats);
    if (this.shown) this.dressPane('flat', this.flat);
    this.invalidate('flat');
  }

  setWireOpacity(opacity: number): void {
    this.flat.setWireOpacity(opacity);
    this.invalidate('flat');
  }

  setLight(degrees: number): void {
    this.model.scene.environmentRotation = new Euler(0, (degrees * Math.PI) / 180, 0);
    this.redraw.ask('model');
  }

  private dress(): void {
    this.dressPane('model', this.model);
    this.dressPane('flat', this.flat);
    this.invalidate();
  }

  /** Notes which planes the pane shows from now on. */
  private dressPane(pane: PaneName, scene: { dress(shown: Shown): void }): void {
    const seen = (this.seen[pane] = new Set<string>());
    const texturesOf = (id: string): PlaneTextures => ({
      texture: (plane) => {
        seen.add(`${id} ${plane}`);
        return this.sheets.get(id)!.texture(plane);
      },
    });
    scene.dress({ ...this.shown!, texturesOf });
  }

  /** Where a pen paints now: there its stroke is waited for, in the other pane it comes when there is time. */
  paintedIn: PaneName | null = null;

  /** New texels that are not on the card yet. */
  private waiting: PixelPatch[] = [];

  /**
   * New texels. They go to the card when a pane that shows them is drawn: a card that is still at the frame before would have to be waited
   * for. `waited`: of a stroke, or the last of what was to be drawn; else they are filled in behind.
   */
  applyPatches(patches: readonly PixelPatch[], waited: boolean): void {
    this.waiting.push(...patches);
    if (this.waiting.reduce((sum, { data }) => sum + data.length, 0) > MOST_WAITING) this.upload(() => true);
    if (patches.length || waited) this.redraw.release();
    for (const pane of ['model', 'flat'] as const) {
      const seen = patches.filter((p) => this.seen[pane].has(planeOf(p)));
      if (pane === 'flat') for (const patch of seen) this.flatChanges(extentOf(patch) ?? 'all');
      if (seen.length > 0) this.redraw.ask(pane, waited && (this.paintedIn ?? pane) === pane);
    }
    // All is there: what came before with nobody waiting for it is seen along with the last of it.
    if (waited && !this.paintedIn) this.redraw.hurry();
  }

  /** What waits, of some planes: in the order in which it came. */
  private upload(which: (patch: PixelPatch) => boolean): void {
    const now = this.waiting.filter(which);
    if (now.length === 0) return;
    this.waiting = this.waiting.filter((patch) => !which(patch));
    const { gl } = this;
    gl.pixelStorei(gl.UNPACK_FLIP_Y_WEBGL, false);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 4);
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    for (const patch of now) this.sheets.get(patch.sheetId)?.upload(patch);
    this.renderer.state.unbindTexture();
  }

  /** Texels of the sheet in the flat pane that were not drawn yet. */
  private flatChanged: Rect | 'all' | null = 'all';

  private flatChanges(texels: Rect | 'all'): void {
    const before = this.flatChanged ?? texels;
    this.flatChanged = before === 'all' || texels === 'all' ? 'all' : together(before, texels);
  }

  // ── Where things are ─────────────────────────────────────────────────────────────────────────────────

  setPanes(width: number, height: number, model: PaneRect | null, flat: PaneRect | null): void {
    this.renderer.setPixelRatio(Math.min(this.quality.maxPixelRatio, window.devicePixelRatio));
    this.renderer.setSize(width, height, false);
    this.rects = { model, flat };
    if (model) this.modelCamera.resize(model.width / Math.max(1, model.height));
    if (flat) this.flatCamera.resize(flat.width, flat.height);
    // A resized canvas is empty until it is drawn: draw at once, so that it does not flash.
    if (this.redraw.begun) this.draw();
  }

  frameModel(): void {
    const { min, max } = this.model.bounds(this.shown?.geometry ?? null);
    const rect = this.rects.model;
    this.modelCamera.frame(min, max, rect ? rect.width / Math.max(1, rect.height) : 1);
    this.invalidate();
  }

  /** View ray through a point of the model pane (pane pixels). */
  rayAt(x: number, y: number): Ray | null {
    return this.rects.model && rayThrough(this.modelCamera, this.rects.model, x, y);
  }

  /** How places in space come to lie in the model pane now; null: it is not there. */
  get view(): View | null {
    return this.rects.model && viewOf(this.modelCamera, this.rects.model);
  }

  hitAt(x: number, y: number): Hit | null {
    const ray = this.rayAt(x, y);
    return ray && this.shown && hitOf(ray, this.model, this.shown.piece, this.shown.geometry);
  }

  /** What lies in the middle of the model pane. */
  middleHit(): Hit | null {
    const rect = this.rects.model;
    return rect && this.hitAt(rect.width / 2, rect.height / 2);
  }

  /** What is near a place of the model, seen against a direction; and the model's middle. */
  nearTo(point: readonly number[], normal: readonly number[], reach: number): SurfaceHit | null {
    return this.model.query?.near(point, normal, reach) ?? null;
  }

  /** Of the model that is shown. */
  get bounds(): { min: readonly number[]; max: readonly number[] } {
    return this.model.bounds(this.shown?.geometry ?? null);
  }

  get middle(): readonly number[] {
    return this.model.query?.middle ?? [0, 0, 0];
  }

  /** On a canvas: the texel under a point of the plane in the model pane. */
  planeTexelAt(x: number, y: number): { x: number; y: number; texelsPerPixel: number } | null {
    const { planeHeight } = this.model;
    const hit = planeHeight === null ? null : this.hitAt(x, y);
    return hit && planeTexel(hit, planeHeight!, this.shown!.piece);
  }

  /** A point in space to pane pixels. */
  project(point: readonly number[]): { x: number; y: number } | null {
    return this.rects.model && projected(this.modelCamera, this.rects.model, point);
  }

  /** The point under pane pixels that is as far from the eye as another point: for dragging it. */
  unproject(like: readonly number[], x: number, y: number): [number, number, number] {
    return this.rects.model ? unprojected(this.modelCamera, this.rects.model, like, x, y) : [like[0], like[1], like[2]];
  }

  /** Texels of the sheet that the flat pane shows; on a wrapping canvas all of it. */
  flatVisible(): { x: number; y: number; width: number; height: number } | null {
    const rect = this.rects.flat;
    if (!rect) return null;
    const corners = [
      [0, 0],
      [rect.width, 0],
      [0, rect.height],
      [rect.width, rect.height],
    ].map(([x, y]) => this.flatCamera.texelAt(x, y));
    const [xs, ys] = [corners.map((c) => c.x), corners.map((c) => c.y)];
    const [x, y] = [Math.min(...xs), Math.min(...ys)];
    return { x, y, width: Math.max(...xs) - x, height: Math.max(...ys) - y };
  }

  // ── Drawing ──────────────────────────────────────────────────────────────────────────────────────────

  /** Draws a pane, or both, with the next frame. */
  invalidate(pane?: PaneName): void {
    if (pane !== 'flat') this.redraw.ask('model');
    if (pane === 'model') return;
    this.flatChanges('all');
    this.redraw.ask('flat');
  }

  /** What is seen where nothing is: of the scheme. */
  private get background(): Color {
    return new Color(getComputedStyle(this.canvas).getPropertyValue('--work') || '#8b8b8b');
  }

  /** The same as RGB bytes. */
  get ground(): readonly number[] {
    const { r, g, b } = this.background.clone().convertLinearToSRGB();
    return [r, g, b].map((v) => Math.round(v * 255));
  }

  /** Draws both panes as a whole, now. */
  draw(): void {
    this.flatChanges('all');
    this.drawChanged(['model', 'flat']);
  }

  private drawChanged(panes: readonly PaneName[]): void {
    if (!this.shown) return;
    // With the model comes what nobody sees.
    this.upload((patch) => panes.includes('model') || this.seen.flat.has(planeOf(patch)));
    const { model, flat } = this.rects;
    if (model && panes.includes('model')) this.drawBoxes(model, [model], this.model.scene, this.modelCamera.camera);
    if (flat && panes.includes('flat')) {
      this.drawBoxes(flat, this.flatBoxes(flat) ?? [flat], this.flat.scene, this.flatCamera.camera);
      this.flatChanged = null;
    }
  }

  /** What of the flat pane is to be drawn, in CSS pixels of the canvas; null: all of it. */
  private flatBoxes(pane: PaneRect): PaneRect[] | null {
    if (this.flatChanged === 'all') return null;
    if (!this.flatChanged) return [];
    const camera = this.flatCamera;
    const view = {
      ...{ zoom: camera.zoom, sheet: sheetAtWork(this.shown!), repeats: this.flat.seenRepeats, pane },
      pixelAt: (x: number, y: number) => camera.pixelAt(x, y),
    };
    return changedBoxes(this.flatChanged, view)?.map((box) => ({ ...box, x: pane.x + box.x, y: pane.y + box.y })) ?? null;
  }

  private drawBoxes(pane: PaneRect, boxes: readonly PaneRect[], scene: Scene, camera: Camera): void {
    if (pane.width < 2 || pane.height < 2) return;
    const height = this.canvas.clientHeight;
    for (const box of boxes) {
      // Each time: resetting the renderer's state (after textures are made by hand) forgets it.
      this.renderer.setScissorTest(true);
      this.renderer.setViewport(pane.x, height - pane.y - pane.height, pane.width, pane.height);
      this.renderer.setScissor(box.x, height - box.y - box.height, box.width, box.height);
      this.renderer.setClearColor(this.background, 1);
      this.renderer.clear();
      this.renderer.render(scene, camera);
    }
  }

  /** Both panes as they were drawn last. */
  picture(type: string, quality: number): Promise<Blob | null> {
    return new Promise((resolve) => this.canvas.toBlob(resolve, type, quality));
  }

  /** What the pane shows at a point, as RGBA bytes; draws first. For tests and the card's picture. */
  readPixels(pane: 'model' | 'flat'): { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } | null {
    const rect = this.rects[pane];
    if (!rect) return null;
    this.draw();
    const ratio = this.renderer.getPixelRatio();
    const [width, height] = [Math.floor(rect.width * ratio), Math.floor(rect.height * ratio)];
    const raw = new Uint8Array(width * height * 4);
    const { gl } = this;
    const bottom = (this.canvas.clientHeight - rect.y - rect.height) * ratio;
    gl.readPixels(rect.x * ratio, bottom, width, height, gl.RGBA, gl.UNSIGNED_BYTE, raw);
    const data = new Uint8ClampedArray(raw.length);
    for (let y = 0; y < height; y++)
      data.set(raw.subarray((height - 1 - y) * width * 4, (height - y) * width * 4), y * width * 4);
    return { width, height, data };
  }

  dispose(): void {
    this.redraw.stop();
    for (const t of this.sheets.values()) t.dispose();
    this.model.dispose();
    this.flat.dispose();
    this.renderer.dispose();
  }
}
