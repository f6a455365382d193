/** What is in hand: brush, tools, wells. It is the artist’s, not the piece’s, and stays in the browser. */
import { brushSchema, type Brush } from '@/core/hand/brush';
import { isMirrored, mirrorSchema, NO_MIRROR, type Mirror } from '@/core/hand/mirror';
import type { Sample, Source } from '@/core/hand/sample';
import { variesColour } from '@/core/hand/vary';
import { TOOLS, type ToolType } from '@/core/hand/tools';
import { TONES_EACH_WAY, TONE_START, toneSteps } from '@/core/colour/tones';
import { hexToSrgb, srgbToHex } from '@/core/colour/transfer';
import { mapKind, type MapId } from '@/core/kinds/maps';
import { get, say, set, writeOf, type BenchState, type MapWrite, type ToolSettings } from './state';
import { fenceAtWork } from '@/core/document/fence';
import type { KeptStencil, Stencil } from '@/core/document/stencil';
import type { View } from '@/core/hand/view';
import { coversSeen } from '@/core/hand/walk';
import { AREAS, areaStart, areaWay } from '@/core/hand/areas';
import { knownLaying, STROKES } from '../areas/laying';
import { holder } from '../panes/viewportHolder';
import { currentSheet } from './current';
import { readToolBrushes, withTool } from './toolBrushes';

const HAND_KEY = 'brindle-hand';
export const HAND_FIELDS = [
  'squint',
  'form',
  'guides',
  'brush',
  'brushId',
  'brushTool',
  'toolBrushes',
  'handFolded',
  'pen',
  'mirror',
  'mirrored',
  'mirrorShown',
  'toolSettings',
  'laying',
  'areas',
  'writes',
  'wells',
  'recent',
  'tones',
  'picks',
  'pins',
  'wireOpacity',
  'flatRepeats',
  'light',
  'collapsed',
  'hiddenColumns',
] as const;

export function loadHand(): Partial<BenchState> {
  try {
    const saved = JSON.parse(localStorage.getItem(HAND_KEY) ?? '{}') as Partial<BenchState>;
    const mirror = mirrorSchema.safeParse(saved.mirror);
    return {
      ...saved,
      areas: { ...areaStart(), ...saved.areas },
      tones: { ...TONE_START, ...saved.tones },
      laying: knownLaying(saved.laying),
      ...brushesOf(saved),
      ...(mirror.success ? { mirror: mirror.data } : { mirror: get().mirror, mirrored: false }),
    };
  } catch {
    return {};
  }
}

/** The bench begins with paint in hand, and so with paint's brush. */
function brushesOf(saved: Partial<BenchState>): Partial<BenchState> {
  const brush = brushSchema.parse({ ...saved.brush, writes: {} });
  const brushTool = saved.brushTool && Object.hasOwn(TOOLS, saved.brushTool) ? saved.brushTool : 'paint';
  const hand = { tool: brushTool, brush, brushId: saved.brushId ?? null, brushTool };
  return { ...hand, ...withTool({ ...hand, toolBrushes: readToolBrushes(saved.toolBrushes) }, 'paint') };
}

export function saveHand(): void {
  const state = get();
  try {
    // Where a mirror stands belongs to the piece at hand.
    const { at: _at, ...mirror } = state.mirror;
    const kept = { ...Object.fromEntries(HAND_FIELDS.map((f) => [f, state[f]])), mirror };
    localStorage.setItem(HAND_KEY, JSON.stringify(kept));
  } catch {
    // A full or forbidden local store costs only the memory of the brush.
  }
}

/** On a mask the swap is between hiding and showing. */
export function swapWells(): void {
  set((s) => (s.target === 'mask' ? { maskValue: 1 - s.maskValue } : { wells: [s.wells[1], s.wells[0]] }));
}

export function setWell(colour: string): void {
  set((s) => ({ wells: [colour, s.wells[1]] }));
}

const RECENT = 12;
/** Called when a stroke begins: colours that were really used. */
export function rememberColour(): void {
  set((s) => ({ recent: [s.wells[0], ...s.recent.filter((c) => c !== s.wells[0])].slice(0, RECENT) }));
}

/** The mirror as strokes have it now; undefined: none. */
export function mirrorInHand({ mirrored, mirror }: Pick<BenchState, 'mirrored' | 'mirror'> = get()): Mirror | undefined {
  return mirrored && isMirrored(mirror) ? mirror : undefined;
}

/** Where its planes and its axis meet: metres in the model's space, or texels. */
export function mirrorMiddle(state: BenchState = get()): readonly number[] {
  if (state.mirror.at) return state.mirror.at;
  if (state.geometry) return holder.viewport?.middle ?? [0, 0, 0];
  const { width, height } = currentSheet(state);
  return [width / 2, height / 2, 0];
}

/** What a mirror stands in: the model's bounds, or the canvas's. */
export function mirrorExtent(state: BenchState = get()): { min: readonly number[]; max: readonly number[] } {
  if (state.geometry && holder.viewport) return holder.viewport.bounds;
  const { width, height } = currentSheet(state);
  return { min: [0, 0, 0], max: [width, height, 0] };
}

/** Setting it up puts it on. */
export function setMirror(change: Partial<Mirror>): void {
  const next = mirrorSchema.safeParse({ ...get().mirror, ...change });
  if (!next.success) return say(`A mirror makes ${next.error.issues[0].message}: choose fewer turns or planes.`);
  set({ mirror: next.data, mirrored: isMirrored(next.data) });
}

export function toggleMirror(): void {
  set((s) => ({ mirrored: !s.mirrored, mirror: isMirrored(s.mirror) ? s.mirror : { ...NO_MIRROR, axes: ['x'] } }));
}

export function setBrush(change: Partial<Brush>): void {
  set((s) => ({ brush: { ...s.brush, ...change } }));
}

export function setWrite(map: MapId, change: Partial<MapWrite>): void {
  set((s) => ({ writes: { ...s.writes, [map]: { ...writeOf(s.writes, map), ...change } } }));
}

export const settingsOf = (type: ToolType, state: Pick<BenchState, 'toolSettings'> = get()): ToolSettings => ({
  ...TOOLS[type].start,
  ...state.toolSettings[type],
});

export function setToolSettings(type: ToolType, settings: ToolSettings): void {
  set((s) => ({ toolSettings: { ...s.toolSettings, [type]: settings } }));
}

/** Where a tool takes from on this sheet; undefined: it was not set. */
export function sourceInHand({ source, sheetId }: BenchState = get()): Source | undefined {
  return source?.sheetId === sheetId ? source.source : undefined;
}

/** Alt-click says where the tool in hand takes from. */
export function takesFromElsewhere({ tool, toolSettings }: Pick<BenchState, 'tool' | 'toolSettings'> = get()): boolean {
  if (tool === 'pick') return false;
  const { needsSource = false, takesFromSource } = TOOLS[tool];
  return takesFromSource?.(settingsOf(tool, { toolSettings })) ?? needsSource;
}

/** `point`: where it lies on the model. */
export function setSource(at: Sample, point: number[] | null, picture?: string): void {
  const { sheetId } = get();
  set({ source: { sheetId, source: { at, ...(picture && { picture }) }, point } });
  say('The source is set: strokes take from there.');
}

/** The first stroke since the source was set: later ones stay aligned with it. */
export function alignSource(from: Sample): void {
  set((s) => (s.source && !s.source.source.from ? { source: { ...s.source, source: { ...s.source.source, from } } } : s));
}

/** The stencil in hand, on or off; null: none, or it is gone. */
export function keptStencil({ stencil, document }: BenchState = get()): KeptStencil | null {
  return (stencil && document?.stencils.find((s) => s.id === stencil.id)) ?? null;
}

/** The stencil as strokes have it now. */
const stencilInHand = (state: BenchState = get()): Stencil | undefined =>
  state.stencil?.on ? keptStencil(state)?.stencil : undefined;

/** Shapes are seen through the eye, and so are stencils over the view, and a brush that covers what is seen. */
function eyeFor(brush: Pick<Brush, 'reach'>): View | undefined {
  const { geometry, laying } = get();
  const through = laying !== STROKES || coversSeen(brush) || stencilInHand()?.over === 'view';
  return geometry && through ? (holder.viewport?.view ?? undefined) : undefined;
}

/** Colours that paint keeps to; undefined: any. */
function paletteAtWork(): string[] | undefined {
  const { palette, onlyPalette } = get().document!;
  return onlyPalette && palette.length > 0 ? [...palette] : undefined;
}

/** The brush as the engine takes it: tool, settings and what it writes, to the sheet's maps or to the mask. */
export function brushInHand(mode: ToolType): Brush {
  const { brush, writes, wells, target, maskValue, laying } = get();
  const way = areaWay(laying);
  const second = variesColour(brush.vary) || (way && AREAS[way.type].graded) ? hexToSrgb(wells[1]) : undefined;
  const out: Brush = {
    ...brush,
    mirror: mirrorInHand(),
    mode,
    settings: settingsOf(mode),
    second,
    source: sourceInHand(),
    fence: fenceAtWork(currentSheet()) ?? undefined,
    only: paletteAtWork(),
    stencil: stencilInHand(),
    view: eyeFor(brush),
    writes: {},
  };
  if (target === 'mask') {
    const hides = TOOLS[mode].hidesOnMasks;
    const value = hides ? 0 : maskValue;
    return { ...out, mode: hides ? 'paint' : mode, writes: { mask: { on: true, value: [value], amount: 1 } } };
  }
  for (const map of currentSheet().maps) {
    const w = writeOf(writes, map);
    const kind = mapKind(map);
    if (kind === 'normal') continue;
    out.writes[map] = { on: w.on, value: kind === 'colour' ? hexToSrgb(wells[0]) : [w.value], amount: w.amount };
  }
  return out;
}

/** One tone step darker or lighter. */
export function stepTone(by: 1 | -1): void {
  const { wells, tones } = get();
  const steps = toneSteps(hexToSrgb(wells[0]), tones);
  setWell(srgbToHex(steps[TONES_EACH_WAY + by]));
}
