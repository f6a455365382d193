/**
 * ./brindle bench [--only NAME] [--json] [--write]: speed and memory, each beside a reference measured in turn with it; a line each.
 * --write puts them into docs/measured.md.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { BadInput, parseCommand } from './badInput';
import { figure, PAGE, withResults } from './bench/measuredPage';
import { MEASUREMENTS } from './bench/measurements';
import type { Result } from './bench/result';

/** Figures that come out of another one's run. */
const TOGETHER: Record<string, string> = {
  'slider-visible': 'reevaluate-30x5',
  'dab-reevaluated': 'reevaluate-30x5',
  'placement-drag': 'coat-5-maps',
  'start-fresh': 'starting',
  'start-again': 'starting',
  'pen-page': 'pen-share',
  'pen-engine': 'pen-share',
  'open-to-look': 'opening',
  'open-to-stroke': 'opening',
  'open-to-exact': 'opening',
};

export async function run(args: string[]): Promise<void> {
  const { values } = parseCommand(args, { only: { type: 'string' }, json: { type: 'boolean' }, write: { type: 'boolean' } }, []);
  const names = Object.keys(MEASUREMENTS);
  // One run gives several of them.
  const only = values.only && (TOGETHER[values.only] ?? values.only);
  if (only && !names.includes(only))
    throw new BadInput(`There is no measurement "${values.only}": there are ${[...names, ...Object.keys(TOGETHER)].join(', ')}.`);
  const failed: string[] = [];
  for (const name of only ? [only] : names)
    try {
      for (const result of await MEASUREMENTS[name]()) {
        if (values.only && only !== values.only && !result.name.startsWith(values.only)) continue;
        process.stdout.write(`${values.json ? JSON.stringify(result) : line(result)}\n`);
        // At once: a run takes most of an hour, and may be stopped.
        if (values.write) writeFileSync(PAGE, withResults(readFileSync(PAGE, 'utf8'), [result], today()));
      }
    } catch (error) {
      failed.push(name);
      process.stderr.write(`${name} failed: ${(error as Error).stack}\n`);
    }
  if (failed.length === 0) return;
  process.stderr.write(`Not measured: ${failed.join(', ')}.\n`);
  process.exitCode = 1;
}

const today = () => new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });
const line = (r: Result) =>
  `${r.name}: ${figure(r.value)} ${r.unit}; ${r.reference}: ${figure(r.referenceValue)} ${r.unit}; ratio ${r.ratio.toFixed(2)}`;
