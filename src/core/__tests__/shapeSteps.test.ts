/** Steps of masks that come of the model's shape and its bakes; bakes as pictures of a sheet. */
import { bakeOf, bakeState, specOf } from '../document/bake';
import { newMask, newPiece, newSheet } from '../document/factory';
import { DOCUMENT_VERSION, parsePiece, pieceSchema, stepSchema, type Picture, type Sheet } from '../document/schema';
import { planeKey } from '../document/planes';
import { takeBake, turnNormalY } from '../document/work/bakes';
import { idColour } from '../kinds/bakes/ids';
import { bakeRecordSchema } from '../kinds/bakes/record';
import { specText } from '../kinds/bakes/spec';
import type { StepSource } from '../kinds/steps';
import type { Model } from '../mesh/model';
import { applyEdit } from '../document/edits';
import { Evaluator } from '../strata/evaluator';
import { renderPlane } from '../strata/displayPlanes';
import { missesOf } from '../strata/misses';
import { MISSED } from '../strata/nodes/missed';
import { attachSurfaces, PieceSurfaces } from '../strata/pieceSurfaces';
import { programOfMask } from '../strata/program';
import { ballModel } from '../testing/baked';
import { boxModel, cubeModel, smoothed } from '../testing/models';
import { TILE, TILE_TEXELS, TileStore, WHOLE_TILE } from '../tile/tiles';

const SIZE = 128;
const EVEN = { contrast: 0, breakup: 0, grain: 0.03, seed: 1 };

function onModel(model: Model, source: StepSource, over: Partial<Sheet> = {}) {
  const mask = newMask('m', 'M', 0, { steps: [stepSchema.parse({ id: 'a', source })] });
  const sheet = newSheet('s', 'S', SIZE, SIZE, { materialIndex: 0, masks: [mask], ...over });
  const store = new TileStore();
  attachSurfaces(store, model, 0);
  const surface = new PieceSurfaces(model, 0).dataFor(sheet)!.tiles.get(0)!;
  const values = () => {
    const value = new Evaluator({ sheet, store }).tile(programOfMask(sheet, 'm', null)!.scope, 0);
    return (i: number) => (value.data ? value.data[i] : value.uniform[0]);
  };
  /** Calls for texels that belong to a face. */
  const each = (visit: (v: number, place: number[], face: number, i: number) => void) => {
    const at = values();
    surface.face.forEach((f, i) => f >= 0 && visit(at(i), [...surface.position.subarray(i * 3, i * 3 + 3)], f, i));
  };
  return { sheet, store, each, values };
}

describe('By the model’s shape', () => {
  it('edges are 1 along them and 0 from the width on; on a canvas there are none', () => {
    const source: StepSource = { type: 'edges', angle: 30, width: 0.1, ...EVEN };
    const { each, sheet } = onModel(cubeModel(), source);
    let [on, off] = [0, 0];
    each((v, place) => {
      // Texels of the gutter lie beyond the edge, on the plane that goes on.
      if (place.some((c) => Math.abs(c) > 0.5001)) return;
      const edge = Math.abs(place.map((c) => 0.5 - Math.abs(c)).sort((a, b) => a - b)[1]);
      if (edge > 0.1) expect(v).toBe(0);
      if (edge > 0.1) off++;
      // Without contrast the slope is eased: 0.5 stays.
      if (edge < 0.04) expect(v).toBeGreaterThan(0.55);
      if (edge < 0.04) on++;
    });
    expect(Math.min(on, off)).toBeGreaterThan(500);
    const flat = new Evaluator({ sheet: { ...sheet, materialIndex: null }, store: new TileStore() });
    const none = flat.tile(programOfMask(sheet, 'm', null)!.scope, 0);
    expect(none.data ? Math.max(...none.data.subarray(0, TILE_TEXELS)) : none.uniform[0]).toBe(0);
  });

  it('what is shaded as one round thing has none, however few sides it has', () => {
    const rod = ballModel(1, 6, 7);
    onModel(rod, { type: 'edges', angle: 20, width: 0.1, ...EVEN }).each((v) => expect(v).toBe(0));
    // A box that is shaded smoothly still has its right angles.
    let most = 0;
    onModel(smoothed(cubeModel()), { type: 'edges', angle: 20, width: 0.1, ...EVEN }).each((v) => (most = Math.max(most, v)));
    expect(most).toBeGreaterThan(0.8);
  });

  it('facing up is what faces up; the direction may be any', () => {
    onModel(cubeModel(), { type: 'facing', direction: [0, 1, 0], angle: 60, soft: 0.5 }).each((v, _, face) =>
      expect(v).toBe(face >> 1 === 4 ? 1 : 0),
    );
    const ball = onModel(ballModel(1), { type: 'facing', direction: [3, 0, 0], angle: 90, soft: 1 });
    ball.each((v, [x, y, z]) => {
      // Texels of the gutter lie off the ball.
      if (Math.hypot(x, y, z) > 1.0005) return;
      const angle = Math.acos(Math.max(-1, Math.min(1, x)));
      const t = Math.min(1, angle / (Math.PI / 2));
      expect(Math.abs(v - (1 - t * t * (3 - 2 * t)))).toBeLessThan(0.05);
    });
  });

  it('a span runs along its axis with soft ends, and does not end where the model does', () => {
    const { each } = onModel(boxModel(1, 2, 1), { type: 'span', axis: 'y', from: 0, to: 0.25, soft: 0.25 });
    each((v, [, y]) => {
      const t = y / 2 + 0.5;
      if (t < 0.25) expect(v).toBe(1);
      else if (t > 0.5) expect(v).toBe(0);
      if (Math.abs(t - 0.375) < 0.002) expect(Math.abs(v - 0.5)).toBeLessThan(0.02);
    });
  });

  it('the distance from a point, and from a plane', () => {
    const point = onModel(cubeModel(), {
      type: 'distance',
      shape: 'point',
      at: [0.5, 0.5, 0.5],
      normal: [0, 1, 0],
      reach: 0.5,
      soft: 0,
    });
    point.each((v, [x, y, z]) => {
      const d = Math.hypot(x - 0.5, y - 0.5, z - 0.5);
      if (Math.abs(d - 0.5) > 1e-4) expect(v).toBe(d < 0.5 ? 1 : 0);
    });
    const plane = onModel(cubeModel(), {
      type: 'distance',
      shape: 'plane',
      at: [0, 0, 0],
      normal: [0, 2, 0],
      reach: 0.1,
      soft: 0,
    });
    plane.each((v, [, y]) => Math.abs(Math.abs(y) - 0.1) > 1e-4 && expect(v).toBe(Math.abs(y) < 0.1 ? 1 : 0));
  });

  it('a noise leaves gaps in what is whole and nothing in what is empty, the same each time', () => {
    const source: StepSource = { type: 'edges', angle: 30, width: 0.15, contrast: 0.9, breakup: 0.9, grain: 0.05, seed: 4 };
    const [one, again] = [onModel(cubeModel(), source), onModel(cubeModel(), source)];
    const even = onModel(cubeModel(), { ...source, breakup: 0 }).values();
    const plain = onModel(cubeModel(), { ...source, breakup: 0, contrast: 0 }).values();
    const [a, b] = [one.values(), again.values()];
    let [gaps, kept] = [0, 0];
    one.each((v, _, __, i) => {
      expect(a(i)).toBe(b(i));
      if (plain(i) === 0) expect(v).toBe(0);
      if (even(i) < 1) return;
      if (v < 0.1) gaps++;
      else kept++;
    });
    expect(Math.min(gaps, kept)).toBeGreaterThan(100);
  });
});

const MODEL = 'a'.repeat(64);
const picture = (over: object = {}, id = 'b'): Picture => ({
  id,
  name: 'Cavities',
  width: SIZE,
  height: SIZE,
  encoding: 'linear',
  bake: bakeRecordSchema.parse({ settings: { type: 'cavity' }, ...over }),
});

/** Left half 0.25, right half 0.75, the lowest rows met nothing. */
function pixels(): Uint16Array {
  const data = new Uint16Array(TILE_TEXELS * 4);
  for (let i = 0; i < TILE_TEXELS; i++) {
    const v = i % 128 < 64 ? 16384 : 49151;
    if (i < 120 * 128) data.set([v, v, v, 65535], i * 4);
  }
  return data;
}

describe('Bakes on a sheet', () => {
  it('ids that were picked are whole, those beside them nothing, exactly', () => {
    const colours = [0, 1, 2].map((n) => idColour(n));
    const ids = { ...picture({ made: 'x' }), bake: bakeRecordSchema.parse({ settings: { type: 'ids' }, made: 'x' }) };
    const data = new Uint16Array(TILE_TEXELS * 4);
    const band = (i: number) => Math.min(2, Math.floor((i % 128) / 43));
    for (let i = 0; i < TILE_TEXELS; i++) data.set([...colours[band(i)].map((v) => Math.round(v * 65535)), 65535], i * 4);
    for (const chosen of [[], [1], [0, 2]]) {
      const it = onModel(
        cubeModel(),
        { type: 'ids', colours: chosen.map((n) => colours[n]), tolerance: 0.03 },
        { pictures: [ids] },
      );
      it.store.set(planeKey('b', 'picture'), 0, { data, hash: null });
      const at = it.values();
      for (let i = 0; i < TILE_TEXELS; i += 7) expect(at(i)).toBe(chosen.includes(band(i)) ? 1 : 0);
    }
    // Nothing is baked: nothing is chosen.
    const none = onModel(cubeModel(), { type: 'ids', colours: [colours[0]], tolerance: 0.03 }).values();
    expect(none(5)).toBe(0);
  });

  it('each of sixty, and of three hundred, is picked without any other; from elsewhere the tolerance counts', () => {
    for (const count of [60, 300]) {
      const ids = { ...picture({ made: 'x' }), bake: bakeRecordSchema.parse({ settings: { type: 'ids' }, made: 'x' }) };
      const data = new Uint16Array(TILE_TEXELS * 4);
      for (let i = 0; i < TILE_TEXELS; i++) data.set([...idColour(i % count).map((v) => Math.round(v * 65535)), 65535], i * 4);
      for (let n = 0; n < count; n += count === 60 ? 1 : 23) {
        const source: StepSource = { type: 'ids', colours: [idColour(n)], tolerance: 0.03 };
        const it = onModel(cubeModel(), source, { pictures: [ids] });
        it.store.set(planeKey('b', 'picture'), 0, { data, hash: null });
        const at = it.values();
        const found = new Set<number>();
        for (let i = 0; i < count; i++) if (at(i) > 0) found.add(i);
        expect([...found]).toEqual([n]);
        expect(at(n)).toBe(1);
      }
      const worn = { ...ids, bake: { ...ids.bake!, made: 'file' } };
      const near = idColour(0).map((v) => v + 0.004) as [number, number, number];
      for (const [pictures, share] of [
        [[ids], 0],
        [[worn], 1],
      ] as const) {
        const it = onModel(cubeModel(), { type: 'ids', colours: [near], tolerance: 0.03 }, { pictures: [...pictures] });
        it.store.set(planeKey('b', 'picture'), 0, { data, hash: null });
        expect(it.values()(0)).toBe(share);
      }
    }
  });

  it('a bake of ids from before colours were kept apart is out of date', () => {
    const sheet = { materialIndex: 0 };
    const piece = { model: { blob: MODEL, uvSet: 0 } };
    const fresh = { ...picture({ made: '' }), bake: bakeRecordSchema.parse({ settings: { type: 'ids' }, made: '' }) };
    const now = specText(specOf(piece, sheet, fresh)!);
    const before = now.replace('"colours":2,', '');
    expect(before).not.toBe(now);
    const made = (text: string) => bakeState(piece, sheet, { ...fresh, bake: { ...fresh.bake!, made: text } });
    expect([made(now), made(before)]).toEqual(['baked', 'stale']);
  });

  it('a step asks for the kind, from which values to which; what is not baked shows nothing', () => {
    const source = (low: number, high: number): StepSource => ({ type: 'bake', of: 'cavity', low, high, ...EVEN });
    const with_ = (low: number, high: number, pictures: Picture[]) => {
      const it = onModel(cubeModel(), source(low, high), { pictures });
      it.store.set(planeKey('b', 'picture'), 0, { data: pixels(), hash: null });
      const at = it.values();
      return [at(20 * 128 + 10), at(20 * 128 + 100)];
    };
    const ease = (t: number) => (0.5 + 0.505 * 2 * (t - 0.5) < 0 ? 0 : t);
    const made = picture({ made: 'x' });
    expect(with_(0.25, 0.75, [made])[0]).toBeCloseTo(0, 3);
    expect(with_(0.25, 0.75, [made])[1]).toBeCloseTo(ease(1), 3);
    // The other way round: dirt where occlusion is low.
    expect(with_(0.75, 0.25, [made])[0]).toBeCloseTo(1, 3);
    expect(with_(0.75, 0.25, [made])[1]).toBeCloseTo(0, 3);
    expect(with_(0, 1, [])).toEqual([0, 0]);
  });

  it('of two of a kind that with pixels is meant', () => {
    expect(bakeOf({ pictures: [picture(), picture({ made: 'x' }, 'c')] }, 'cavity')!.id).toBe('c');
    expect(bakeOf({ pictures: [picture()] }, 'cavity')!.id).toBe('b');
    expect(bakeOf({ pictures: [picture()] }, 'thickness')).toBeUndefined();
  });

  it('is up to date as long as all that it hangs on is the same, and says so when it is not', () => {
    const piece = { model: { blob: MODEL, uvSet: 0 } };
    const sheet = { materialIndex: 0 };
    const text = specText(specOf(piece, sheet, picture())!);
    const made = picture({ made: text });
    expect(bakeState(piece, sheet, picture())).toBe('none');
    expect(bakeState(piece, sheet, made)).toBe('baked');
    expect(bakeState({ model: { blob: 'b'.repeat(64), uvSet: 0 } }, sheet, made)).toBe('stale');
    expect(bakeState(piece, sheet, picture({ made: text, settings: { type: 'cavity', radius: 0.1 } }))).toBe('stale');
    expect(bakeState(piece, sheet, { ...made, width: 256 })).toBe('stale');
    expect(bakeState(piece, sheet, picture({ made: 'file' }))).toBe('file');
    // What needs a twin cannot be asked for without one; and reaches of nothing find nothing.
    const normal = (twin: object | null) => ({
      ...picture(),
      bake: bakeRecordSchema.parse({ settings: { type: 'normal' }, twin }),
    });
    expect(specOf(piece, sheet, normal(null))).toBeNull();
    expect(specOf(piece, sheet, normal({ file: MODEL, name: 'd.glb' }))).not.toBeNull();
    expect(specOf(piece, sheet, normal({ file: MODEL, name: 'd.glb', outward: 0, inward: 0 }))).toBeNull();
    expect(specOf({ model: null }, { materialIndex: null }, picture())).toBeNull();
  });

  it('what was baked takes the place of what was there, and undo brings that back; paint is not touched', () => {
    const sheet = newSheet('s', 'S', SIZE, SIZE, { materialIndex: 0, pictures: [picture({ made: 'old' })] });
    const store = new TileStore();
    const plane = planeKey('b', 'picture');
    const before = { data: new Uint16Array(TILE_TEXELS * 4), hash: 'before' };
    store.set(plane, 0, before);
    store.set(plane, 1, before);
    const taken = { pictureId: 'b', made: 'new', missed: 7, width: SIZE, height: SIZE, tiles: [[0, 'h']] as [number, string][] };
    const after = { data: pixels(), hash: 'h' };
    const work = takeBake(sheet, store, taken, new Map([['h', after]]));
    expect(work.changes.map((c) => [c.tile, c.before?.hash, c.after?.hash ?? null])).toEqual([
      [0, 'before', 'h'],
      [1, 'before', null],
    ]);
    expect(work.changes.every((c) => c.plane === plane)).toBe(true);
    const piece = newPiece('p', 'P', 'model', [sheet], { model: { blob: MODEL, uvSet: 0 } });
    const next = applyEdit(piece, work.edit).sheets[0].pictures[0];
    expect([next.bake!.made, next.bake!.missed]).toEqual(['new', 7]);
    expect(() => takeBake(sheet, store, taken, new Map())).toThrow(/lost on the server: bake Cavities again/);
    expect(() => takeBake({ ...sheet, pictures: [] }, store, taken, new Map())).toThrow(/not on the sheet/);
  });

  it('is looked at as it is, loud where it missed the twin, dark off the islands', () => {
    const it = onModel(cubeModel(), { type: 'constant', value: 0 });
    it.store.set(planeKey('b', 'picture'), 0, { data: pixels(), hash: null });
    const look = { kind: 'bake' as const, picture: picture({ missed: 3 }) };
    // The box's lowest islands reach to the last rows: there nothing was met.
    const data = renderPlane(new Evaluator({ sheet: it.sheet, store: it.store }), it.sheet, 'view', 0, WHOLE_TILE, look);
    const at = (x: number, y: number) => [...data.subarray((y * TILE + x) * 4, (y * TILE + x) * 4 + 3)];
    expect(at(10, 10)).toEqual([64, 64, 64]);
    expect(at(100, 10)).toEqual([191, 191, 191]);
    const colours = new Set(Array.from({ length: 128 }, (_, x) => at(x, 124).join()));
    const loud = MISSED.map((v) => Math.floor(v * 255 + 0.5)).join();
    expect(colours.has(loud) || [...colours].every((c) => c === at(0, 127).join())).toBe(true);
  });

  it('lists where it met nothing, by island, with a place to go to', () => {
    const it = onModel(cubeModel(), { type: 'constant', value: 0 });
    const surface = new PieceSurfaces(cubeModel(), 0).dataFor(it.sheet)!;
    const data = pixels();
    // Nothing was met on all of the first island, and on a patch of the second.
    surface.tiles.get(0)!.face.forEach((f, i) => {
      if (f >= 0 && (f >> 1 === 0 || (f >> 1 === 1 && i % 128 > 70))) data.fill(0, i * 4, i * 4 + 4);
    });
    it.store.set(planeKey('b', 'picture'), 0, { data, hash: null });
    const [first, second] = missesOf(it.store, picture({ missed: 1 }), surface).filter((m) => m.island < 2);
    expect([first.island, second.island, first.part]).toEqual([0, 1, 'Cube']);
    expect(first.count).toBeGreaterThan(second.count);
    // The front: its middle, facing to the front.
    expect(Math.hypot(first.place[0], first.place[1], first.place[2] - 0.5)).toBeLessThan(0.1);
    expect(first.normal).toEqual([0, 0, 1]);
    expect(second.place[2]).toBeCloseTo(-0.5, 5);
  });

  it('the Y of a normal map turns round where there is anything, and back again to the same texels', () => {
    const sheet = newSheet('s', 'S', SIZE, SIZE, { materialIndex: 0, pictures: [picture({ made: 'file' })] });
    const store = new TileStore();
    const before = { data: pixels(), hash: 'before' };
    store.set(planeKey('b', 'picture'), 0, before);
    const [change] = turnNormalY(sheet, store, 'b').changes;
    expect([change.before, change.after!.data![1], change.after!.data![121 * 128 * 4 + 1]]).toEqual([before, 65535 - 16384, 0]);
    store.apply([change]);
    expect(turnNormalY(sheet, store, 'b').changes[0].after!.data).toEqual(before.data);
    expect(() => turnNormalY({ ...sheet, pictures: [] }, store, 'b')).toThrow(/not on the sheet/);
  });

  it('documents of version 5 open, and steps and bakes of version 6 are kept', () => {
    const sheet = newSheet('s', 'S', SIZE, SIZE, { materialIndex: 0, pictures: [picture()] });
    const piece = newPiece('p', 'P', 'model', [sheet], { model: { blob: MODEL, uvSet: 0 } });
    expect(pieceSchema.parse(JSON.parse(JSON.stringify(piece)))).toEqual(piece);
    const old = {
      ...JSON.parse(JSON.stringify(piece)),
      version: 5,
      sheets: [{ ...sheet, pictures: [{ ...picture(), bake: undefined }] }],
    };
    const read = parsePiece(old);
    expect(read.ok && [read.value.version, read.value.sheets[0].pictures[0].bake]).toEqual([DOCUMENT_VERSION, undefined]);
  });
});
