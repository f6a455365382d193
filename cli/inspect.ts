/** ./brindle inspect MODEL [--json] */
import { readdir } from 'node:fs/promises';
import { basename, dirname, join, relative } from 'node:path';
import { ModelError } from '../src/core/mesh/model';
import { MODEL_FILE } from '../src/core/mesh/companions';
import { readModel } from '../src/core/mesh/readModel';
import { buildIslands, buildTopology } from '../src/core/mesh/topology';
import { firstUsableUvSet, reportUvs } from '../src/core/mesh/uvReport';
import { BadInput, callerPath, forPeople, parseCommand, readInput } from './badInput';
import { NODE_READING } from '../src/server/models';

/** A model's own folder may hold its buffers and pictures; larger ones are not read on a guess. */
const MAX_COMPANIONS = 500;

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { json: { type: 'boolean' } }, ['MODEL']);
  const [path] = positionals;
  const files = new Map([[basename(path), await readInput(path)]]);
  if (!MODEL_FILE.test(path) && files.size === 1) await forPeople(() => readModel(files), [ModelError]);
  if (/\.(gltf|obj|dae)$/i.test(path)) await addCompanions(path, files);
  const model = await forPeople(() => readModel(files, NODE_READING), [ModelError]);
  const topology = buildTopology(model);
  const uvSet = firstUsableUvSet(model);
  const islands = uvSet >= 0 ? buildIslands(model, topology, model.uvs[uvSet]) : null;
  const report = reportUvs(model, topology, islands, uvSet);
  const triangles = (match: (f: number) => boolean) => model.facePart.reduce((n, _, f) => n + (match(f) ? 1 : 0), 0);
  const facts = {
    vertices: model.fileVertices,
    triangles: model.indices.length / 3,
    parts: model.parts.map((name, p) => ({ name, triangles: triangles((f) => model.facePart[f] === p) })),
    materials: model.materials.map((m, i) => ({ name: m.name, triangles: triangles((f) => model.faceMaterial[f] === i) })),
    uvSets: model.uvs.length,
    problems: report.problems.map(({ code, count, sentence }) => ({ code, count, sentence })),
  };
  if (values.json) return void process.stdout.write(`${JSON.stringify(facts, null, 2)}\n`);
  const lines = [
    `${basename(path)}: ${facts.triangles} triangles, ${facts.vertices} vertices, ${facts.uvSets} UV set${facts.uvSets === 1 ? '' : 's'}`,
    ...facts.parts.map((p) => `  part      ${p.name} (${p.triangles} triangles)`),
    ...facts.materials.map((m) => `  material  ${m.name} (${m.triangles} triangles)`),
    ...report.sheets.map(
      (s) => `  sheet     ${s.material}: ${s.islands} islands, ${Math.round(s.coverage * 100)} % of the square used`,
    ),
    ...(facts.problems.length ? facts.problems.map((p) => `  ${p.code}: ${p.sentence}`) : ['  The UVs are sound.']),
  ];
  process.stdout.write(`${lines.join('\n')}\n`);
}

async function addCompanions(path: string, files: Map<string, Uint8Array>): Promise<void> {
  const folder = dirname(callerPath(path));
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
  const found = entries.filter((entry) => entry.isFile()).map((entry) => relative(folder, join(entry.parentPath, entry.name)));
  const names = found.filter((n) => /\.(bin|png|jpe?g|webp|tga|bmp|tiff?|ktx2|mtl)$/i.test(n));
  if (names.length > MAX_COMPANIONS)
    throw new BadInput(
      `The folder of ${basename(path)} holds ${names.length} files that could belong to it: put the model into a folder of its own.`,
    );
  for (const name of names) files.set(name.replaceAll('\\', '/'), await readInput(join(folder, name)));
}
