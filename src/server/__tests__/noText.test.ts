/** Text that the database cannot keep is refused in one sentence, wherever it stands; nothing is changed. */
import { randomUUID } from 'node:crypto';
import { setLayerEdit } from '../../core/document/edits';
import { contractPiece } from '../../core/testing/serverContract';
import { TileStore } from '../../core/tile/tiles';
import { commitOperation } from '../commit';
import { faultOf } from '../faults';
import { insertPiece, openPiece } from '../pieces';
import { freshDatabase } from '../testing';

let end: () => Promise<void>;
beforeAll(async () => {
  end = await freshDatabase('notext');
  await insertPiece({ piece: contractPiece(), store: new TileStore(), modelGlb: null, thumbnailPng: null }, { keepId: true });
});
afterAll(() => end());

test.each([
  ['NUL', 'a\u0000b'],
  ['the first half of a pair', 'a\ud83d'],
  ['the second half', '\udd25b'],
])('%s in a label or a note of a layer', async (_name, text) => {
  const { sheets } = contractPiece();
  const paint = { type: 'paint' as const, sheetId: 's', layerId: 'l' };
  for (const [label, edit] of [
    [text, paint],
    ['Note', setLayerEdit(sheets[0], sheets[0].layers[1], { note: text })],
  ] as const) {
    const operation = {
      kind: 'edit' as const,
      id: randomUUID(),
      baseRevision: 0,
      label,
      edit,
      tiles: [],
      blobs: [],
      stroke: null,
    };
    const fault = await commitOperation('p', { operation, blobs: new Map() }).then(
      () => null,
      (error: unknown) => faultOf(error),
    );
    // A half that stands alone in plain text becomes a replacement character on its way: that can be kept.
    if (fault === null) expect(text).not.toContain('\u0000');
    else
      expect(fault).toMatchObject({ status: 422, log: false, message: expect.stringMatching(/cannot be kept .* try again\.$/) });
    const opened = await openPiece('p');
    if (fault !== null) expect(opened && !('deleted' in opened) && opened.revision).toBe(0);
    else return;
  }
});
