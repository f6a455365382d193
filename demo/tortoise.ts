/** The courier tortoise, painted by hand: recorded strokes of the rack's brushes, through the engine that everyone paints with. */
import '../src/core/compute';
import type { PieceBundle } from '../src/core/piece/pieceFile';
import { hexToSrgb } from '../src/core/colour/transfer';
import { newPaintedLayer, newPiece, newSheet } from '../src/core/document/factory';
import { planeKey } from '../src/core/document/planes';
import { fenceSchema, type KeptFence, type Layer } from '../src/core/document/schema';
import { stencilSchema } from '../src/core/document/stencil';
import { replay, type Recording } from '../src/core/hand/replay';
import type { ModelSample } from '../src/core/hand/sample';
import { MAP_IDS, START_MAPS, type MapId } from '../src/core/kinds/maps';
import { readModel } from '../src/core/mesh/readModel';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { seededRandom } from '../src/core/testing/models';
import { TileStore } from '../src/core/tile/tiles';
import { EMBLEM_SIDE, emblemTiles } from './emblem';
import { bakeOnto, type TwinFile } from './bakes';
import { rackBrush } from './rackBrush';
import { twinFile } from './twins';
import { coat, levels, made, mask, masked, rule, step } from './rules';
import { placementSchema } from '../src/core/kinds/placement';
import { onMaterial } from '../src/core/piece/create';
import { unit, type Point } from './meshScript';
import {
  belly,
  eye,
  flap,
  head,
  leg,
  neck,
  PLATES,
  rim,
  satchel,
  shell,
  strap,
  STRAPS,
  tail,
  tortoiseModel,
  type Patch,
} from './tortoiseModel';

const SHEET = 'tortoise-skin';
const SPACE = placementSchema.parse({ by: 'solid' });

type Place = readonly [s: number, t: number, pressure?: number];
type Strokes = Recording['strokes'];

/** Where a pen stands that is held upright onto a surface. */
function sampleAt(patch: Patch, [s, t, pressure = 1]: Place, time: number, down: boolean): ModelSample {
  const h = 1e-3;
  const p = patch(s, t);
  const [a, b] = [patch(s + h, t), patch(s - h, t)];
  const [c, d] = [patch(s, Math.min(1, t + h)), patch(s, Math.max(0, t - h))];
  const [u, v] = [a.map((x, k) => x - b[k]), c.map((x, k) => x - d[k])];
  const n = unit([u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]);
  const turn = down ? -1 : 1;
  const pen = { pressure, tiltX: 0, tiltY: 0, time, pixelSpread: 0.001 };
  return {
    pane: 'model',
    origin: p.map((x, k) => x + turn * n[k] * 0.03) as Point,
    direction: n.map((x) => -turn * x) as Point,
    ...pen,
  };
}

const MIRROR = { axes: ['x' as const], radial: 1, around: 'y' as const, at: [0, 0, 0] as [number, number, number] };

/** Collects strokes: brushes of the rack at sizes in millimetres, mirrored unless said otherwise. */
class Hand {
  readonly strokes: Strokes = [];
  private random = seededRandom(17);
  constructor(private layer: string) {}

  chance(from = 0, to = 1): number {
    return from + this.random() * (to - from);
  }

  draw(
    name: string,
    mm: number,
    writes: Partial<Record<MapId, number | string>>,
    patch: Patch,
    places: readonly Place[],
    over: object = {},
    mirrored = true,
  ): void {
    const brush = rackBrush(name, mm, writes, { ...(mirrored && { mirror: MIRROR }), ...over });
    const samples = places.map((place, n) => sampleAt(patch, place, n * 12, this.down(patch)));
    this.strokes.push({ sheet: SHEET, layer: this.layer, brush, seed: this.strokes.length + 1, samples });
  }

  private turned = new Map<Patch, boolean>();
  /** Whether a patch's own normal points inward, seen from its middle. */
  private down(patch: Patch): boolean {
    let known = this.turned.get(patch);
    if (known === undefined) {
      const around = Array.from({ length: 8 }, (_, n) => patch(n / 8, 0.5));
      const middle = [0, 1, 2].map((k) => around.reduce((sum, p) => sum + p[k], 0) / 8);
      const s = sampleAt(patch, [0.13, 0.5], 0, false);
      const p = patch(0.13, 0.5);
      known = s.direction.reduce((sum, d, k) => sum + d * (p[k] - middle[k]), 0) > 0;
      this.turned.set(patch, known);
    }
    return known;
  }
}

/** Along a line in (s, t), pressed lightly at its ends if it tapers. */
const along = (from: Place, to: Place, count: number, taper = false, bend = 0): Place[] =>
  Array.from({ length: count }, (_, n): Place => {
    const k = n / (count - 1);
    return [
      from[0] + (to[0] - from[0]) * k,
      from[1] + (to[1] - from[1]) * k + bend * Math.sin(Math.PI * k),
      taper ? Math.sin(Math.PI * (0.08 + 0.84 * k)) : 1,
    ];
  });

// On the right half: the mirror paints the other.
const HALF = 0.5;

function paintShell(hand: Hand): void {
  // Value steps, plate by plate: dark at the furrows, warm and light in the middle.
  const tones = ['#3c2f20', '#55432a', '#6e5833', '#8a7040', '#a58a53'];
  PLATES.forEach(({ from, to, count }, row) => {
    for (let plate = 0; plate < Math.max(1, count / 2 + 1); plate++) {
      const [s0, s1] = [plate / count, (plate + 1) / count];
      const drift = hand.chance(-0.5, 0.5);
      for (let ring = 0; ring < 5; ring++) {
        const inset = 0.06 + ring * 0.095;
        const [a, b] = [s0 + (s1 - s0) * inset, s1 - (s1 - s0) * inset];
        const [low, high] = [from + (to - from) * inset, to - (to - from) * inset * (row === 2 ? 0.4 : 1)];
        const second = hexToSrgb(tones[Math.min(4, ring + 1)]);
        for (const [p, q] of [
          [
            [a, low],
            [b, low],
          ],
          [
            [b, low],
            [b, high],
          ],
          [
            [b, high],
            [a, high],
          ],
          [
            [a, high],
            [a, low],
          ],
        ] as const)
          hand.draw(
            'Gouache',
            34 - ring * 4,
            { 'base-colour': tones[ring], roughness: 0.62 - ring * 0.04 },
            shell,
            along(p, q, 9, false),
            {
              second,
              opacity: 0.8,
              vary: [
                { what: 'angle', by: 'direction', amount: 0 },
                { what: 'mix', by: 'dab', amount: 0.5 },
                { what: 'hue', by: 'stroke', amount: 14 + 6 * drift },
                { what: 'value', by: 'dab', amount: 0.06 },
              ],
            },
          );
      }
      // Growth lines, and light that catches on the upper side.
      for (let line = 0; line < 4; line++) {
        const inset = 0.12 + line * 0.1;
        const up = from + (to - from) * (1 - inset);
        hand.draw(
          'Pencil',
          5,
          { 'base-colour': '#2c2216', height: 0.47 },
          shell,
          along([s0 + (s1 - s0) * inset, up], [s1 - (s1 - s0) * inset, up], 12, true, -0.01),
          { opacity: 0.55 },
        );
      }
      const middle = (s0 + s1) / 2;
      const high = from + (to - from) * 0.68;
      hand.draw(
        'Soft round',
        46,
        { 'base-colour': '#c6ab6c' },
        shell,
        along([middle - (s1 - s0) * 0.16, high], [middle + (s1 - s0) * 0.16, high], 7, true),
        { opacity: 0.5 },
      );
      hand.draw(
        'Dry bristle',
        26,
        { 'base-colour': '#d9c387', roughness: 0.45 },
        shell,
        along([middle - (s1 - s0) * 0.2, high + 0.02], [middle + (s1 - s0) * 0.2, high + 0.02], 9, true),
        { opacity: 0.5 },
      );
    }
  });
  // Furrows.
  for (const { from, count } of PLATES)
    for (let plate = 0; plate <= count / 2 && count > 1; plate++)
      hand.draw(
        'Ink',
        8,
        { 'base-colour': '#1d150d', height: 0.44, roughness: 0.9 },
        shell,
        along([plate / count, from], [plate / count, PLATES.find((p) => p.from === from)!.to], 16, false, 0),
        { opacity: 0.85 },
      );
  for (const { to } of PLATES.slice(0, 2))
    hand.draw('Ink', 8, { 'base-colour': '#1d150d', height: 0.44, roughness: 0.9 }, shell, along([0, to], [HALF, to], 60), {
      opacity: 0.85,
    });
  // The rim: each marginal plate a touch of its own.
  for (let n = 0; n < 12; n++) {
    const s = (n + 0.5) / 22;
    hand.draw(
      'Gouache',
      34,
      { 'base-colour': n % 2 ? '#6b5330' : '#7d6439', roughness: 0.6 },
      rim,
      along([s - 0.018, 0.9], [s + 0.018, 0.95], 6),
      { opacity: 0.9 },
    );
    hand.draw('Soft round', 20, { 'base-colour': '#b89b5e' }, rim, along([s - 0.012, 0.84], [s + 0.012, 0.84], 5, true), {
      opacity: 0.55,
    });
    hand.draw('Ink', 5, { 'base-colour': '#20170e', height: 0.46 }, rim, along([n / 22, 0.62], [n / 22, 1.12], 10), {
      opacity: 0.8,
    });
  }
}

function paintHide(hand: Hand): void {
  const legs = [leg(1, 1), leg(1, -1)];
  for (const patch of legs) {
    for (let n = 0; n < 9; n++) {
      const s = hand.chance();
      hand.draw(
        'Sponge',
        60,
        { 'base-colour': n % 3 ? '#6f6a49' : '#58563d', roughness: 0.85 },
        patch,
        along([s, 0.1], [s + hand.chance(-0.1, 0.1), 0.95], 10),
        { opacity: 0.55 },
      );
    }
    // Rows of scales, darker below, lighter above.
    for (let row = 0; row < 7; row++) {
      const t = 0.06 + row * 0.13;
      hand.draw(
        'Scale',
        17 + row,
        { 'base-colour': row < 2 ? '#3f3d2b' : row < 5 ? '#8a835a' : '#77714d', height: 0.56 },
        patch,
        along([row % 2 ? 0.02 : 0, t], [1, t], 40),
        {
          opacity: 0.75,
          vary: [
            { what: 'angle', by: 'direction', amount: 0 },
            { what: 'value', by: 'dab', amount: 0.14 },
            { what: 'hue', by: 'dab', amount: 10 },
          ],
        },
      );
    }
    hand.draw('Soft round', 60, { 'base-colour': '#2e2b1e' }, patch, along([0, 0.02], [1, 0.02], 24), { opacity: 0.5 });
    hand.draw('Soft round', 44, { 'base-colour': '#2a2619' }, patch, along([0, 0.97], [1, 0.97], 24), { opacity: 0.65 });
    // Claws.
    for (let n = -2; n <= 2; n++)
      hand.draw(
        'Highlight',
        16,
        { 'base-colour': '#cdbf98', roughness: 0.35, height: 0.6 },
        patch,
        along([n * 0.07, 0.02], [n * 0.07, 0.07], 3),
      );
  }
  for (const [patch, size] of [
    [neck, 40],
    [tail, 24],
  ] as const)
    for (let n = 0; n < 7; n++) {
      const t = 0.06 + n * 0.14;
      hand.draw(
        'Scale',
        size / 2.2,
        { 'base-colour': n % 2 ? '#857e57' : '#6d6848', height: 0.55 },
        patch,
        along([0, t], [HALF, t], 20),
        { opacity: 0.7 },
      );
    }
  for (let n = 0; n < 10; n++) {
    const t = 0.1 + n * 0.085;
    hand.draw(
      'Gouache',
      24,
      { 'base-colour': n % 2 ? '#7c7650' : '#6a6545', roughness: 0.75 },
      head,
      along([0, t], [HALF, t], 18),
      { opacity: 0.75 },
    );
    hand.draw('Scale', 11, { 'base-colour': '#948c61', height: 0.55 }, head, along([0, t], [0.3, t], 14), { opacity: 0.55 });
  }
  // Light on the crown, shade under the jaw; the beak, the line of the mouth, the nostril.
  hand.draw('Soft round', 40, { 'base-colour': '#b3aa78' }, head, along([0.02, 0.35], [0.06, 0.75], 8, true), { opacity: 0.5 });
  hand.draw('Soft round', 50, { 'base-colour': '#3a3624' }, head, along([0.46, 0.2], [0.44, 0.85], 10, true), { opacity: 0.7 });
  hand.draw('Soft round', 26, { 'base-colour': '#4b4026', roughness: 0.4 }, head, along([0.1, 0.93], [0.4, 0.93], 8), {
    opacity: 0.8,
  });
  hand.draw('Ink', 3.4, { 'base-colour': '#17120b', height: 0.45 }, head, along([0.5, 0.9], [0.3, 0.58], 20, true, 0.02));
  hand.draw('Ink', 4, { 'base-colour': '#17120b', height: 0.44 }, head, along([0.16, 0.945], [0.17, 0.95], 3));
  hand.draw('Soft round', 30, { 'base-colour': '#2b2618' }, head, along([0.2, 0.6], [0.28, 0.64], 5, true), { opacity: 0.6 });
  // The eye.
  hand.draw('Hard round', 30, { 'base-colour': '#15100a', roughness: 0.08 }, eye(1), along([0, 0.5], [0.5, 0.5], 9));
  hand.draw('Hard round', 9, { 'base-colour': '#a8732a', roughness: 0.08 }, eye(1), along([0.2, 0.5], [0.22, 0.52], 3));
  hand.draw('Hard round', 3, { 'base-colour': '#f4efe0', roughness: 0.05 }, eye(1), along([0.2, 0.64], [0.2, 0.64], 2));
  for (let n = 0; n < 6; n++)
    hand.draw(
      'Gouache',
      60,
      { 'base-colour': n % 2 ? '#8d8152' : '#9b8f5f', roughness: 0.8 },
      belly,
      along([0, 0.15 + n * 0.15], [HALF, 0.15 + n * 0.15], 20),
      { opacity: 0.8 },
    );
}

function paintSatchels(hand: Hand): void {
  const bag = satchel(1);
  const lid = flap(1);
  for (let n = 0; n < 16; n++) {
    const t = 0.05 + n * 0.06;
    hand.draw('Gouache', 24, { 'base-colour': n % 3 ? '#6d3f22' : '#7d4a28', roughness: 0.6 }, bag, along([0, t], [1, t], 40), {
      opacity: 0.8,
      vary: [
        { what: 'angle', by: 'direction', amount: 0 },
        { what: 'value', by: 'dab', amount: 0.08 },
      ],
    });
    if (n % 2 === 0)
      hand.draw(
        'Gouache',
        22,
        { 'base-colour': n % 4 ? '#8a5530' : '#96602f', roughness: 0.55 },
        lid,
        along([0, t], [1, t], 40),
        { opacity: 0.8 },
      );
  }
  hand.draw('Soft round', 40, { 'base-colour': '#2c170c' }, bag, along([0, 0.12], [1, 0.12], 40), { opacity: 0.6 });
  hand.draw('Soft round', 26, { 'base-colour': '#25130a' }, bag, along([0, 0.66], [1, 0.66], 40), { opacity: 0.55 });
  hand.draw('Dry bristle', 16, { 'base-colour': '#c9905a', roughness: 0.4 }, lid, along([0, 0.3], [1, 0.3], 40), {
    opacity: 0.7,
  });
  hand.draw('Dry bristle', 14, { 'base-colour': '#b57b48', roughness: 0.42 }, bag, along([0.14, 0.36], [0.36, 0.36], 12, true), {
    opacity: 0.6,
  });
  // Stitches along the edges, by pattern strokes of whole stitches.
  const stitches = { mode: 'pattern', tip: { shape: 'picture', picture: 'made:stitch' }, vary: [], texture: undefined };
  hand.draw('Stitch', 5, { 'base-colour': '#e2cf9c', height: 0.58 }, lid, along([0.02, 0.36], [0.98, 0.36], 90), stitches);
  hand.draw('Stitch', 5, { 'base-colour': '#d8c48f', height: 0.58 }, bag, along([0.02, 0.24], [0.98, 0.24], 90), stitches);
  hand.draw('Scratch', 46, { 'base-colour': '#c29a6b', roughness: 0.8, height: 0.48 }, bag, along([0.16, 0.5], [0.34, 0.42], 8), {
    opacity: 0.75,
  });
  hand.draw('Scratch', 40, { 'base-colour': '#caa274', roughness: 0.8 }, lid, along([0.17, 0.46], [0.33, 0.52], 8), {
    opacity: 0.7,
  });
  for (const z of STRAPS) {
    const band = strap(z);
    for (const t of [0.12, 0.25, 0.38])
      hand.draw(
        'Gouache',
        16,
        { 'base-colour': t === 0.25 ? '#5a3319' : '#452612', roughness: 0.55 },
        band,
        along([0.02, t], [0.98, t], 70),
        { opacity: 0.9 },
        false,
      );
    hand.draw(
      'Dry bristle',
      9,
      { 'base-colour': '#a8713f', roughness: 0.4 },
      band,
      along([0.05, 0.25], [0.95, 0.25], 60, true),
      { opacity: 0.55 },
      false,
    );
    for (const t of [0.13, 0.37])
      hand.draw('Stitch', 4, { 'base-colour': '#dcc892', height: 0.6 }, band, along([0.03, t], [0.97, t], 110), stitches, false);
  }
}

/** The emblem on a satchel's flap, around its upper edge: a decal, brass where it is, a little raised, worn by a mask of clouds. */
function badge(surfaces: PieceSurfaces): Layer {
  const hit = surfaces.query.raycast([1, 0.268, -0.015], [-1, 0, 0])!;
  const placement = placementSchema.parse({ by: 'decal', centre: hit.point, axis: hit.normal, size: 0.08, follow: true });
  const layer = coat('tt-badge', 'Couriers’ badge', { roughness: 0.38, metallic: 0.85, height: 0.62 }, null, placement);
  layer.cells['base-colour'] = {
    ...layer.cells['base-colour']!,
    on: true,
    placed: { picture: 'tt-emblem', take: 'luminance', neutral: 0 },
  };
  return masked(layer, 'tt-rubbed');
}

/** Ground by rule, everything else by hand. */
export async function tortoiseBundle(size = 2048): Promise<PieceBundle & { twins: TwinFile[] }> {
  const modelGlb = await writeGlb(tortoiseModel());
  const model = await readModel(new Map([['tortoise.glb', modelGlb]]));
  const store = new TileStore();
  const sheet = newSheet(SHEET, 'Tortoise', size, size, { ...onMaterial(model, 0), heightSpan: 0.006 });
  const parts = (id: string, name: string, ...names: string[]) => mask(id, name, [step(`${id}-1`, { type: 'parts', names })]);
  sheet.masks = [
    parts('tt-is-hide', 'Hide', 'Hide'),
    parts('tt-is-leather', 'Leather', 'Satchels', 'Straps'),
    mask('tt-corners', 'In folds and under straps', [
      step('tt-corners-1', {
        type: 'bake',
        of: 'occlusion',
        low: 0.75,
        high: 0.2,
        contrast: 0.1,
        breakup: 0.3,
        grain: 0.03,
        seed: 3,
      }),
    ]),
    mask('tt-rubbed', 'Rubbed', [
      step('tt-rubbed-1', rule(made('clouds', { seed: 12, scale: 70, octaves: 4 }), SPACE), 'normal', [levels(0.2, 0.42)]),
    ]),
    mask('tt-worn', 'Mud from below', [
      step('tt-worn-1', rule(made('gradient', { from: [0, 0.16, 0], to: [0, 0.02, 0], space: 'model' } as never))),
      step('tt-worn-2', rule(made('clouds', { seed: 9, scale: 30, octaves: 5 }), SPACE), 'multiply'),
    ]),
  ];
  const layers = ['Shell', 'Hide', 'Satchels'].map((name) => {
    const layer: Layer = newPaintedLayer(`tt-${name.toLowerCase()}`, `${name}, by hand`);
    layer.cells.metallic = { on: false };
    return layer;
  });
  sheet.layers = [
    coat(
      'tt-ground',
      'Shell, ground',
      { 'base-colour': ['#3a2d1e', '#574529'], roughness: 0.7, metallic: 0 },
      made('clouds', { seed: 5, scale: 22, octaves: 5 }),
      SPACE,
    ),
    masked(
      coat(
        'tt-skin',
        'Hide, ground',
        { 'base-colour': ['#54513a', '#6c6748'], roughness: 0.85 },
        made('clouds', { seed: 6, scale: 34, octaves: 5 }),
        SPACE,
      ),
      'tt-is-hide',
    ),
    masked(
      coat(
        'tt-leather',
        'Leather, ground',
        { 'base-colour': ['#542f18', '#6d3f22'], roughness: 0.6 },
        made('fibres', { seed: 7 }),
        SPACE,
      ),
      'tt-is-leather',
    ),
    ...layers,
    masked(coat('tt-mud', 'Harbour mud', { 'base-colour': '#5d4f3b', roughness: 0.95 }, null, null, { opacity: 0.6 }), 'tt-worn'),
    newPaintedLayer('tt-hand', 'Hand'),
  ];
  const twin = { name: 'tortoise-dense.glb', bytes: await twinFile('tortoise') };
  sheet.maps = [...sheet.maps, 'normal'];
  const relief = coat('tt-relief', 'From the dense model', {});
  relief.cells.normal = { on: true, value: [0.5, 0.5, 1], placed: { picture: 'tt-bake-normal', take: 'luminance', neutral: 0 } };
  const grime = coat('tt-grime', 'Dirt in the folds', { 'base-colour': '#2b2117', roughness: 0.95 }, null, null, {
    opacity: 0.7,
    blend: 'multiply',
  });
  sheet.layers.splice(3, 0, relief);
  sheet.layers.splice(-2, 0, masked(grime, 'tt-corners'));
  const surfaces = new PieceSurfaces(model, 0);
  sheet.layers.splice(-1, 0, badge(surfaces));
  sheet.pictures = [{ id: 'tt-emblem', name: 'Couriers’ emblem', width: EMBLEM_SIDE, height: EMBLEM_SIDE, encoding: 'srgb' }];
  await bakeOnto(sheet, store, {
    ...{ modelGlb, twin, prefix: 'tt-bake' },
    wanted: [
      { type: 'occlusion', over: { samples: 32 } },
      { type: 'normal', twin: true },
    ],
  });
  for (const [tile, data] of emblemTiles()) store.set(planeKey('tt-emblem', 'picture'), tile, { data, hash: null });
  const onlyParts = (id: string, name: string, ...names: string[]): KeptFence => ({
    id,
    name,
    fence: fenceSchema.parse({ soften: 3, steps: [step(`${id}-1`, { type: 'parts', names }, 'normal')] }),
  });
  sheet.fences = [
    onlyParts('tt-f-shell', 'Only the shell', 'Shell'),
    onlyParts('tt-f-leather', 'Only leather', 'Satchels', 'Straps'),
  ];
  const piece = newPiece('demo-tortoise', 'Courier tortoise', 'model', [sheet], {
    model: { blob: '', uvSet: 0 },
    palette: ['#3c2f20', '#8a7040', '#c6ab6c', '#6f6a49', '#948c61', '#6d3f22', '#c9905a', '#e2cf9c', '#15100a'],
    stencils: [
      {
        id: 'tt-s-emblem',
        name: 'Emblem',
        ghost: 0.5,
        stencil: stencilSchema.parse({ of: 'tt-emblem', use: 'colour', size: 0.4 }),
      },
      {
        id: 'tt-s-scales',
        name: 'Scales',
        ghost: 0.35,
        stencil: stencilSchema.parse({ of: made('cells', { seed: 4 }), use: 'luminance', size: 0.4, tiled: true }),
      },
    ],
  });
  for (const [paint, layer] of [
    [paintShell, 'tt-shell'],
    [paintHide, 'tt-hide'],
    [paintSatchels, 'tt-satchels'],
  ] as const) {
    const hand = new Hand(layer);
    paint(hand);
    replay(piece, store, surfaces, { version: 1, strokes: hand.strokes });
  }
  for (const layer of sheet.layers)
    for (const map of MAP_IDS)
      if (START_MAPS.includes(map) && layer.id.startsWith('tt-') && layers.includes(layer))
        layer.cells[map] = { on: store.tilesOf(`${layer.id}/${map}`).size > 0 };
  return { piece, store, modelGlb, thumbnailPng: null, twins: [twin] };
}
