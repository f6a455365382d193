/** Handles in the view: which record they belong to, the points they have, and what moving one of them means. */
import { setLayerEdit } from '@/core/document/edits';
import { maskOrFence } from '@/core/document/fence';
import type { Sheet } from '@/core/document/schema';
import { planeFrame, type Placement } from '@/core/kinds/placement';
import { SOURCES, type Made } from '@/core/kinds/sources';
import { setRecipe } from '../mask/steps';
import type { HandleOwner } from '../top/openThings';
import { stepUi } from '../recipe/steps';
import { currentSheet } from '../store';
import { placed, type Handle, type Owned } from './owned';

export type { Handle } from './owned';

type Vec = Handle['at'];

/** The record that the handles belong to, as it is now; null if it is gone. */
export function owned(owner: HandleOwner, sheet: Sheet = currentSheet()): Owned | null {
  if (owner.kind === 'layer') {
    const layer = sheet.layers.find((l) => l.id === owner.layerId);
    if (layer?.kind !== 'coat') return null;
    return placed(layer.source, layer, ({ made = layer.source ?? undefined, placement }) =>
      setLayerEdit(sheet, layer, { source: made ?? null, placement }),
    );
  }
  const mask = maskOrFence(sheet, owner.maskId);
  const step = mask?.steps.find((s) => s.id === owner.stepId);
  if (!mask || !step) return null;
  const { source } = step;
  const put = (next: typeof source) =>
    setRecipe(mask, { steps: mask.steps.map((s) => (s.id === step.id ? { ...s, source: next } : s)) }, sheet);
  return stepUi(source.type).handles?.(source, put) ?? null;
}

const along = (a: readonly number[], d: readonly number[], k: number): Vec => [a[0] + d[0] * k, a[1] + d[1] * k, a[2] + d[2] * k];

export function handlesOf({ made, placement }: Pick<Owned, 'made' | 'placement'>, sheet: Sheet): Handle[] {
  const own = made && SOURCES[made.type].handles;
  if (own) return own.of(made, sheet);
  if (!placement || placement.by === 'uv') return [];
  const { right, up, out } = planeFrame(placement.axis);
  if (placement.by === 'decal') {
    // Its middle lies on the surface; its upper right corner turns and scales it.
    const [c, s] = [Math.cos((placement.turn * Math.PI) / 180), Math.sin((placement.turn * Math.PI) / 180)];
    const [x, y] = [placement.aspect / 2, -0.5];
    const corner = along(along(placement.centre, right, (x * c - y * s) * placement.size), up, -(x * s + y * c) * placement.size);
    return [
      { id: 'centre', label: 'Middle', pane: 'model', at: placement.centre },
      { id: 'size', label: 'Turn and size', pane: 'model', at: corner },
    ];
  }
  const handles: Handle[] = [{ id: 'centre', label: 'Middle', pane: 'model', at: placement.centre }];
  if (placement.by !== 'solid' && placement.by !== 'box')
    handles.push({ id: 'axis', label: 'Direction', pane: 'model', at: along(placement.centre, out, placement.size * 0.6) });
  const across = placement.by === 'solid' || placement.by === 'box' ? [1, 0, 0] : right;
  handles.push({ id: 'size', label: 'Size', pane: 'model', at: along(placement.centre, across, placement.size / 2) });
  return handles;
}

/** What the record is once a handle lies at another point (model units, or texels). */
export function moveHandle(
  now: Pick<Owned, 'made' | 'placement'>,
  sheet: Sheet,
  id: Handle['id'],
  to: Vec,
  /** Of the surface there, where it is known: decals lie on it. */
  normal: Vec | null = null,
): { made?: Made; placement?: Placement } {
  const { made, placement } = now;
  const own = made && SOURCES[made.type].handles;
  if (own) return { made: own.moved(made, id, to, sheet) };
  if (!placement) return {};
  if (id === 'centre') return { placement: { ...placement, centre: to, ...(normal && { axis: normal }) } };
  if (placement.by === 'decal') {
    const { right, up } = planeFrame(placement.axis);
    const d = to.map((v, k) => v - placement.centre[k]);
    const across = d.reduce((sum, v, k) => sum + v * right[k], 0);
    const down = -d.reduce((sum, v, k) => sum + v * up[k], 0);
    if (Math.hypot(across, down) < 1e-6) return {};
    const size = Math.max(1e-4, Math.hypot(across, down) / (Math.hypot(placement.aspect, 1) / 2));
    const turn = ((Math.atan2(down, across) - Math.atan2(-1, placement.aspect)) * 180) / Math.PI;
    return { placement: { ...placement, size, turn: ((((turn + 180) % 360) + 360) % 360) - 180 } };
  }
  const d = to.map((v, k) => v - placement.centre[k]) as Vec;
  const length = Math.hypot(...d);
  if (length < 1e-6) return {};
  if (id === 'axis') return { placement: { ...placement, axis: d.map((v) => v / length) as Vec } };
  return { placement: { ...placement, size: Math.max(1e-4, length * 2) } };
}
