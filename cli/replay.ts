/** ./brindle replay FILE.brindle STROKES.json --out FILE.brindle */
import { writeFile } from 'node:fs/promises';
import { shareMemory } from '../src/core/compute';
import { parseRecording, RecordingError, replay } from '../src/core/hand/replay';
import { writePieceFile } from '../src/core/piece/pieceFile';
import { PieceSurfaces } from '../src/core/strata/pieceSurfaces';
import { BadInput, callerPath, forPeople, parseCommand, readInput } from './badInput';
import { loadPieceFile } from './pieceInput';

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { out: { type: 'string' } }, ['FILE.brindle', 'STROKES.json']);
  if (!values.out) throw new BadInput('Say where to write: --out FILE.brindle.');
  // Kernels work on strokes where they lie.
  shareMemory(() => performance.now());
  const loaded = await loadPieceFile(positionals[0]);
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(await readInput(positionals[1])));
  } catch (error) {
    if (error instanceof BadInput) throw error;
    throw new BadInput(`${positionals[1]} is not JSON in UTF-8: record or save it again.`);
  }
  await forPeople(() => {
    const recording = parseRecording(json);
    const surfaces = loaded.model && loaded.piece.model ? new PieceSurfaces(loaded.model, loaded.piece.model.uvSet) : null;
    return replay(loaded.piece, loaded.store, surfaces, recording);
  }, [RecordingError]);
  await writeFile(callerPath(values.out), writePieceFile(loaded));
}
