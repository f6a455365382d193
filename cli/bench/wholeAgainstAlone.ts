/** Whether loops become slower by what ran before them: each alone in a process, and after all the others in one (loops.ts). */
import { execFileSync } from 'node:child_process';
import type { Result } from './result';

/** The first figure of each of these measurements. */
export const LOOPS = [
  'flat-dabs-r32',
  'surface-dabs-64',
  'stencil-dabs-64',
  'view-shape-2048',
  'fill-island-2048',
  'edge-masks-2048',
  'composite-20',
  'blur-8',
  'noise-fractal-5',
  'distance-transform',
] as const;

/** Figures in which more is better. */
const MORE_IS_BETTER: ReadonlySet<string> = new Set([
  'flat-dabs-r32',
  'surface-dabs-64',
  'stencil-dabs-64',
  'composite-20',
  'blur-8',
  'noise-fractal-5',
]);

const WANTED = 1.1;

const run = (which: string): Record<string, number> => {
  const out = execFileSync(
    process.execPath,
    ['--disable-warning=ExperimentalWarning', '--import', 'tsx', 'cli/bench/loops.ts', which],
    {
      maxBuffer: 1 << 20,
    },
  );
  return JSON.parse(out.toString()) as Record<string, number>;
};

/** How many times longer each loop takes after all others, and the worst of them. Each is held against its reference in the same process. */
export function wholeAgainstAlone(): Result[] {
  const alone = Object.assign({}, ...LOOPS.map(run)) as Record<string, number>;
  const whole = run('all');
  const slower = LOOPS.map((name) => ({
    name,
    times: MORE_IS_BETTER.has(name) ? alone[name] / whole[name] : whole[name] / alone[name],
  }));
  const one = (name: string, value: number): Result => ({
    ...{ name, value, unit: '×', reference: 'what was asked for', referenceValue: WANTED, ratio: value / WANTED },
  });
  const worst = Math.max(...slower.map(({ times }) => times));
  return [one('whole-against-alone', worst), ...slower.map(({ name, times }) => one(`whole-against-alone ${name}`, times))];
}
