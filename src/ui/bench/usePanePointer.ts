'use client';
/** What the pointer does in a pane: paints, picks, turns, slides, zooms. */
import { useEffect, useRef, type RefObject } from 'react';
import { Vector3 } from 'three';
import type { Sample } from '@/core/hand/brush';
import { srgbToHex } from '@/core/colour/transfer';
import { LAYERS } from '@/core/kinds/layers';
import { mapKind } from '@/core/kinds/maps';
import { held } from './heldKeys';
import { ringAt } from './ring';
import type { PickPlace } from '@/engine/protocol';
import { paintTarget, pickInto } from './maskCommands';
import { panePoint, sampleOf, samplesOf, type PaneName } from './samples';
import {
  bench,
  brushInHand,
  currentLayer,
  currentMask,
  currentSheet,
  mapLabel,
  rememberColour,
  say,
  selectSheet,
  sendViewing,
  setWell,
  setWrite,
  useBench,
} from './store';
import { holder } from './viewportHolder';

type Drag = { kind: 'paint' } | { kind: 'orbit' | 'pan' | 'light'; x: number; y: number } | { kind: 'pick' };

/** Where the last stroke ended, for straight lines. Shared by the panes, since a line stays within one. */
let lastSample: { sheetId: string; sample: Sample } | null = null;

export function usePanePointer(
  pane: PaneName,
  element: RefObject<HTMLDivElement | null>,
  ring: RefObject<SVGGElement | null>,
): void {
  const drag = useRef<Drag | null>(null);
  useEffect(() => {
    const box = element.current;
    if (!box) return;
    const isCanvas = () => !useBench.getState().geometry;

    const showRing = (e: PointerEvent | null) => {
      const group = ring.current;
      const { viewport } = holder;
      if (!group || !viewport) return;
      if (!e || drag.current?.kind === 'orbit' || drag.current?.kind === 'pan') {
        group.style.display = 'none';
        return;
      }
      const { x, y } = panePoint(e, box);
      const { path, texels, sheetId } = ringAt(viewport, pane, x, y);
      group.style.display = '';
      group.style.opacity = pane === 'model' && texels === null ? '0.35' : '1';
      for (const p of group.querySelectorAll('path')) p.setAttribute('d', path);
      const rounded = texels === null ? null : texels < 10 ? Math.round(texels * 10) / 10 : Math.round(texels);
      if (hover.texels !== rounded || hover.sheetId !== sheetId) setHover(rounded, sheetId);
    };

    const placeOf = (e: PointerEvent): PickPlace | null => {
      const { viewport } = holder;
      const sample = viewport && sampleOf(e, pane, box, viewport, isCanvas());
      if (!sample) return null;
      return sample.pane === 'flat'
        ? { pane: 'flat', x: sample.x, y: sample.y }
        : { pane: 'model', origin: sample.origin, direction: sample.direction };
    };

    const pick = async (e: PointerEvent) => {
      const place = placeOf(e);
      if (!place) return;
      const { sheetId, view } = useBench.getState();
      const picked = await bench().ask({ ask: 'pick', sheetId, place });
      if (!picked) return say('There is nothing painted under the pointer: point at the model or the sheet.');
      const map = view === 'lit' ? 'base-colour' : view;
      const value = picked.values[map];
      if (!value) return;
      if (mapKind(map) === 'colour') setWell(srgbToHex(value));
      else if (mapKind(map) === 'value') setWrite(map, { value: value[0] });
      const parts = currentSheet()
        .maps.filter((m) => picked.values[m] && mapKind(m) !== 'normal')
        .map((m) =>
          mapKind(m) === 'colour'
            ? srgbToHex(picked.values[m]!)
            : `${mapLabel(m).toLowerCase()} ${Math.round(picked.values[m]![0] * 100)} %`,
        );
      setPicked(`${parts.join(' · ')} at ${picked.x}, ${picked.y}`);
    };

    const canPaint = (e: PointerEvent): boolean => {
      const { viewport } = holder;
      if (!viewport) return false;
      if (pane === 'model' && !isCanvas()) {
        const hit = viewport.hitAt(panePoint(e, box).x, panePoint(e, box).y);
        if (hit && hit.sheetId !== useBench.getState().sheetId) {
          selectSheet(hit.sheetId);
          say(`Now on the sheet "${currentSheet().name}", to which "${hit.part}" belongs.`);
          return false;
        }
      }
      const layer = currentLayer();
      const onMask = useBench.getState().target === 'mask';
      const why = !layer
        ? 'There is no layer to paint on: add a painted layer.'
        : onMask && !paintTarget(currentMask()!, useBench.getState().openStep)
          ? `"${currentMask()!.name}" has no painted step: add one to its steps to paint on it.`
          : layer.lock !== 'none'
            ? `"${layer.name}" is locked: unlock it to paint on it.`
            : !onMask && !LAYERS[layer.kind].byHand
              ? `"${layer.name}" is ${LAYERS[layer.kind].word}, which is not painted by hand: choose a painted layer, or paint its mask.`
              : !layer.visible
                ? `"${layer.name}" is hidden: show it to paint on it.`
                : null;
      if (why) say(why);
      return why === null;
    };

    const begin = (e: PointerEvent) => {
      const { viewport } = holder;
      const state = useBench.getState();
      if (!viewport || !canPaint(e)) return;
      const layer = currentLayer()!;
      const eraserEnd = e.pointerType === 'pen' && (e.buttons & 32) !== 0;
      const tool = eraserEnd || state.tool === 'pick' ? 'erase' : state.tool;
      const brush = brushInHand(tool);
      const onMask = state.target === 'mask' && currentMask();
      const targetId = onMask ? paintTarget(onMask, useBench.getState().openStep)!.id : layer.id;
      const maps = currentSheet().maps.filter((m) => brush.writes[m]?.on);
      if (!onMask && maps.length === 0) return say('The brush writes no map: switch one on under Writes.');
      const off = maps.filter((m) => !layer.cells[m]?.on);
      if (!onMask && off.length === maps.length)
        return say(
          `"${layer.name}" has ${off.map((m) => mapLabel(m).toLowerCase()).join(' and ')} switched off: switch the cell on in the strata.`,
        );
      const first = sampleOf(e, pane, box, viewport, isCanvas());
      if (tool === 'paint' && brush.writes['base-colour']?.on) rememberColour();
      const at = e.timeStamp;
      const { sheetId } = state;
      if (e.shiftKey && first && lastSample?.sheetId === sheetId && lastSample.sample.pane === first.pane) {
        const straight = { ...brush, smoothing: 0 };
        const from = { ...lastSample.sample, pressure: first.pressure };
        bench().send({ type: 'stroke-begin', sheetId, layerId: targetId, brush: straight, samples: [from], at });
        bench().send({ type: 'stroke-end', samples: [first], at });
        lastSample = { sheetId, sample: first };
        return;
      }
      drag.current = { kind: 'paint' };
      bench().send({ type: 'stroke-begin', sheetId, layerId: targetId, brush, samples: first ? [first] : [], at });
    };

    const down = (e: PointerEvent) => {
      if (drag.current) return;
      box.focus({ preventScroll: true });
      box.setPointerCapture(e.pointerId);
      const state = useBench.getState();
      const eraserEnd = e.pointerType === 'pen' && e.button === 5;
      if (e.button === 2 || (e.button === 0 && held.has(' ')))
        drag.current = { kind: pane === 'model' && !e.shiftKey ? 'orbit' : 'pan', x: e.clientX, y: e.clientY };
      else if (e.button === 1) drag.current = { kind: 'pan', x: e.clientX, y: e.clientY };
      else if (e.button === 0 && held.has('l')) drag.current = { kind: 'light', x: e.clientX, y: e.clientY };
      else if (e.button === 0 && state.picking) {
        const place = placeOf(e);
        if (place) void pickInto(place);
      } else if (e.button === 0 && (state.tool === 'pick' || e.altKey)) {
        drag.current = { kind: 'pick' };
        void pick(e);
      } else if (e.button === 0 || eraserEnd) begin(e);
      e.preventDefault();
    };

    const move = (e: PointerEvent) => {
      showRing(e);
      const { viewport } = holder;
      const now = drag.current;
      if (!now || !viewport) return;
      if (now.kind === 'paint') {
        const samples = samplesOf(e, pane, box, viewport, isCanvas());
        if (samples.length) bench().send({ type: 'stroke-add', samples, at: e.timeStamp });
        const last = samples.at(-1);
        if (last) lastSample = { sheetId: useBench.getState().sheetId, sample: last };
      } else if (now.kind === 'pick') void pick(e);
      else {
        const dx = e.clientX - now.x;
        const dy = e.clientY - now.y;
        drag.current = { ...now, x: e.clientX, y: e.clientY };
        const height = box.clientHeight;
        if (now.kind === 'light') useBench.setState((s) => ({ light: (((s.light + dx * 0.5) % 360) + 360) % 360 }));
        else if (pane === 'flat') viewport.flatCamera.pan(dx, dy);
        else if (now.kind === 'orbit') viewport.modelCamera.orbit(dx, dy, height);
        else viewport.modelCamera.pan(dx, dy, height);
        viewport.invalidate();
      }
    };

    const up = (e: PointerEvent) => {
      const now = drag.current;
      drag.current = null;
      if (now?.kind === 'paint') bench().penUp(e.timeStamp);
      if (now?.kind === 'pan') sendViewing();
      if (now?.kind === 'paint') {
        const { viewport } = holder;
        const last = viewport && sampleOf(e, pane, box, viewport, isCanvas());
        // A lifted pen reports no pressure; the stroke ends where and as the last move was.
        const samples = last && e.pointerType !== 'pen' ? [last] : [];
        bench().send({ type: 'stroke-end', samples, at: e.timeStamp });
        if (last) lastSample = { sheetId: useBench.getState().sheetId, sample: { ...last, pressure: last.pressure || 1 } };
      }
      if (now?.kind === 'pick' && useBench.getState().tool === 'pick') useBench.setState({ tool: 'paint' });
      showRing(e);
    };

    const cancel = () => {
      if (drag.current?.kind === 'paint') bench().send({ type: 'stroke-cancel' });
      drag.current = null;
    };
    const escape = (e: KeyboardEvent) => e.key === 'Escape' && cancel();
    const leave = () => !drag.current && showRing(null);

    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const { viewport } = holder;
      if (!viewport) return;
      const factor = Math.exp(Math.sign(e.deltaY) * Math.min(60, Math.abs(e.deltaY)) * 0.0028);
      const { x, y } = panePoint(e, box);
      if (pane === 'flat') viewport.flatCamera.zoomAt(factor, x, y);
      else {
        const hit = viewport.hitAt(x, y);
        viewport.modelCamera.zoom(factor, hit ? new Vector3(...hit.point) : null);
      }
      viewport.invalidate();
      sendViewing();
    };
    const noMenu = (e: Event) => e.preventDefault();

    box.addEventListener('pointerdown', down);
    box.addEventListener('pointermove', move);
    box.addEventListener('pointerup', up);
    box.addEventListener('pointercancel', cancel);
    box.addEventListener('pointerleave', leave);
    box.addEventListener('wheel', wheel, { passive: false });
    box.addEventListener('contextmenu', noMenu);
    window.addEventListener('keydown', escape);
    return () => {
      box.removeEventListener('pointerdown', down);
      box.removeEventListener('pointermove', move);
      box.removeEventListener('pointerup', up);
      box.removeEventListener('pointercancel', cancel);
      box.removeEventListener('pointerleave', leave);
      box.removeEventListener('wheel', wheel);
      box.removeEventListener('contextmenu', noMenu);
      window.removeEventListener('keydown', escape);
    };
  }, [pane, element, ring]);
}

/** What is under the pointer; read by the hand panel. Kept out of the main store: it changes all the time. */
export const hover = { texels: null as number | null, sheetId: null as string | null, listeners: new Set<() => void>() };
function setHover(texels: number | null, sheetId: string | null): void {
  hover.texels = texels;
  hover.sheetId = sheetId;
  hover.listeners.forEach((l) => l());
}

export const pickedLine = { text: '', listeners: new Set<() => void>() };
function setPicked(text: string): void {
  pickedLine.text = text;
  pickedLine.listeners.forEach((l) => l());
}
