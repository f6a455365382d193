/** The commands of ./brindle. Exit 0 on success, 2 with one sentence on bad input. */
import { BadInput } from './badInput';
import { ensureKernels } from './kernels';

const HELP = `Brindle paints base colour, height, roughness and metallic by hand on models and tileable canvases.

  ./brindle start                 the application with its demo pieces, on http://127.0.0.1:3000 (or PORT)
  ./brindle dev                   the same, rebuilt as the sources change
  ./brindle test [NAME…] [--changed]
                                  everything CI runs: format, lint, types, unit tests, build, browser tests; with names,
                                  or what is not committed yet, only the tests that it touches
  ./brindle bench [--only NAME] [--json] [--write]
                                  measures speed and memory, each beside a reference in the same run; --write puts the
                                  figures into docs/measured.md
  ./brindle soak [--minutes N] [--rounds N] [--seed S] [--out FILE]
                                  works with all tools and areas while browser, application and database are killed, and
                                  compares journal, database, document and pixels with what must be there
  ./brindle fuzz [--minutes N] [--seed S] [--only NAME,…]
                                  tries every reader with spoilt files, time and memory watched

  ./brindle inspect MODEL [--json]
                                  what a GLB, glTF, OBJ, PLY, STL or COLLADA holds, and what is wrong with its UVs
  ./brindle export PIECE|FILE.brindle --out DIR [--maps a,b] [--sheets a,b] [--divide 1|2|4|8] [--bits 8|16]
                   [--normal-y up|down] [--margin N] [--pattern TEXT] [--glb] [--dither]
                                  delivers maps; PIECE is the name or id of a piece on the server
  ./brindle prove PIECE|FILE.brindle [--json] [--limits FILE] [--pictures DIR]
                                  measures what can be wrong with a piece; exit code 1 where a figure is above its limit
  ./brindle unwrap MODEL --out x.glb [--size N] [--padding N]
                                  new UVs for a model: charts, padded for a sheet of that size, a square a material
  ./brindle bake MODEL [--dense FILE] --maps a,b --out DIR [--size N] [--samples N] [--supersample 1|2|4|8]
                   [--outward %] [--inward %] [--match whole|names]
                                  bakes mesh maps as 16-bit PNGs, from the model itself or from a dense one; reaches are
                                  shares of the model's size; needs no database
  ./brindle worker                a worker more that bakes, on this machine or, with DATABASE_URL, on another
  ./brindle jobs [--json]         the bakes that wait, run or ran, and who works on them
  ./brindle flatten FILE.brindle --map MAP [--sheet NAME] [--size N] [--bits 8|16] --out x.png
                                  one map of one sheet as a picture; needs no database
  ./brindle strokes PIECE|FILE.brindle --out S.json
                                  the strokes that were painted, as recordings
  ./brindle replay FILE.brindle STROKES.json --out FILE.brindle
                                  lays recorded strokes on a piece (docs/strokes.md)
  ./brindle kinds [--json]        what layers, masks, brushes, bakes and dispatches are made of
  ./brindle demo [NAME…]          paints the demo pieces by their scripts and writes their files into demo/pieces
`;

const COMMANDS: Record<string, () => Promise<{ run: (args: string[]) => Promise<void> }>> = {
  start: () => import('./start'),
  dev: () => import('./dev'),
  test: () => import('./test'),
  bench: () => import('./bench'),
  soak: () => import('./soak/run'),
  fuzz: () => import('./fuzz'),
  inspect: () => import('./inspect'),
  export: () => import('./export'),
  prove: () => import('./prove'),
  kinds: () => import('./kinds'),
  unwrap: () => import('./unwrap'),
  bake: () => import('./bake'),
  worker: () => import('./worker'),
  jobs: () => import('./jobs'),
  flatten: () => import('./flatten'),
  strokes: () => import('./strokes'),
  replay: () => import('./replay'),
  demo: () => import('./demo'),
};

/** Runs a command in this process: what it says goes to its output. Resolves to the exit code. */
export async function runCommand([name = 'help', ...args]: readonly string[]): Promise<number> {
  if (['help', '--help', '-h'].includes(name) || args.includes('--help')) {
    process.stdout.write(HELP);
    return 0;
  }
  if (!Object.hasOwn(COMMANDS, name)) {
    process.stderr.write(`There is no command "${name}": ./brindle help lists them.\n`);
    return 2;
  }
  try {
    await ensureKernels();
    const { run } = await COMMANDS[name]();
    await run([...args]);
    // Some commands say by 1 that they ran, and found something.
    return Number(process.exitCode ?? 0);
  } catch (error) {
    if (!(error instanceof BadInput)) throw error;
    process.stderr.write(`${error.message}\n`);
    return 2;
  }
}
