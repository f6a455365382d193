/**
 * Both panes on one canvas with one set of textures: the model and the flat sheet are current with each other
 * because they are drawn from the same texels in the same frame. Draws on demand only.
 */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Euler,
  LineBasicMaterial,
  LineLoop,
  LineSegments,
  Mesh,
  NeutralToneMapping,
  PlaneGeometry,
  Scene,
  SRGBColorSpace,
  Vector2,
  Vector3,
  WebGLRenderer,
  type Material,
} from 'three';
import type { Piece, Sheet } from '../core/document/schema';
import { boundsOf } from '../core/mesh/model';
import { planeModel } from '../core/mesh/plane';
import { RayQuery, type SurfaceHit } from '../core/mesh/surfaceQuery';
import type { Geometry, PixelPatch } from '../engine/protocol';
import { makeEnvironment } from './environment';
import { FlatCamera } from './flatCamera';
import { litMaterial, mapMaterial, type MaskMode, type View } from './materials';
import { ModelCamera } from './modelCamera';
import { chooseQuality } from './quality';
import { SheetTextures } from './sheetTextures';

export interface PaneRect {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface Ray {
  origin: [number, number, number];
  direction: [number, number, number];
  pixelSpread: number;
}

/** A canvas repeats this often on each side of itself in the flat pane. */
const FLAT_REPEATS = 3;

export class BenchViewport {
  readonly modelCamera = new ModelCamera();
  readonly flatCamera = new FlatCamera();
  private quality = chooseQuality();
  private renderer: WebGLRenderer;
  private modelScene = new Scene();
  private flatScene = new Scene();
  private sheets = new Map<string, SheetTextures>();
  private meshes: { mesh: Mesh; part: string; sheetId: string }[] = [];
  private query: RayQuery | null = null;
  private rects: { model: PaneRect | null; flat: PaneRect | null } = { model: null, flat: null };
  private piece: Piece | null = null;
  private geometry: Geometry | null = null;
  private view: View = 'lit';
  private maskMode: MaskMode | null = null;
  private albedoMarks = false;
  private overlays: Mesh[] = [];
  private sheetId = '';
  private wireOpacity = 0.35;
  private flatObjects: (Mesh | LineSegments | LineLoop)[] = [];
  private frame = 0;
  private canvasHit: { width: number; height: number } | null = null;
  private materials: Material[] = [];
  /** Called after each frame that was drawn. */
  readonly frameListeners = new Set<() => void>();

  constructor(private canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({ canvas, antialias: this.quality.antialias, powerPreference: 'high-performance' });
    this.renderer.outputColorSpace = SRGBColorSpace;
    this.renderer.toneMapping = NeutralToneMapping;
    this.renderer.autoClear = false;
    this.modelScene.environment = makeEnvironment(this.renderer);
  }

  get gl(): WebGL2RenderingContext {
    return this.renderer.getContext() as WebGL2RenderingContext;
  }

  // ── What is shown ────────────────────────────────────────────────────────────────────────────────────

  open(piece: Piece, geometry: Geometry | null): void {
    this.piece = piece;
    this.geometry = geometry;
    for (const sheet of piece.sheets) this.makeTextures(sheet);
    this.sheetId = piece.sheets[0].id;
    if (geometry) this.buildModel(piece, geometry);
    else this.buildPlane(piece.sheets[0]);
    this.rebuildMaterials();
    this.frameModel();
    const sheet = this.sheet();
    this.flatCamera.fit(sheet.width, sheet.height);
  }

  private makeTextures(sheet: Sheet): void {
    this.sheets.get(sheet.id)?.dispose();
    this.sheets.set(sheet.id, new SheetTextures(this.gl, sheet, this.geometry !== null, this.quality.anisotropy));
    this.renderer.resetState();
  }

  private sheet(): Sheet {
    return this.piece!.sheets.find((s) => s.id === this.sheetId) ?? this.piece!.sheets[0];
  }

  private buildModel(piece: Piece, g: Geometry): void {
    this.query = new RayQuery(g);
    const attributes = {
      position: new BufferAttribute(g.positions, 3),
      normal: new BufferAttribute(g.normals, 3),
      uv: new BufferAttribute(g.uv, 2),
    };
    const groups = new Map<number, number[]>();
    for (let f = 0; f < g.facePart.length; f++) {
      const key = g.facePart[f] * 65536 + g.faceMaterial[f];
      const list = groups.get(key);
      if (list) list.push(f);
      else groups.set(key, [f]);
    }
    for (const [key, faces] of groups) {
      const sheet = piece.sheets.find((s) => s.materialIndex === key % 65536);
      if (!sheet) continue;
      const geometry = new BufferGeometry();
      for (const [name, attribute] of Object.entries(attributes)) geometry.setAttribute(name, attribute);
      const indices = new Uint32Array(faces.length * 3);
      faces.forEach((f, n) => indices.set(g.indices.subarray(f * 3, f * 3 + 3), n * 3));
      geometry.setIndex(new BufferAttribute(indices, 1));
      this.addMesh(new Mesh(geometry), g.parts[Math.floor(key / 65536)], sheet.id);
    }
  }

  private buildPlane(sheet: Sheet): void {
    const aspect = sheet.height / sheet.width;
    this.canvasHit = { width: 1, height: aspect };
    const g = planeModel('Canvas', aspect);
    this.query = new RayQuery(g);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(g.positions, 3));
    geometry.setAttribute('normal', new BufferAttribute(g.normals, 3));
    geometry.setAttribute('uv', new BufferAttribute(g.uvs[0].slice(), 2));
    geometry.setIndex(new BufferAttribute(g.indices, 1));
    this.addMesh(new Mesh(geometry), 'Canvas', sheet.id);
    this.modelCamera.look(0.3, 0.25);
  }

  private addMesh(mesh: Mesh, part: string, sheetId: string): void {
    mesh.frustumCulled = false;
    this.modelScene.add(mesh);
    this.meshes.push({ mesh, part, sheetId });
  }

  /** Takes over a changed document: hidden parts, repeats. Pixels come separately. */
  setPiece(piece: Piece): void {
    const old = this.piece;
    this.piece = piece;
    if (!old) return;
    const reshaped = piece.sheets.filter((s) => {
      const t = this.sheets.get(s.id);
      return !t || t.width !== s.width || t.height !== s.height;
    });
    reshaped.forEach((s) => this.makeTextures(s));
    const maps = (p: Piece) => p.sheets.map((s) => `${s.maps.join()} ${s.wrapU} ${s.wrapV}`).join(';');
    if (reshaped.length || maps(old) !== maps(piece)) {
      this.rebuildMaterials();
      if (reshaped.some((s) => s.id === this.sheetId)) this.flatCamera.fit(this.sheet().width, this.sheet().height);
    } else if (old.hiddenParts !== piece.hiddenParts || old.planeRepeats !== piece.planeRepeats) this.applyPiece();
    this.invalidate();
  }

  private applyPiece(): void {
    const piece = this.piece!;
    this.query?.hideParts(piece.hiddenParts);
    for (const m of this.meshes) {
      m.mesh.visible = !piece.hiddenParts.includes(m.part);
      for (const o of this.overlays) if (o.geometry === m.mesh.geometry) o.visible = m.mesh.visible;
    }
    if (!this.geometry) {
      const sheet = piece.sheets[0];
      const uv = this.meshes[0].mesh.geometry.getAttribute('uv') as BufferAttribute;
      const base = [0, 0, 0, 1, 1, 1, 1, 0];
      for (let i = 0; i < 8; i++)
        uv.array[i] = base[i] * (i % 2 === 0 ? (sheet.wrapU ? piece.planeRepeats : 1) : sheet.wrapV ? piece.planeRepeats : 1);
      uv.needsUpdate = true;
    }
  }

  setView(view: View): void {
    if (this.view === view) return;
    this.view = view;
    if (this.piece) this.rebuildMaterials();
  }

  /** `null`: no mask is looked at. Its texels come in the plane `view`. */
  setMaskMode(mode: MaskMode | null): void {
    if (this.maskMode === mode) return;
    this.maskMode = mode;
    if (this.piece) this.rebuildMaterials();
  }

  /** Marks colours that no real surface has. */
  setAlbedoMarks(on: boolean): void {
    if (this.albedoMarks === on) return;
    this.albedoMarks = on;
    if (this.piece) this.rebuildMaterials();
  }

  setSheet(sheetId: string): void {
    if (!this.piece || this.sheetId === sheetId) return;
    this.sheetId = sheetId;
    const sheet = this.sheet();
    this.rebuildMaterials();
    this.flatCamera.fit(sheet.width, sheet.height);
    this.invalidate();
  }

  setWireOpacity(opacity: number): void {
    this.wireOpacity = opacity;
    for (const o of this.flatObjects)
      if (o instanceof LineSegments) {
        (o.material as LineBasicMaterial).opacity = opacity;
        o.visible = opacity > 0;
      }
    this.invalidate();
  }

  setLight(degrees: number): void {
    this.modelScene.environmentRotation = new Euler(0, (degrees * Math.PI) / 180, 0);
    this.invalidate();
  }

  private rebuildMaterials(): void {
    for (const m of this.materials) m.dispose();
    for (const o of this.overlays) this.modelScene.remove(o);
    this.materials = [];
    this.overlays = [];
    for (const { mesh, sheetId } of this.meshes) {
      const sheet = this.piece!.sheets.find((s) => s.id === sheetId)!;
      const textures = this.sheets.get(sheetId)!;
      const side = sheet.preview.doubleSided || !this.geometry ? DoubleSide : undefined;
      const masked = this.maskMode !== null && sheetId === this.sheetId;
      const alone = masked && this.maskMode === 'alone';
      const material = alone
        ? mapMaterial(sheet, textures, 'mask', side)
        : this.view === 'lit'
          ? litMaterial(sheet, textures)
          : mapMaterial(sheet, textures, this.view, side);
      const marks = this.albedoMarks && !alone;
      if (!this.geometry) material.side = DoubleSide;
      mesh.material = material;
      mesh.renderOrder = sheet.preview.alpha < 1 ? 1 : 0;
      this.materials.push(material);
      if (masked && !alone) this.lay(mesh, mapMaterial(sheet, textures, 'mask', side, this.maskMode as 'over' | 'black'));
      if (marks) this.lay(mesh, mapMaterial(sheet, textures, 'base-colour', side, 'albedo'));
    }
    this.buildFlat();
    this.applyPiece();
    this.invalidate();
  }

  /** Something see-through over a part of the model. */
  private lay(mesh: Mesh, material: Material): void {
    const over = new Mesh(mesh.geometry, material);
    over.frustumCulled = false;
    over.renderOrder = 2;
    over.visible = mesh.visible;
    this.modelScene.add(over);
    this.overlays.push(over);
    this.materials.push(material);
  }

  private buildFlat(): void {
    this.flatScene.clear();
    for (const o of this.flatObjects) o.geometry.dispose();
    this.flatObjects = [];
    const sheet = this.sheet();
    const textures = this.sheets.get(sheet.id)!;
    const repeatU = sheet.wrapU ? FLAT_REPEATS : 1;
    const repeatV = sheet.wrapV ? FLAT_REPEATS : 1;
    const shown = this.maskMode === 'alone' ? 'mask' : this.view === 'lit' ? 'base-colour' : this.view;
    const material = mapMaterial(sheet, textures, shown, DoubleSide);
    (material.uniforms.repeats.value as Vector2).set(repeatU, repeatV);
    const quad = new Mesh(new PlaneGeometry(sheet.width * repeatU, sheet.height * repeatV), material);
    // PlaneGeometry's V runs up; ours, like the camera, runs down.
    const uv = quad.geometry.getAttribute('uv') as BufferAttribute;
    for (let i = 0; i < uv.count; i++) uv.setY(i, quad.geometry.getAttribute('position').getY(i) > 0 ? 1 : 0);
    quad.position.set(sheet.width / 2, sheet.height / 2, 0);
    const outline = new LineLoop(
      new BufferGeometry().setFromPoints([
        new Vector3(0, 0, 1),
        new Vector3(sheet.width, 0, 1),
        new Vector3(sheet.width, sheet.height, 1),
        new Vector3(0, sheet.height, 1),
      ]),
      new LineBasicMaterial({ color: 0xffffff, transparent: true, opacity: 0.55, toneMapped: false }),
    );
    this.flatObjects = [quad, outline];
    const overlays = [
      ...(this.maskMode === 'over' || this.maskMode === 'black' ? [['mask', this.maskMode] as const] : []),
      ...(this.albedoMarks && this.maskMode !== 'alone' ? [['base-colour', 'albedo'] as const] : []),
    ];
    for (const [map, mode] of overlays) {
      const over = mapMaterial(sheet, textures, map, DoubleSide, mode);
      (over.uniforms.repeats.value as Vector2).set(repeatU, repeatV);
      const lay = new Mesh(quad.geometry, over);
      lay.position.set(sheet.width / 2, sheet.height / 2, 0.5);
      lay.renderOrder = 1;
      outline.renderOrder = 2;
      this.flatObjects.push(lay);
      this.materials.push(over);
    }
    this.materials.push(material, outline.material as Material);
    const wire = this.geometry?.wires[sheet.id];
    if (wire) {
      const points = new Float32Array((wire.length / 2) * 3);
      for (let i = 0; i < wire.length / 2; i++) {
        points[i * 3] = wire[i * 2] * sheet.width;
        points[i * 3 + 1] = wire[i * 2 + 1] * sheet.height;
        points[i * 3 + 2] = 1;
      }
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(points, 3));
      const lines = new LineSegments(
        geometry,
        new LineBasicMaterial({ color: 0xffffff, transparent: true, opacity: this.wireOpacity, toneMapped: false }),
      );
      lines.visible = this.wireOpacity > 0;
      lines.renderOrder = 2;
      this.flatObjects.push(lines);
      this.materials.push(lines.material as Material);
    }
    for (const o of this.flatObjects) {
      o.frustumCulled = false;
      this.flatScene.add(o);
    }
  }

  applyPatches(patches: readonly PixelPatch[]): void {
    const { gl } = this;
    gl.pixelStorei(gl.UNPACK_FLIP_Y_WEBGL, false);
    gl.pixelStorei(gl.UNPACK_PREMULTIPLY_ALPHA_WEBGL, false);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 4);
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    for (const patch of patches) this.sheets.get(patch.sheetId)?.upload(patch);
    this.renderer.state.unbindTexture();
    this.invalidate();
  }

  // ── Where things are ─────────────────────────────────────────────────────────────────────────────────

  setPanes(width: number, height: number, model: PaneRect | null, flat: PaneRect | null): void {
    this.renderer.setPixelRatio(Math.min(this.quality.maxPixelRatio, window.devicePixelRatio));
    this.renderer.setSize(width, height, false);
    this.rects = { model, flat };
    if (model) this.modelCamera.resize(model.width / Math.max(1, model.height));
    if (flat) this.flatCamera.resize(flat.width, flat.height);
    // A resized canvas is empty until it is drawn: draw at once, so that it does not flash.
    this.draw();
  }

  frameModel(): void {
    const half = (this.canvasHit?.height ?? 1) / 2;
    const box = this.geometry ? boundsOf(this.geometry.positions) : { min: [-0.5, -half, 0], max: [0.5, half, 0] };
    const rect = this.rects.model;
    this.modelCamera.frame(box.min, box.max, rect ? rect.width / Math.max(1, rect.height) : 1);
    this.invalidate();
  }

  /** View ray through a point of the model pane (pane pixels). */
  rayAt(x: number, y: number): Ray | null {
    const rect = this.rects.model;
    if (!rect) return null;
    const { camera } = this.modelCamera;
    const far = new Vector3((x / rect.width) * 2 - 1, 1 - (y / rect.height) * 2, 0.5).unproject(camera);
    const direction = far.sub(camera.position).normalize();
    return {
      origin: camera.position.toArray(),
      direction: direction.toArray(),
      pixelSpread: this.modelCamera.pixelSpread(rect.height),
    };
  }

  hitAt(x: number, y: number): (SurfaceHit & { sheetId: string; part: string; pixelSpread: number }) | null {
    const ray = this.rayAt(x, y);
    const hit = ray && this.query?.raycast(ray.origin, ray.direction);
    if (!hit) return null;
    const material = this.geometry?.faceMaterial[hit.face] ?? null;
    const sheet = this.piece!.sheets.find((s) => s.materialIndex === material) ?? this.piece!.sheets[0];
    const part = this.geometry ? this.geometry.parts[this.geometry.facePart[hit.face]] : 'Canvas';
    return { ...hit, sheetId: sheet.id, part, pixelSpread: ray.pixelSpread };
  }

  /** On a canvas: the texel under a point of the plane in the model pane. */
  planeTexelAt(x: number, y: number): { x: number; y: number; texelsPerPixel: number } | null {
    if (!this.canvasHit || !this.piece) return null;
    const hit = this.hitAt(x, y);
    if (!hit) return null;
    const sheet = this.piece.sheets[0];
    const repeats = this.piece.planeRepeats;
    const u = (hit.point[0] + 0.5) * (sheet.wrapU ? repeats : 1);
    const v = (0.5 - hit.point[1] / this.canvasHit.height) * (sheet.wrapV ? repeats : 1);
    return { x: u * sheet.width, y: v * sheet.height, texelsPerPixel: hit.pixelSpread * hit.distance * sheet.width * repeats };
  }

  /** A point in space to pane pixels, for the brush ring. */
  project(point: readonly number[]): { x: number; y: number } | null {
    const rect = this.rects.model;
    if (!rect) return null;
    const v = new Vector3(...(point as [number, number, number])).project(this.modelCamera.camera);
    return { x: ((v.x + 1) / 2) * rect.width, y: ((1 - v.y) / 2) * rect.height };
  }

  /** The point under pane pixels that is as far from the eye as another point: for dragging it. */
  unproject(like: readonly number[], x: number, y: number): [number, number, number] {
    const rect = this.rects.model;
    if (!rect) return [like[0], like[1], like[2]];
    const depth = new Vector3(...(like as [number, number, number])).project(this.modelCamera.camera).z;
    const v = new Vector3((x / rect.width) * 2 - 1, 1 - (y / rect.height) * 2, depth).unproject(this.modelCamera.camera);
    return [v.x, v.y, v.z];
  }

  // ── Drawing ──────────────────────────────────────────────────────────────────────────────────────────

  invalidate(): void {
    if (this.frame) return;
    this.frame = requestAnimationFrame(() => {
      this.frame = 0;
      this.draw();
      this.frameListeners.forEach((listen) => listen());
    });
  }

  draw(): void {
    if (!this.piece) return;
    const background = new Color(getComputedStyle(this.canvas).getPropertyValue('--work') || '#8b8b8b');
    const height = this.canvas.clientHeight;
    for (const [pane, scene, camera] of [
      ['model', this.modelScene, this.modelCamera.camera],
      ['flat', this.flatScene, this.flatCamera.camera],
    ] as const) {
      const rect = this.rects[pane];
      if (!rect || rect.width < 2 || rect.height < 2) continue;
      // Each time: resetting the renderer's state (after textures are made by hand) forgets it.
      this.renderer.setScissorTest(true);
      this.renderer.setViewport(rect.x, height - rect.y - rect.height, rect.width, rect.height);
      this.renderer.setScissor(rect.x, height - rect.y - rect.height, rect.width, rect.height);
      this.renderer.setClearColor(background, 1);
      this.renderer.clear();
      this.renderer.render(scene, camera);
    }
  }

  /** Texels of the sheet that the flat pane shows; on a wrapping canvas all of it. */
  flatVisible(): { x: number; y: number; width: number; height: number } | null {
    const rect = this.rects.flat;
    if (!rect) return null;
    const a = this.flatCamera.texelAt(0, 0);
    const b = this.flatCamera.texelAt(rect.width, rect.height);
    return { x: a.x, y: a.y, width: b.x - a.x, height: b.y - a.y };
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
    gl.readPixels(
      rect.x * ratio,
      (this.canvas.clientHeight - rect.y - rect.height) * ratio,
      width,
      height,
      gl.RGBA,
      gl.UNSIGNED_BYTE,
      raw,
    );
    const data = new Uint8ClampedArray(raw.length);
    for (let y = 0; y < height; y++)
      data.set(raw.subarray((height - 1 - y) * width * 4, (height - y) * width * 4), y * width * 4);
    return { width, height, data };
  }

  dispose(): void {
    cancelAnimationFrame(this.frame);
    for (const t of this.sheets.values()) t.dispose();
    for (const m of this.materials) m.dispose();
    for (const { mesh } of this.meshes) mesh.geometry.dispose();
    this.modelScene.environment?.dispose();
    this.renderer.dispose();
  }
}
