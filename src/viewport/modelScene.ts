/** The model, or a canvas's plane, as three.js draws it, and rays against it. */
import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, Scene, type Material } from 'three';
import type { Piece, Sheet } from '../core/document/schema';
import { boundsOf, type Bounds } from '../core/mesh/model';
import { planeModel } from '../core/mesh/plane';
import { cutsFor, finer, type Surface } from '../core/mesh/finer';
import { formOf } from '../core/mesh/form';
import { RayQuery } from '../core/mesh/surfaceQuery';
import type { Geometry } from '../engine/protocol';
import { Signal } from '../engine/signal';
import { Cage, type CageShape } from './cage';
import type { Light } from './light';
import { litMaterial, mapMaterial } from './materials';
import { laidOver, type Shown } from './shown';

/** Milliseconds of the page's time in one piece. */
const SLICE_MS = 6;

const PLANE_UV = [0, 0, 0, 1, 1, 1, 1, 0];

interface Part {
  mesh: Mesh;
  name: string;
  sheetId: string;
  /** Of the model. */
  faces: number[];
}

export class ModelScene {
  readonly scene = new Scene();
  private parts: Part[] = [];
  private overlays: { mesh: Mesh; of: Mesh }[] = [];
  private materials: Material[] = [];
  private drawn: Drawn | null = null;
  query: RayQuery | null = null;
  /** Height of a canvas's plane; it is 1 wide. */
  planeHeight: number | null = null;

  constructor(private light: Light) {
    this.scene.environment = light.texture;
  }

  build(piece: Piece, geometry: Geometry | null): void {
    if (geometry) this.buildModel(piece, geometry);
    else this.buildPlane(piece.sheets[0]);
  }

  private buildModel(piece: Piece, g: Geometry): void {
    this.query = new RayQuery(g);
    this.drawn = { ...g, each: 1 };
    const attributes = attributesOf(g);
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
      geometry.setIndex(indicesOf(this.drawn, faces));
      this.add(new Mesh(geometry), g.parts[Math.floor(key / 65536)], sheet.id, faces);
    }
  }

  private buildPlane(sheet: Sheet): void {
    const aspect = sheet.height / sheet.width;
    this.planeHeight = aspect;
    const g = planeModel('Canvas', aspect);
    this.query = new RayQuery(g);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(g.positions, 3));
    geometry.setAttribute('normal', new BufferAttribute(g.normals, 3));
    geometry.setAttribute('uv', new BufferAttribute(g.uvs[0].slice(), 2));
    geometry.setIndex(new BufferAttribute(g.indices, 1));
    this.add(new Mesh(geometry), 'Canvas', sheet.id, [0, 1]);
  }

  private add(mesh: Mesh, name: string, sheetId: string, faces: number[]): void {
    mesh.frustumCulled = false;
    this.scene.add(mesh);
    this.parts.push({ mesh, name, sheetId, faces });
  }

  private cage: (Cage & { of: Geometry }) | null = null;

  /** Shows the cage of a bake over the model; null: none. */
  showCage(geometry: Geometry | null, shape: CageShape | null): void {
    if (!shape || !geometry) {
      if (this.cage) this.scene.remove(this.cage.group);
      this.cage?.dispose();
      this.cage = null;
      return;
    }
    if (this.cage?.of !== geometry) {
      this.showCage(null, null);
      this.cage = Object.assign(new Cage(geometry), { of: geometry });
      this.scene.add(this.cage.group);
    }
    this.cage.shape(shape);
  }

  private bounded: (Bounds & { of: Geometry }) | null = null;

  /** The corners of all there is. */
  bounds(geometry: Geometry | null): Bounds {
    const half = (this.planeHeight ?? 1) / 2;
    if (geometry && this.bounded?.of !== geometry) this.bounded = { of: geometry, ...boundsOf(geometry.positions) };
    return geometry ? this.bounded! : { min: [-0.5, -half, 0], max: [0.5, half, 0], diagonal: Math.hypot(1, 2 * half) };
  }

  /** Materials for what is to be seen now. */
  dress(shown: Shown): void {
    for (const m of this.materials) m.dispose();
    for (const { mesh } of this.overlays) this.scene.remove(mesh);
    this.materials = [];
    this.overlays = [];
    for (const { mesh, sheetId } of this.parts) {
      const sheet = shown.piece.sheets.find((s) => s.id === sheetId)!;
      const textures = shown.texturesOf(sheetId);
      const side = sheet.preview.doubleSided || !shown.geometry ? DoubleSide : undefined;
      // A mask belongs to the sheet at work.
      const here =
        sheetId === shown.sheetId
          ? shown
          : { ...shown, maskMode: null, view: shown.view === 'bake' ? ('lit' as const) : shown.view };
      const material =
        here.maskMode === 'alone'
          ? mapMaterial(sheet, textures, 'mask', side)
          : here.view === 'lit'
            ? litMaterial(sheet, textures, this.light)
            : mapMaterial(sheet, textures, here.view, side, 'none', shown.form);
      if (!shown.geometry) material.side = DoubleSide;
      mesh.material = material;
      mesh.renderOrder = sheet.preview.alpha < 1 ? 1 : 0;
      this.materials.push(material);
      for (const [map, mode] of laidOver(here)) this.lay(mesh, mapMaterial(sheet, textures, map, side, mode));
    }
    this.follow(shown.piece, shown.geometry);
    if (shown.form && shown.geometry) void this.findForm(shown.geometry);
  }

  private formed = false;
  private gone = false;
  /** It looks different, by itself. */
  readonly changed = new Signal();

  /** Works out how the shape shades the model, between frames: on a finer mesh that looks the same. */
  private async findForm(geometry: Geometry): Promise<void> {
    if (this.formed || !this.query) return;
    this.formed = true;
    const cuts = cutsFor(geometry, this.bounds(geometry).diagonal);
    const fine = finer(geometry, cuts);
    const work = formOf(fine, this.query);
    for (;;) {
      const until = performance.now() + SLICE_MS;
      let step = work.next();
      while (!step.done && performance.now() < until) step = work.next();
      if (this.gone) return;
      if (step.done) return this.takeForm(fine, cuts, step.value);
      await new Promise((resolve) => setTimeout(resolve, 0));
    }
  }

  private takeForm(fine: Surface, cuts: number, form: Float32Array): void {
    this.drawn = { ...fine, each: cuts * cuts };
    const attributes = { ...attributesOf(fine), form: new BufferAttribute(form, 1) };
    for (const { mesh, faces } of this.parts) {
      for (const [name, attribute] of Object.entries(attributes)) mesh.geometry.setAttribute(name, attribute);
      mesh.geometry.setIndex(indicesOf(this.drawn, this.seenOf(faces)));
    }
    this.changed.tell();
  }

  /** Something see-through over a part. */
  private lay(of: Mesh, material: Material): void {
    const mesh = new Mesh(of.geometry, material);
    mesh.frustumCulled = false;
    mesh.renderOrder = 2;
    this.scene.add(mesh);
    this.overlays.push({ mesh, of });
    this.materials.push(material);
  }

  /** As they are drawn now. */
  private hiddenFaces: Piece['hiddenFaces'] = [];

  /** Hidden parts, and how often a canvas is repeated. */
  follow(piece: Piece, geometry: Geometry | null): void {
    this.query?.hide(piece.hiddenParts, piece.hiddenFaces);
    if (geometry && this.hiddenFaces !== piece.hiddenFaces && this.hiddenFaces.length + piece.hiddenFaces.length > 0) {
      // Parts are hidden as wholes: only faces by themselves are left out of what is drawn.
      this.hiddenFaces = piece.hiddenFaces;
      for (const { mesh, faces } of this.parts) mesh.geometry.setIndex(indicesOf(this.drawn!, this.seenOf(faces)));
    }
    this.hiddenFaces = piece.hiddenFaces;
    for (const { mesh, name } of this.parts) mesh.visible = !piece.hiddenParts.includes(name);
    for (const { mesh, of } of this.overlays) mesh.visible = of.visible;
    if (geometry) return;
    const [sheet] = piece.sheets;
    const repeats = [sheet.wrapU ? piece.planeRepeats : 1, sheet.wrapV ? piece.planeRepeats : 1];
    const uv = this.parts[0].mesh.geometry.getAttribute('uv') as BufferAttribute;
    for (let i = 0; i < PLANE_UV.length; i++) uv.array[i] = PLANE_UV[i] * repeats[i % 2];
    uv.needsUpdate = true;
  }

  private seenOf(faces: readonly number[]): readonly number[] {
    if (this.hiddenFaces.length === 0) return faces;
    const out = new Set<number>();
    for (const [from, to] of this.hiddenFaces) for (let f = from; f <= to; f++) out.add(f);
    return faces.filter((f) => !out.has(f));
  }

  dispose(): void {
    this.gone = true;
    for (const m of this.materials) m.dispose();
    for (const { mesh } of this.parts) mesh.geometry.dispose();
    this.light.texture.dispose();
  }
}

/** As it is drawn: each face of the model is so many triangles, which follow each other. */
type Drawn = Surface & { each: number };

const attributesOf = ({ positions, normals, uv }: Surface) => ({
  position: new BufferAttribute(positions, 3),
  normal: new BufferAttribute(normals, 3),
  uv: new BufferAttribute(uv, 2),
});

function indicesOf({ indices, each }: Drawn, faces: readonly number[]): BufferAttribute {
  const out = new Uint32Array(faces.length * each * 3);
  faces.forEach((f, n) => out.set(indices.subarray(f * each * 3, (f + 1) * each * 3), n * each * 3));
  return new BufferAttribute(out, 1);
}
