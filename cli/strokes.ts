/** ./brindle strokes FILE|PIECE --out S.json: how the strokes came about, as a recording that replay takes. */
import { writeFile } from 'node:fs/promises';
import { strokesFile } from '../src/core/hand/replay';
import { BadInput, callerPath, parseCommand } from './badInput';
import { loadPiece } from './pieceInput';

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: { type: 'string' } }, ['a PIECE or a FILE.brindle']);
  if (!values.out) throw new BadInput('Say where to write: --out S.json.');
  const { piece, strokes = [] } = await loadPiece(positionals[0]);
  if (strokes.length === 0)
    throw new BadInput(`"${piece.name}" has no recorded strokes: they are recorded as they are painted on the bench.`);
  try {
    await writeFile(callerPath(values.out), JSON.stringify(strokesFile(strokes)));
  } catch (error) {
    throw new BadInput(`${values.out} cannot be written (${(error as NodeJS.ErrnoException).code}): choose another place.`);
  }
  process.stdout.write(`${strokes.length} strokes of "${piece.name}" in ${values.out}\n`);
}
