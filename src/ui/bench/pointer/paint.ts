/** A stroke of the tool in hand, from where the pointer goes down. */
import { COLOUR_MAP } from '@/core/kinds/maps';
import type { Sample } from '@/core/hand/sample';
import { LAYERS } from '@/core/kinds/layers';
import { TOOLS } from '@/core/hand/tools';
import { hintDone } from '../top/hints';
import { paintTarget } from '../mask/steps';
import {
  alignSource,
  bench,
  brushInHand,
  currentLayer,
  currentMask,
  currentSheet,
  mapLabel,
  rememberColour,
  say,
  selectSheet,
  takesFromElsewhere,
  useBench,
} from '../store';
import type { Gesture, Pane } from './pane';
import { pixelOf } from './places';
import { panePoint, sampleOf, samplesOf } from './samples';
import { atSteps, steadied } from './steady';

/** Where the last stroke ended, for straight lines. Shared by the panes, since a line stays within one. */
interface Last {
  sheetId: string;
  sample: Sample;
  /** On the model. */
  point: number[] | null;
}
let lastSample: Last | null = null;

/** Milliseconds without a sample after which a pen counts as resting. */
export const REST_MS = 30;

/** Button of a pen's eraser end, as pressed and among those that are held. */
const ERASER = 5;
const ERASER_HELD = 32;
export const isEraser = (e: PointerEvent): boolean =>
  e.pointerType === 'pen' && (e.button === ERASER || (e.buttons & ERASER_HELD) !== 0);

/** The pointer is on a part of another sheet: that one is taken up first. */
function goesToOtherSheet({ name, viewport, box, isCanvas }: Pane, e: PointerEvent): boolean {
  if (name !== 'model' || isCanvas) return false;
  const { x, y } = panePoint(e, box);
  const hit = viewport.hitAt(x, y);
  if (!hit || hit.sheetId === useBench.getState().sheetId) return false;
  selectSheet(hit.sheetId);
  say(`Now on the sheet "${currentSheet().name}", to which "${hit.part}" belongs.`);
  return true;
}

/** Why nothing can be painted now, in a sentence; else what is painted on. */
function target():
  { why: string } | { why: null; id: string; cells: ReturnType<typeof currentSheet>['layers'][0]['cells'] | null } {
  const layer = currentLayer();
  if (!layer) return { why: 'There is no layer to paint on: add a painted layer.' };
  const { target, openStep } = useBench.getState();
  const mask = target === 'mask' ? currentMask() : undefined;
  const step = mask && paintTarget(mask, openStep);
  if (mask && !step) return { why: `"${mask.name}" has no painted step: add one to its steps to paint on it.` };
  if (layer.lock !== 'none') return { why: `"${layer.name}" is locked: unlock it to paint on it.` };
  if (!mask && !LAYERS[layer.kind].byHand)
    return {
      why: `"${layer.name}" is ${LAYERS[layer.kind].word}, which is not painted by hand: choose a painted layer, or paint its mask.`,
    };
  if (!layer.visible) return { why: `"${layer.name}" is hidden: show it to paint on it.` };
  return step ? { why: null, id: step.id, cells: null } : { why: null, id: layer.id, cells: layer.cells };
}

/** The id of what is painted on; null: nothing can be painted now, which was said. `e`: where it begins, if that chooses the sheet. */
export function readyToPaint(pane: Pane, e: PointerEvent | null): string | null {
  if (e && goesToOtherSheet(pane, e)) return null;
  const on = target();
  if (on.why !== null) return (say(on.why), null);
  const state = useBench.getState();
  const { writes } = brushInHand((e && isEraser(e)) || state.tool === 'pick' ? 'erase' : state.tool);
  if (on.cells) {
    const maps = currentSheet().maps.filter((m) => writes[m]?.on);
    const off = maps.filter((m) => !on.cells![m]?.on);
    if (maps.length === 0) return (say('The brush writes no map: switch one on under Writes.'), null);
    if (off.length === maps.length) {
      const names = off.map((m) => mapLabel(m).toLowerCase()).join(' and ');
      return (say(`"${currentLayer()!.name}" has ${names} switched off: switch the cell on in the strata.`), null);
    }
  }
  return on.id;
}

/** null: nothing can be painted there, which was said. A straight line is done at once. */
export function paint(pane: Pane, e: PointerEvent): Gesture | null {
  const layerId = readyToPaint(pane, e);
  if (layerId === null) return null;
  const state = useBench.getState();
  const { sheetId } = state;
  const tool = isEraser(e) || state.tool === 'pick' ? 'erase' : state.tool;
  const brush = brushInHand(tool);
  const first = sampleOf(e, pane);
  if (takesFromElsewhere({ ...useBench.getState(), tool }) && !brush.source)
    return (say(`${TOOLS[tool].label} needs a source: hold Alt and click where it is to take from.`), null);
  if (first && brush.source) alignSource(first);
  if (TOOLS[tool].usesWell && brush.writes[COLOUR_MAP]?.on) rememberColour();
  const at = e.timeStamp;
  if (e.shiftKey && first && lastSample?.sheetId === sheetId && lastSample.sample.pane === first.pane) {
    const from = { ...lastSample.sample, pressure: first.pressure };
    const to = (e.ctrlKey && endAtSteps(pane, e, lastSample)) || first;
    const straight = { ...brush, smoothing: 0, string: 0 };
    bench().send({ type: 'stroke-begin', sheetId, layerId, brush: straight, samples: [from], at });
    bench().send({ type: 'stroke-end', samples: [to], at });
    lastSample = { sheetId, sample: to, point: pointAt(pane, e) };
    return null;
  }
  bench().send({ type: 'stroke-begin', sheetId, layerId, brush, samples: first ? [first] : [], at });
  return stroke(pane, e, brush.rate > 0);
}

/** Where a line from the last stroke's end comes to at a whole step of 15°. */
function endAtSteps(pane: Pane, e: PointerEvent, { sample, point }: Last): Sample | null {
  const from = pixelOf(pane, { at: sample, point });
  return from && sampleOf(e, pane, atSteps(from, panePoint(e, pane.box)));
}

function pointAt({ name, viewport, box }: Pane, e: PointerEvent): number[] | null {
  if (name === 'flat') return null;
  const { x, y } = panePoint(e, box);
  const hit = viewport.hitAt(x, y);
  return hit && [...hit.point];
}

function stroke(pane: Pane, start: PointerEvent, byTime: boolean): Gesture {
  pane.viewport.paintedIn = pane.name;
  const ended = () => (pane.viewport.paintedIn = null);
  const sheetId = () => useBench.getState().sheetId;
  const onto = steadied(pane, start);
  let rested: Sample | null = null;
  return {
    // A pen that rests sends nothing: brushes that lay by time are told that it is still there.
    ...(byTime && {
      rest: () => {
        const at = performance.now();
        if (!rested || at - rested.time < REST_MS) return;
        rested = { ...rested, time: at };
        bench().send({ type: 'stroke-add', samples: [rested], at });
      },
    }),
    move: (e) => {
      const samples = samplesOf(e, pane, onto);
      rested = samples.at(-1) ?? rested;
      if (samples.length) bench().send({ type: 'stroke-add', samples, at: e.timeStamp });
      const last = samples.at(-1);
      if (last) lastSample = { sheetId: sheetId(), sample: last, point: null };
    },
    up: (e) => {
      ended();
      bench().penUp(e.timeStamp);
      hintDone('paint');
      const last = sampleOf(e, pane, onto(e));
      // A lifted pen reports no pressure; the stroke ends where and as the last move was.
      const samples = last && e.pointerType !== 'pen' ? [last] : [];
      bench().send({ type: 'stroke-end', samples, at: e.timeStamp });
      if (last) lastSample = { sheetId: sheetId(), sample: { ...last, pressure: last.pressure || 1 }, point: pointAt(pane, e) };
    },
    cancel: () => {
      ended();
      bench().send({ type: 'stroke-cancel' });
    },
    lost: () => {
      ended();
      bench().send({ type: 'stroke-end', samples: [], at: performance.now() });
    },
  };
}
