/** What is in hand: brush, tools, wells. It is the artist’s, not the piece’s, and stays in the browser. */
import { brushSchema, type Brush } from '@/core/hand/brush';
import { isMirrored, mirrorSchema, NO_MIRROR, type Mirror } from '@/core/hand/mirror';
import type { Sample, Source } from '@/core/hand/sample';
import { variesColour } from '@/core/hand/vary';
import { TOOLS, type ToolType } from '@/core/hand/tools';
import { hexToSrgb } from '@/core/colour/transfer';
import { mapKind, type MapId } from '@/core/kinds/maps';
import { get, say, set, writeOf, type BenchState, type MapWrite, type ToolSettings } from './state';
import { currentSheet } from './current';

const HAND_KEY = 'brindle-hand';
export const HAND_FIELDS = [
  'squint',
  'guides',
  'brush',
  'brushId',
  'handFolded',
  'pen',
  'mirror',
  'mirrored',
  'toolSettings',
  'writes',
  'wells',
  'recent',
  'wireOpacity',
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
      brush: brushSchema.parse({ ...saved.brush, writes: {} }),
      ...(mirror.success ? { mirror: mirror.data } : { mirror: get().mirror, mirrored: false }),
    };
  } catch {
    return {};
  }
}

export function saveHand(): void {
  const state = get();
  try {
    localStorage.setItem(HAND_KEY, JSON.stringify(Object.fromEntries(HAND_FIELDS.map((f) => [f, state[f]]))));
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
export function setSource(at: Sample, point: number[] | null): void {
  const { sheetId } = get();
  set({ source: { sheetId, source: { at }, point } });
  say('The source is set: strokes take from there.');
}

/** The first stroke since the source was set: later ones stay aligned with it. */
export function alignSource(from: Sample): void {
  set((s) => (s.source && !s.source.source.from ? { source: { ...s.source, source: { ...s.source.source, from } } } : s));
}

/** The brush as the engine takes it: tool, settings and what it writes, to the sheet's maps or to the mask. */
export function brushInHand(mode: ToolType): Brush {
  const { brush, writes, wells, target, maskValue } = get();
  const second = variesColour(brush.vary) ? hexToSrgb(wells[1]) : undefined;
  const out: Brush = {
    ...brush,
    mirror: mirrorInHand(),
    mode,
    settings: settingsOf(mode),
    second,
    source: sourceInHand(),
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
