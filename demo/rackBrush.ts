/** Brushes of the rack as recorded strokes have them. */
import { hexToSrgb } from '../src/core/colour/transfer';
import { brushSchema, type Brush } from '../src/core/hand/brush';
import { SHIPPED } from '../src/core/hand/rack/shipped';
import type { MapId } from '../src/core/kinds/maps';

/** Of this name, so many millimetres wide; colours as hex, values 0 … 1. */
export function rackBrush(name: string, mm: number, writes: Partial<Record<MapId, number | string>>, over: object = {}): Brush {
  const shipped = SHIPPED.find((b) => b.name === name);
  if (!shipped) throw new Error(`No brush of the rack is called "${name}"`);
  return brushSchema.parse({
    ...shipped.brush,
    size: mm,
    sizeUnit: 'model',
    smoothing: 0,
    writes: Object.fromEntries(
      Object.entries(writes).map(([map, v]) => [map, { on: true, value: typeof v === 'string' ? hexToSrgb(v) : [v], amount: 1 }]),
    ),
    ...over,
  });
}
