/** Picking values from what is under the pointer. */
import { srgbToHex } from '@/core/colour/transfer';
import { COLOUR_MAP, mapKind, type MapId } from '@/core/kinds/maps';
import type { PickPlace } from '@/engine/protocol';
import { bench, currentLayer, currentSheet, mapLabel, say, setSource, setWell, setWrite, useBench } from '../store';
import { setLinePoint } from './lines';
import type { Gesture, Pane } from './pane';
import type { Marked } from './places';
import { usePointed } from './pointed';
import { panePoint, sampleOf } from './samples';
import { takeTool } from '../store/toolBrushes';

export function placeOf(pane: Pane, e: PointerEvent): PickPlace | null {
  const sample = sampleOf(e, pane);
  if (!sample) return null;
  return sample.pane === 'flat'
    ? { pane: 'flat', x: sample.x, y: sample.y }
    : { pane: 'model', origin: sample.origin, direction: sample.direction };
}

/**
 * Takes what is painted there into the hand: the colour into the well, a value into what the brush writes. With Shift, or as
 * picking is set, of all maps at once: the brush writes that material then.
 */
async function pickAt(pane: Pane, e: PointerEvent): Promise<void> {
  const place = placeOf(pane, e);
  if (!place) return;
  const { sheetId, view, picks } = useBench.getState();
  const layer = picks.of === 'layer' ? currentLayer() : undefined;
  const picked = await bench().ask({ ask: 'pick', sheetId, place, layerId: layer?.id ?? null });
  if (!picked) return say('There is nothing painted under the pointer: point at the model or the sheet.');
  const all = picks.all || e.shiftKey;
  const wanted = all ? currentSheet().maps : [view === 'lit' ? COLOUR_MAP : view];
  const taken = wanted.filter((map) => picked.values[map] && mapKind(map) !== 'normal');
  if (taken.length === 0) return layer ? say(`"${layer.name}" has no paint there.`) : undefined;
  for (const map of taken) take(map, picked.values[map]!, all);
  // What the material does not say is not written.
  if (all) for (const map of currentSheet().maps) if (!taken.includes(map)) setWrite(map, { on: false });
  const parts = currentSheet()
    .maps.filter((m) => picked.values[m] && mapKind(m) !== 'normal')
    .map((m) =>
      mapKind(m) === 'colour'
        ? srgbToHex(picked.values[m]!)
        : `${mapLabel(m).toLowerCase()} ${Math.round(picked.values[m]![0] * 100)} %`,
    );
  usePointed.setState({ picked: `${parts.join(' · ')} at ${picked.x}, ${picked.y}` });
}

function take(map: MapId, value: number[], writes: boolean): void {
  if (mapKind(map) === 'colour' && (map === COLOUR_MAP || !writes)) setWell(srgbToHex(value));
  if (mapKind(map) === 'value') setWrite(map, { value: value[0], ...(writes && { on: true }) });
  else if (writes) setWrite(map, { on: map === COLOUR_MAP });
}

export function pick(pane: Pane, start: PointerEvent): Gesture {
  const at = (e: PointerEvent) => void pickAt(pane, e).catch((error: unknown) => say((error as Error).message));
  at(start);
  return {
    move: at,
    // A held key picks in passing; the tool is put away once it has picked.
    up: () => {
      const { tool, brushTool } = useBench.getState();
      if (tool === 'pick') takeTool(brushTool);
    },
  };
}

export function pickSource(pane: Pane, e: PointerEvent): null {
  const place = marked(pane, e);
  if (place) setSource(place.at, place.point);
  else say('There is nothing to take from: point at the model or the sheet.');
  return null;
}

/** Lines run to there. */
export function pickLinePoint(pane: Pane, e: PointerEvent): null {
  const place = marked(pane, e);
  if (place) setLinePoint(place.at, place.point);
  else say('There is nothing for lines to run to: point at the model or the sheet.');
  return null;
}

function marked(pane: Pane, e: PointerEvent): Marked | null {
  const at = sampleOf(e, pane);
  if (!at) return null;
  const { x, y } = panePoint(e, pane.box);
  const hit = pane.name === 'model' ? pane.viewport.hitAt(x, y) : null;
  if (at.pane === 'model' && !hit) return null;
  return { at, point: hit && [...hit.point] };
}
