/** Whether loops become slower by what ran before them: each alone in a process, and after all the others in one (loops.ts). */
import { execFileSync } from 'node:child_process';
import { asked, type Result } from './result';

/** The first figure of each of these measurements: work a second, or time. */
export const LOOPS = {
  'flat-dabs-r32': 'speed',
  'surface-dabs-64': 'speed',
  'stencil-dabs-64': 'speed',
  'view-shape-2048': 'time',
  'fill-island-2048': 'time',
  'edge-masks-2048': 'time',
  'composite-20': 'speed',
  'blur-8': 'speed',
  'noise-fractal-5': 'speed',
  'distance-transform': 'time',
} as const;
export type Loop = keyof typeof LOOPS;
export const NAMES = Object.keys(LOOPS) as Loop[];

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

/** How many times longer each loop takes after all others, and the worst of them. */
export function wholeAgainstAlone(): Result[] {
  const alone = Object.assign({}, ...NAMES.map(run)) as Record<string, number>;
  const whole = run('all');
  const slower = NAMES.map((name) => ({
    name,
    times: LOOPS[name] === 'speed' ? alone[name] / whole[name] : whole[name] / alone[name],
  }));
  const one = (name: string, value: number) => asked(name, value, '×', WANTED);
  const worst = Math.max(...slower.map(({ times }) => times));
  return [one('whole-against-alone', worst), ...slower.map(({ name, times }) => one(`whole-against-alone ${name}`, times))];
}
