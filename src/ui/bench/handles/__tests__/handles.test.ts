import { applyEdit } from '@/core/document/edits';
import { newCoatLayer, newMask, newPiece, newSheet } from '@/core/document/factory';
import { stepSchema, type Sheet } from '@/core/document/schema';
import { PLACEMENTS, placementFor, placementSchema } from '@/core/kinds/placement';
import { SOURCES } from '@/core/kinds/sources';
import type { Geometry } from '@/engine/protocol';
import { handlesOf, moveHandle, owned } from '..';
import { useBench } from '../../store';

type Vec = [number, number, number];
const sheet = newSheet('s', 'Sheet', 512, 256);
const surface = { min: [-1, 0, -2], max: [3, 4, 2] };
const gradient = SOURCES.gradient.start;
const onSquare = SOURCES.gradient.onSquare!;
if (gradient.type !== 'gradient') throw new Error('not a gradient');

describe('handles in the view', () => {
  test('a gradient over the sheet has its ends in texels, one in space in model units', () => {
    expect(handlesOf({ made: gradient, placement: null }, sheet).map((h) => [h.id, h.pane, h.at])).toEqual([
      ['from', 'flat', [256, 256, 0]],
      ['to', 'flat', [256, 0, 0]],
    ]);
    const inSpace = { ...gradient, space: 'model' as const, from: [1, 2, 3] as Vec, to: [1, 5, 3] as Vec };
    expect(handlesOf({ made: inSpace, placement: null }, sheet).map((h) => [h.pane, h.at])).toEqual([
      ['model', [1, 2, 3]],
      ['model', [1, 5, 3]],
    ]);
  });

  test('what lies over the sheet by its UVs has none', () => {
    expect(handlesOf({ made: null, placement: placementSchema.parse({ by: 'uv' }) }, sheet)).toEqual([]);
    expect(handlesOf({ made: null, placement: null }, sheet)).toEqual([]);
  });

  test.each(PLACEMENTS.filter((by) => by !== 'uv'))('%s: a handle that was moved lies where it was moved to', (by) => {
    const placement = placementFor(by, surface, { turn: 20 });
    const handles = handlesOf({ made: null, placement }, sheet);
    expect(handles.map((h) => h.id)).toEqual(
      ['solid', 'box', 'decal'].includes(by) ? ['centre', 'size'] : ['centre', 'axis', 'size'],
    );
    for (const handle of handles) {
      // The size keeps its direction, the axis its length: each is pulled along its own line.
      const to = handle.at.map((v, k) =>
        handle.id === 'centre'
          ? v + 0.25 * (k + 1)
          : placement.centre[k] + (v - placement.centre[k]) * (handle.id === 'size' ? 1.7 : 1),
      ) as Vec;
      const next = moveHandle({ made: null, placement }, sheet, handle.id, to);
      const moved = handlesOf({ made: null, placement: next.placement! }, sheet).find((h) => h.id === handle.id)!;
      moved.at.forEach((v, k) => expect(v).toBeCloseTo(to[k], 9));
      expect(placementSchema.safeParse(next.placement).success).toBe(true);
    }
  });

  test('a decal turns with the surface under its middle; its corner turns and sizes it and stays where it was put', () => {
    const placement = placementFor('decal', surface, { aspect: 2, size: 1, centre: [0, 0, 0] });
    const record = { made: null, placement };
    expect(moveHandle(record, sheet, 'centre', [1, 1, 0], [0, 1, 0]).placement).toMatchObject({
      centre: [1, 1, 0],
      axis: [0, 1, 0],
    });
    // Seen along Z its upper right corner is at half its width and height; pulled to twice as far, and a quarter round.
    const corner = () => handlesOf(record, sheet).find((h) => h.id === 'size')!.at;
    corner().forEach((v, k) => expect(v).toBeCloseTo([1, 0.5, 0][k], 9));
    expect(moveHandle(record, sheet, 'size', [2, 1, 0]).placement).toMatchObject({ turn: 0 });
    expect(moveHandle(record, sheet, 'size', [2, 1, 0]).placement!.size).toBeCloseTo(2, 9);
    const turned = moveHandle(record, sheet, 'size', [-1, 2, 0]).placement!;
    expect(Math.abs(turned.turn)).toBeCloseTo(90, 9);
    handlesOf({ made: null, placement: turned }, sheet)
      .find((h) => h.id === 'size')!
      .at.forEach((v, k) => expect(v).toBeCloseTo([-1, 2, 0][k], 9));
    expect(moveHandle(record, sheet, 'size', [0, 0, 0])).toEqual({});
  });

  test('a direction or a size of nothing changes nothing, and the direction is a unit vector', () => {
    const placement = placementFor('plane', surface);
    for (const id of ['axis', 'size'] as const)
      expect(moveHandle({ made: null, placement }, sheet, id, placement.centre)).toEqual({});
    const to = placement.centre.map((v, k) => v + [3, 4, 0][k]) as Vec;
    expect(moveHandle({ made: null, placement }, sheet, 'axis', to).placement!.axis).toEqual([0.6, 0.8, 0]);
    expect(moveHandle({ made: null, placement }, sheet, 'size', to).placement!.size).toBe(10);
  });

  test('a coat and a step of a recipe own their handles; what moves them is one edit of that record', () => {
    const placement = placementFor('box', surface);
    const coat = { ...newCoatLayer('c', 'C', {}, ['base-colour']), source: SOURCES.bricks.start, placement };
    const step = stepSchema.parse({ id: 't', source: { type: 'made', made: SOURCES.bricks.start, placement } });
    const other = stepSchema.parse({ id: 'u', source: { type: 'constant', value: 0.5 } });
    const full: Sheet = { ...sheet, layers: [coat], masks: [newMask('m', 'M', 0, { steps: [other, step] })] };
    const piece = newPiece('p', 'P', 'canvas', [full]);
    const moved = { ...placement, size: 9 };
    const byLayer = owned({ kind: 'layer', layerId: 'c' }, full)!;
    expect(byLayer.placement).toBe(placement);
    expect(applyEdit(piece, byLayer.change({ placement: moved })).sheets[0].layers[0].placement).toEqual(moved);
    const byStep = owned({ kind: 'step', maskId: 'm', stepId: 't' }, full)!;
    const next = applyEdit(piece, byStep.change({ placement: moved })).sheets[0];
    expect(next.masks[0].steps[1].source).toMatchObject({ placement: { size: 9 } });
    expect(next.masks[0].steps[0]).toEqual(other);
    expect(next.layers[0].placement).toEqual(placement);
    for (const gone of [
      { kind: 'layer', layerId: 'x' },
      { kind: 'step', maskId: 'm', stepId: 'u' },
      { kind: 'step', maskId: 'x', stepId: 't' },
    ] as const)
      expect(owned(gone, full)).toBeNull();
  });

  test('facing has a handle for its direction; a distance has its place, how it lies and its reach', () => {
    const positions = Float32Array.from([-1, 0, -2, 3, 4, 2, 0, 1, 0]);
    useBench.setState({ geometry: { positions } as unknown as Geometry });
    const facing = stepSchema.parse({ id: 'f', source: { type: 'facing' } });
    const distance = stepSchema.parse({ id: 'd', source: { type: 'distance', shape: 'plane', at: [1, 1, 1], reach: 0.5 } });
    const full: Sheet = { ...sheet, masks: [newMask('m', 'M', 0, { steps: [facing, distance] })] };
    const piece = newPiece('p', 'P', 'canvas', [full]);
    const pulled = (stepId: string, id: 'centre' | 'axis' | 'size', to: Vec, normal: Vec | null = null) => {
      const it = owned({ kind: 'step', maskId: 'm', stepId }, full)!;
      const next = applyEdit(piece, it.change(moveHandle(it, full, id, to, normal))).sheets[0];
      return { it, source: next.masks[0].steps.find((s) => s.id === stepId)!.source };
    };
    // The model's middle is 1, 2, 0: its direction leads from there to where the handle is dropped.
    const turned = pulled('f', 'axis', [4, 6, 0]);
    expect(turned.it.only).toEqual(['axis']);
    expect(turned.source).toMatchObject({ direction: [0.6, 0.8, 0], angle: 70 });
    const moved = pulled('d', 'centre', [2, 2, 2], [1, 0, 0]);
    expect(moved.it).toMatchObject({ only: ['centre', 'axis', 'size'], sticks: true });
    expect(moved.source).toMatchObject({ at: [2, 2, 2], normal: [1, 0, 0], reach: 0.5 });
    // The model is 4 long: pulled 3 away is three quarters of it.
    expect(pulled('d', 'size', [4, 1, 1]).source).toMatchObject({ at: [1, 1, 1], reach: 0.75 });
    useBench.setState({ geometry: null });
  });

  test('a gradient in space is shown on a square from its foot up, or out from the middle; one over the sheet as it is', () => {
    const inSpace = { ...gradient, space: 'model' as const, from: [0, 0, 0] as Vec, to: [0, 2, 0] as Vec };
    expect(onSquare(inSpace)).toMatchObject({ space: 'sheet', from: [0.5, 1, 0], to: [0.5, 0, 0], stops: gradient.stops });
    expect(onSquare({ ...inSpace, shape: 'radial' })).toMatchObject({ space: 'sheet', from: [0.5, 0.5, 0] });
    expect(onSquare(gradient)).toBe(gradient);
  });
});
