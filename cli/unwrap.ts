/** ./brindle unwrap MODEL --out x.glb [--size N] [--padding N]: new UVs by charts, one square a material. */
import { writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { ModelError } from '../src/core/mesh/model';
import { readModel } from '../src/core/mesh/readModel';
import { buildIslands, buildTopology } from '../src/core/mesh/topology';
import { reportUvs } from '../src/core/mesh/uvReport';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { NODE_READING, unwrapModel } from '../src/server/models';
import { BadInput, callerPath, forPeople, parseCommand, readInput } from './badInput';

const text = { type: 'string' } as const;

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: text, size: text, padding: text }, ['MODEL']);
  if (!values.out) throw new BadInput('Say where to write: --out x.glb.');
  const number = (name: 'size' | 'padding', min: number, max: number) => {
    const given = values[name];
    if (given === undefined) return undefined;
    const n = Number(given);
    if (!Number.isInteger(n) || n < min || n > max)
      throw new BadInput(`--${name} is "${given}", but has to be a whole number from ${min} to ${max}.`);
    return n;
  };
  const size = number('size', 16, 8192) ?? 1024;
  const padding = number('padding', 0, 256);
  const name = basename(positionals[0]);
  const files = new Map([[name, await readInput(positionals[0])]]);
  const model = await forPeople(() => readModel(files, NODE_READING), [ModelError]);
  const unwrapped = await unwrapModel(model, { size, padding });
  if (!unwrapped.ok) throw new BadInput(unwrapped.message);
  const { found } = unwrapped;
  await writeFile(callerPath(values.out), await writeGlb(found.model));
  const topology = buildTopology(found.model);
  const report = reportUvs(found.model, topology, buildIslands(found.model, topology, found.model.uvs[0]), 0);
  const coverage = report.sheets.map((s) => `${Math.round(s.coverage * 100)} %`).join(', ');
  process.stdout.write(`${basename(values.out)}: ${found.charts} charts, ${coverage} of the square used\n`);
  for (const p of report.problems) process.stdout.write(`  ${p.code}: ${p.sentence}\n`);
}
