/** Tools that lay down what is seen: what is seen afterwards is what was meant, however the layer joins. Held against the evaluator. */
import { BLEND_GROUPS, BLEND_IDS, blendValue, WHOLE, type BlendId } from '../colour/blend';
import { unblendValue, unblendWhole } from '../colour/unblend';
import { newCoatLayer, newGroup, newMask, newPaintedLayer } from '../document/factory';
import type { Layer, Sheet } from '../document/schema';
import { MAP_IDS, mapKind, storedChannels, valueChannels, type MapId } from '../kinds/maps';
import type { Brush } from '../hand/brush';
import type { Stroke } from '../hand/stroke';
import { Evaluator } from '../strata/evaluator';
import { programOf } from '../strata/program';
import { brushFor, canvasEasel, flatSample, strokeOn } from '../testing/hand';
import { seededRandom } from '../testing/models';
import { tileIndex, TILE_TEXELS, newTexels } from '../tile/tiles';

const SIDE = 24;
const STEP = 1 / 65535;
type Easel = ReturnType<typeof canvasEasel>;

interface Stack {
  map: MapId;
  blend: BlendId;
  opacity?: number;
  mask?: number;
  /** How much paint is on the layer already. */
  cover?: number;
  /** Around the layer, from the inside out. */
  groups?: Partial<Layer>[];
  above?: Layer[];
}

const smooth = (k: number) => (x: number, y: number) => 0.5 + 0.22 * Math.sin((x * (k + 2) + y * 3) / 17) + 0.03 * k;

/** A coat below, which varies by paint over it, and the layer 'l' at work over that. */
function easelOf({ map, blend, opacity = 1, mask, cover = 0, groups = [], above = [] }: Stack): Easel {
  const easel = canvasEasel(SIDE);
  const channels = valueChannels(map);
  const at = newPaintedLayer('l', 'At work', [map]);
  const layer: Layer = { ...at, opacity, cells: { [map]: { on: true, blend } }, parent: groups.length ? 'g0' : null };
  if (mask !== undefined) layer.mask = { on: true, id: 'm' } as Layer['mask'];
  const around = groups.map((over, n) => ({
    ...newGroup(`g${n}`, 'Group', [map]),
    ...over,
    parent: n + 1 < groups.length ? `g${n + 1}` : null,
  }));
  const sheet: Sheet = {
    ...easel.sheet,
    maps: [map],
    layers: [newCoatLayer('c', 'Ground', {}, [map]), newPaintedLayer('b', 'Below', [map]), layer, ...around, ...above],
    masks: mask === undefined ? [] : [newMask('m', 'Mask', mask)],
  };
  const made = { ...easel, sheet };
  const texel = (k: (n: number) => (x: number, y: number) => number, alpha: number) => (x: number, y: number) => {
    if (mapKind(map) !== 'normal') return [...Array.from({ length: channels }, (_, n) => k(n)(x, y)), alpha];
    const [a, b] = [k(0)(x, y) - 0.5, k(1)(x, y) - 0.5];
    return [a + 0.5, b + 0.5, Math.sqrt(Math.max(0, 0.25 - a * a - b * b)) + 0.5, alpha];
  };
  fill(made, 'b', map, texel(smooth, 1));
  if (cover > 0)
    fill(
      made,
      'l',
      map,
      texel((n) => (x, y) => 1 - smooth(n + 1)(y, x), cover),
    );
  return made;
}

function fill(easel: Easel, layer: string, map: MapId, at: (x: number, y: number) => readonly number[]): void {
  const channels = storedChannels(map);
  const data = newTexels(TILE_TEXELS * channels);
  for (let n = 0; n < SIDE * SIDE; n++) {
    const [x, y] = [n % SIDE, Math.floor(n / SIDE)];
    data.set(
      at(x, y).map((v) => Math.round(v * 65535)),
      (y * 128 + x) * channels,
    );
  }
  easel.store.set(`${layer}/${map}`, tileIndex(0, 0), { data, hash: null });
}

/** What is seen, texel by texel. */
function seen({ sheet, store }: Easel, map: MapId): number[][] {
  const value = new Evaluator({ sheet, store }).tile(programOf(sheet, map), tileIndex(0, 0));
  return Array.from({ length: SIDE * SIDE }, (_, n) => {
    const i = Math.floor(n / SIDE) * 128 + (n % SIDE);
    return Array.from({ length: valueChannels(map) }, (_, k) =>
      value.data ? value.data[k * TILE_TEXELS + i] : value.uniform[k],
    );
  });
}

const unit = (v: number[]): number[] => {
  const d = v.map((x) => x * 2 - 1);
  const l = Math.hypot(...d) || 1;
  return d.map((x) => (x / l + 1) / 2);
};

/** The largest difference of any channel; of normals between their directions. */
function farthest(map: MapId, a: number[][], b: number[][]): number {
  const as = mapKind(map) === 'normal' ? unit : (v: number[]) => v;
  return Math.max(...a.map((v, n) => Math.max(...as(v).map((x, k) => Math.abs(x - as(b[n])[k])))));
}

const tool = (mode: Brush['mode'], map: MapId, over: object = {}): Brush =>
  brushFor({
    ...{ mode, size: 18, hardness: 0.4, opacity: 0.8, flow: 0.7 },
    writes: { [map]: { on: true, amount: 1, value: Array.from({ length: valueChannels(map) }, () => 0.5) } },
    ...over,
  });

/** Strokes that lay down exactly what is there. */
const IDENTITIES: [string, (map: MapId) => Brush][] = [
  // From the very place it is laid on.
  ['clone', (map) => tool('clone', map, { settings: { of: 'all', moves: 'fixed' }, source: { at: flatSample(12, 12) } })],
  ['blur of nothing', (map) => tool('sharpen', map, { settings: { of: 'all', reach: 2, strength: 0 } })],
  ['smear without strength', (map) => tool('smear', map, { settings: { of: 'all', strength: 0 } })],
  ['dodge without strength', (map) => tool('dodge', map, { settings: { of: 'all', strength: 0 } })],
];

/** A dab that is cloned from its own place: the source is where the pen goes down. */
const ALONG = [flatSample(12, 12), flatSample(12.001, 12)];

const blendsOf = (map: MapId): BlendId[] =>
  map === 'height'
    ? BLEND_GROUPS.height.flat()
    : mapKind(map) === 'normal'
      ? BLEND_GROUPS.normal.flat()
      : mapKind(map) === 'colour'
        ? BLEND_GROUPS.colour.flat()
        : BLEND_GROUPS.value.flat();

type Way = [opacity: number, mask: number | undefined, cover: number];
const ALL: Way[] = [1, 0.5].flatMap((o) => [undefined, 0.5].flatMap((m) => [0, 0.5, 1].map((c): Way => [o, m, c])));
const FEW: Way[] = [
  [1, undefined, 0.5],
  [0.5, 0.5, 0],
  [0.5, undefined, 0.5],
];
/** These maps blend exactly as roughness or base colour does, so fewer combinations are tried on them. */
const MOST_LIKE_OTHERS: readonly MapId[] = ['metallic', 'emissive', 'opacity', 'occlusion', 'own-oil'];

describe.each([...MAP_IDS, 'own-oil'] as MapId[])('on %s', (map) => {
  test.each(IDENTITIES)('%s changes nothing that is seen, in any blend, opacity and mask', (_name, brushOf) => {
    const bad: string[] = [];
    for (const blend of blendsOf(map))
      for (const [opacity, mask, cover] of MOST_LIKE_OTHERS.includes(map) ? FEW : ALL) {
        const easel = easelOf({ map, blend, opacity, mask, cover });
        const before = seen(easel, map);
        const stroke = strokeOn(easel, brushOf(map), ALONG);
        const off = farthest(map, before, seen(easel, map));
        if (off > 2 * STEP + 1e-7) bad.push(`${blend} ${opacity} ${mask} ${cover}: ${off / STEP} steps`);
        if (stroke.unreached) bad.push(`${blend} ${opacity} ${mask} ${cover}: told as out of reach`);
      }
    expect(bad).toEqual([]);
  });
});

describe('raising and sinking', () => {
  const by = (way: string, strength: number, of = 'all') =>
    tool('height', 'height', { hardness: 1, opacity: 1, flow: 1, settings: { way, strength, of } });
  const middle = (e: Easel) => seen(e, 'height')[12 * SIDE + 12][0];

  test.each(BLEND_GROUPS.height.flat().filter((b) => !['darken', 'lighten', 'multiply', 'screen', 'overlay'].includes(b)))(
    'in %s what is seen rises and sinks by the strength',
    (blend) => {
      for (const [way, sign] of [
        ['raise', 1],
        ['sink', -1],
      ] as const)
        for (const opacity of [1, 0.5])
          for (const mask of [undefined, 0.5])
            for (const cover of [0, 0.5, 1]) {
              const easel = easelOf({ map: 'height', blend, opacity, mask, cover });
              const before = middle(easel);
              strokeOn(easel, by(way, 0.05), [flatSample(12, 12)]);
              expect(Math.abs(middle(easel) - before - sign * 0.05)).toBeLessThan(3 * STEP);
            }
    },
  );

  test('half the stroke’s cover raises by half, on own paint as well', () => {
    for (const reads of ['all', 'layer'])
      for (const cover of [0, 0.5, 1]) {
        const easel = easelOf({ map: 'height', blend: 'offset', cover });
        const before = middle(easel);
        strokeOn(easel, { ...by('raise', 0.2, reads), opacity: 0.5 }, [flatSample(12, 12)]);
        expect(Math.abs(middle(easel) - before - 0.1)).toBeLessThan(3 * STEP);
      }
  });

  test('levelling a slope makes what is seen as high as the start', () => {
    const easel = easelOf({ map: 'height', blend: 'offset' });
    const start = middle(easel);
    strokeOn(easel, by('level', 1), [flatSample(12.5, 12.5)]);
    const after = seen(easel, 'height');
    for (const [x, y] of [
      [9, 12],
      [15, 11],
      [12, 15],
    ])
      expect(Math.abs(after[y * SIDE + x][0] - start)).toBeLessThan(3 * STEP);
  });
});

describe('cloning', () => {
  const cloned = (map: MapId) =>
    tool('clone', map, {
      ...{ size: 8, hardness: 1, opacity: 1, flow: 1 },
      settings: { of: 'all', moves: 'fixed' },
      source: { at: flatSample(18.5, 18.5) },
    });
  const place = 6 * SIDE + 6;
  const from = 18 * SIDE + 18;

  test('what was seen there is seen here: through groups of any kind, with layers above going on', () => {
    const groups: Partial<Layer>[][] = [
      [{ passThrough: true, opacity: 0.7 }],
      [{ opacity: 0.9 }],
      [{ passThrough: true }, { opacity: 0.8 }],
      [{ blend: 'normal' }, { passThrough: true, opacity: 0.6 }, { opacity: 0.95 }],
    ];
    for (const around of groups)
      for (const blend of ['normal', 'hard-light'] as const) {
        const easel = easelOf({ map: 'base-colour', blend, groups: around });
        const before = seen(easel, 'base-colour');
        strokeOn(easel, cloned('base-colour'), [flatSample(6.5, 6.5)]);
        const after = seen(easel, 'base-colour');
        for (let k = 0; k < 3; k++) expect(Math.abs(after[place][k] - before[from][k])).toBeLessThan(4 * STEP);
      }
  });

  test('a layer above that darkens all of it darkens what is cloned once', () => {
    const above = newCoatLayer('d', 'Dark', { 'base-colour': [0.5, 0.5, 0.5] }, ['base-colour']);
    const easel = easelOf({ map: 'base-colour', blend: 'normal', above: [{ ...above, blend: 'multiply' }] });
    const before = seen(easel, 'base-colour');
    strokeOn(easel, cloned('base-colour'), [flatSample(6.5, 6.5)]);
    for (let k = 0; k < 3; k++) expect(Math.abs(seen(easel, 'base-colour')[place][k] - before[from][k])).toBeLessThan(4 * STEP);
  });

  test('a layer that can only darken comes as near as it can, and says so', () => {
    const told: Record<string, Stroke['unreached']> = {};
    for (const [blend, dark] of [
      ['multiply', true],
      ['screen', false],
    ] as const) {
      const easel = easelOf({ map: 'roughness', blend });
      // Lighter there than here, or darker.
      fill(easel, 'b', 'roughness', (x) => [x > 12 === dark ? 0.8 : 0.3, 1]);
      told[blend] = strokeOn(easel, cloned('roughness'), [flatSample(6.5, 6.5)]).unreached;
      expect(Math.abs(seen(easel, 'roughness')[place][0] - (dark ? 0.3 : 0.8))).toBeLessThan(2 * STEP);
    }
    expect(told).toEqual({ multiply: { map: 'roughness', blend: 'multiply' }, screen: { map: 'roughness', blend: 'screen' } });
  });
});

describe('the source of a blend', () => {
  const random = seededRandom(11);

  test.each(BLEND_IDS.filter((b) => !(b in WHOLE)))(
    '%s: laid down it gives what was wanted, or the nearest there is',
    (blend) => {
      for (let n = 0; n < 800; n++) {
        const b = n % 7 === 0 ? n % 2 : random();
        const wanted = n % 11 === 0 ? n % 2 : random();
        const held = (v: number) => Math.min(1, Math.max(0, v));
        const off = Math.abs(held(blendValue(blend, b, unblendValue(blend, b, wanted))) - wanted);
        let least = Infinity;
        for (let k = 0; k <= 128; k++) least = Math.min(least, Math.abs(held(blendValue(blend, b, k / 128)) - wanted));
        expect(off).toBeLessThanOrEqual(least + 1e-6);
      }
    },
  );

  test('a normal that is to be seen is found on any base, also one that was mixed and is shorter', () => {
    const vector = (least: number) => {
      const [a, z] = [random() * Math.PI * 2, least + (1 - least) * random()];
      const r = Math.sqrt(1 - z * z);
      return [r * Math.cos(a), r * Math.sin(a), z].map((v) => (v + 1) / 2);
    };
    for (let n = 0; n < 2000; n++) {
      // Both lie within 60° of straight up, so that the detail between them points out of the surface and can be stored.
      const base = vector(0.5).map((v) => 0.5 + (v - 0.5) * (n % 2 ? 1 : 0.8));
      const wanted = vector(0.5);
      const detail = [0, 0, 0];
      const got = [0, 0, 0];
      unblendWhole('reorient', base, wanted, detail);
      WHOLE.reorient(base, detail, got);
      for (let k = 0; k < 3; k++) expect(got[k]).toBeCloseTo(wanted[k], 6);
    }
  });
});
