/** What is measured. Each function returns one or more results. */
import { execFileSync } from 'node:child_process';
import { buildSurfaceMap } from '../../src/core/mesh/surfaceMap/build';
import { AREA_MEASUREMENTS } from './areas';
import { BAKE_MEASUREMENTS } from './bakes';
import { fenceHatch } from './fenceHatch';
import { DAB_MEASUREMENTS, lantern, SIZE } from './dabs';
import type { Result } from './result';
import { READING_MEASUREMENTS } from './reading';
import { RULE_MEASUREMENTS } from './rules';
import { STRATA_MEASUREMENTS } from './strata';
import { result } from './result';
import { alternate } from './timing';
import { firstExact, newPieceFromModel, opening, pageMemory, strokeFrames } from './opening';
import { penLatency, penShareOnCanvas } from './penLatency';
import { wholeAgainstAlone } from './wholeAgainstAlone';
import { penUpToJournal } from './penUpToJournal';
import { starting } from './starting';
import { bakeFirstTry, pointerToPixel, sliderToPixel } from './pointerToPixel';

function surfaceMap(): Result[] {
  const { model, surfaces } = lantern();
  const input = { model, islands: surfaces.islands, uv: model.uvs[0], materialIndex: 0, width: SIZE, height: SIZE };
  const source = new Uint8Array(SIZE * SIZE * 19);
  // One copy of the map's own bytes (position, normal, face): 19 a texel.
  const t = alternate(
    () => void buildSurfaceMap(input),
    () => void source.slice(),
  );
  return [result('surface-map-2048', t.subject, 's', 'one copy of its bytes', t.reference)];
}

/** Resident memory is measured in processes of their own: the first page of each is the same. */
function blankMemory(): Result[] {
  const measure = (layers: number) =>
    Number(
      execFileSync(process.execPath, ['--expose-gc', '--import', 'tsx', 'cli/bench/blankPiece.ts', String(layers)]).toString(),
    ) / 1048576;
  const runs = Array.from({ length: 3 }, () => [measure(10), measure(0)] as const);
  const middle = (k: 0 | 1) => runs.map((r) => r[k]).toSorted((a, b) => a - b)[1];
  return [result('blank-4096-memory', middle(0), 'MiB', 'the same without layers', middle(1))];
}

function strokesMemory(): Result[] {
  const out = execFileSync(process.execPath, ['--expose-gc', '--import', 'tsx', 'cli/bench/manyStrokes.ts'], {
    maxBuffer: 1 << 20,
  });
  const { rss, allowed } = JSON.parse(out.toString()) as { rss: number; allowed: number };
  return [
    result('strokes-memory', rss / 1048576, 'MiB', 'the process before, painted tiles and the undo budget', allowed / 1048576),
  ];
}

export const MEASUREMENTS: Record<string, () => Result[] | Promise<Result[]>> = {
  ...DAB_MEASUREMENTS,
  'surface-map-2048': surfaceMap,
  'blank-4096-memory': blankMemory,
  'strokes-memory': strokesMemory,
  ...STRATA_MEASUREMENTS,
  ...RULE_MEASUREMENTS,
  ...AREA_MEASUREMENTS,
  ...BAKE_MEASUREMENTS,
  ...READING_MEASUREMENTS,
  'fence-hatch': fenceHatch,
  starting,
  'whole-against-alone': wholeAgainstAlone,
  'pen-share': penShareOnCanvas,
  'pen-latency': penLatency,
  'pen-up-to-journal': penUpToJournal,
  'pointer-to-pixel': pointerToPixel,
  'slider-to-pixel': sliderToPixel,
  'bake-first-try': bakeFirstTry,
  'first-exact': firstExact,
  'new-piece': newPieceFromModel,
  opening,
  'page-memory': pageMemory,
  'stroke-frames': strokeFrames,
};
