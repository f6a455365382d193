import { packOperation, unpackOperation } from '../keeping/operation';
import {
  applyEdit,
  applyEditChecked,
  arrangeEdit,
  describeEdit,
  EditMismatch,
  invertEdit,
  setLayerEdit,
  type Edit,
} from '../document/edits';
import { moved } from '../document/tree';
import { freeName, newCoatLayer, newEchoLayer, newGroup, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { DOCUMENT_VERSION, nameSchema, parsePiece, pieceSchema, type Layer, type Piece } from '../document/schema';
import { seededRandom } from '../testing/models';

function piece(): Piece {
  const sheet = newSheet('s', 'Sheet', 256, 128);
  sheet.layers = [newCoatLayer('a', 'Ground', { 'base-colour': [0.2, 0.3, 0.4], height: [0.6] }), newPaintedLayer('b', 'Hand')];
  return newPiece('p', 'Piece', 'canvas', [sheet], { palette: ['#112233'] });
}

/** A random edit that fits the document. */
function randomEdit(doc: Piece, random: () => number, serial: number): Edit {
  const sheet = doc.sheets[0];
  const n = sheet.layers.length;
  const pick = () => Math.floor(random() * n);
  const kind = n === 0 ? 0 : Math.floor(random() * 6);
  if (kind === 0) {
    const layer =
      random() < 0.5
        ? newPaintedLayer(`n${serial}`, `New ${serial}`)
        : newCoatLayer(`n${serial}`, 'Coat', { roughness: [random()] });
    return { type: 'add-layer', sheetId: 's', index: Math.floor(random() * (n + 1)), layer };
  }
  const at = pick();
  const layer = sheet.layers[at];
  if (kind === 1) return { type: 'remove-layer', sheetId: 's', index: at, layer };
  if (kind === 2) return arrangeEdit(sheet, moved(sheet.layers, [layer.id], { parent: null, above: sheet.layers[pick()].id })!);
  if (kind === 3) return setLayerEdit(sheet, layer, { opacity: random(), visible: random() < 0.5 });
  if (kind === 4)
    return { type: 'set-piece', before: { palette: doc.palette }, after: { palette: [...doc.palette, '#abcdef'].slice(-5) } };
  return {
    type: 'batch',
    edits: [
      setLayerEdit(sheet, layer, { name: `Name ${serial}` }),
      { type: 'set-sheet', sheetId: 's', before: { heightSpan: sheet.heightSpan }, after: { heightSpan: random() / 10 } },
    ] as never,
  };
}

describe('edits', () => {
  test.each([1, 2, 3, 4, 5, 6, 7, 8])(
    'undoing a random sequence to the start gives the first document byte for byte (seed %i)',
    (seed) => {
      const random = seededRandom(seed);
      const first = JSON.stringify(piece());
      let doc = piece();
      const done: Edit[] = [];
      for (let i = 0; i < 60; i++) {
        const edit = randomEdit(doc, random, i);
        doc = applyEdit(doc, edit);
        expect(pieceSchema.safeParse(doc).success).toBe(true);
        done.push(edit);
      }
      const last = JSON.stringify(doc);
      for (const edit of done.toReversed()) doc = applyEdit(doc, invertEdit(edit));
      expect(JSON.stringify(doc)).toBe(first);
      for (const edit of done) doc = applyEdit(doc, edit);
      expect(JSON.stringify(doc)).toBe(last);
    },
  );

  test('the input document is never changed', () => {
    const doc = piece();
    const before = JSON.stringify(doc);
    applyEdit(doc, setLayerEdit(doc.sheets[0], doc.sheets[0].layers[0], { opacity: 0.1 }));
    expect(JSON.stringify(doc)).toBe(before);
  });

  test('an edit that does not fit throws, and at the door comes back as a sentence', () => {
    const stranger: Edit = { type: 'set-layer', sheetId: 's', layerId: 'nobody', before: {}, after: {} };
    expect(() => applyEdit(piece(), stranger)).toThrow(EditMismatch);
    expect(applyEditChecked(piece(), stranger)).toEqual({ ok: false, message: expect.stringContaining('does not fit') });
  });

  test('a patch can change neither identity nor kind, nor smuggle in unknown fields', () => {
    const patch = (after: Record<string, unknown>): Edit => ({
      type: 'set-layer',
      sheetId: 's',
      layerId: 'a',
      before: {},
      after,
    });
    for (const bad of [{ id: 'z' }, { kind: 'painted' }, { evil: 1 }])
      expect(applyEditChecked(piece(), patch(bad)).ok).toBe(false);
    expect(applyEditChecked(piece(), patch({ opacity: 7 })).ok).toBe(false);
    expect(applyEditChecked(piece(), patch({ opacity: 0.7 })).ok).toBe(true);
  });

  test('the trail says what was done in words', () => {
    const doc = piece();
    expect(describeEdit({ type: 'paint', sheetId: 's', layerId: 'b' }, doc)).toBe('Stroke on Hand');
    expect(describeEdit({ type: 'remove-layer', sheetId: 's', index: 0, layer: doc.sheets[0].layers[0] }, doc)).toBe(
      'Delete Ground',
    );
  });
});

const withLayers = (...layers: Layer[]) => ({ ...piece(), sheets: [{ ...piece().sheets[0], layers }] });

describe('documents from outside', () => {
  test('ten thousand layers in nested groups are read', () => {
    const layers: Layer[] = [];
    for (let g = 0; g < 1000; g++) {
      for (let n = 0; n < 9; n++) layers.push({ ...newPaintedLayer(`m${g}-${n}`, 'M'), parent: `g${g}` });
      layers.push(newGroup(`g${g}`, 'G'));
    }
    expect(parsePiece(withLayers(...layers)).ok).toBe(true);
  });

  test('version 2 is migrated: a flat list, and the adding of height by its new name', () => {
    const old = JSON.parse(JSON.stringify(piece()));
    old.version = 2;
    for (const layer of old.sheets[0].layers)
      for (const field of ['parent', 'mask', 'lock', 'tag', 'note', 'passThrough', 'filter', 'echo']) delete layer[field];
    delete old.sheets[0].masks;
    delete old.sheets[0].ownMaps;
    old.sheets[0].layers[0].cells.height.blend = 'add';
    const result = parsePiece(old);
    const layer = result.ok ? result.value.sheets[0].layers[0] : null;
    expect(layer).toMatchObject({ parent: null, mask: null, lock: 'none', cells: { height: { blend: 'offset' } } });
  });

  test('a sound document comes back as it is', () => {
    const result = parsePiece(JSON.parse(JSON.stringify(piece())));
    expect(result.ok && JSON.stringify(result.value)).toBe(JSON.stringify(piece()));
  });

  test('version 1 is migrated: the height range becomes a share of the width', () => {
    const old = JSON.parse(JSON.stringify(piece()));
    old.version = 1;
    old.sheets[0].heightTexels = 8;
    delete old.sheets[0].heightSpan;
    const result = parsePiece(old);
    expect(result.ok && result.value.sheets[0].heightSpan).toBe(8 / 256);
    expect(result.ok && result.value.version).toBe(DOCUMENT_VERSION);
  });

  test.each([
    ['no object', 5],
    ['an array', []],
    ['no version', {}],
    ['a newer version', { version: 99 }],
    ['a name with slashes', { ...piece(), name: 'a/b' }],
    ['a canvas of size 0', { ...piece(), sheets: [{ ...piece().sheets[0], width: 0 }] }],
    ['a canvas of 100,000', { ...piece(), sheets: [{ ...piece().sheets[0], height: 100_000 }] }],
    ['an id used twice', { ...piece(), sheets: [piece().sheets[0], piece().sheets[0]] }],
    [
      'a coat without its value',
      {
        ...piece(),
        sheets: [{ ...piece().sheets[0], layers: [{ ...piece().sheets[0].layers[0], cells: { height: { on: true } } }] }],
      },
    ],
    ['a member of a group that is not there', withLayers({ ...newPaintedLayer('m', 'M'), parent: 'nobody' })],
    [
      'a member apart from its group',
      withLayers({ ...newPaintedLayer('m', 'M'), parent: 'g' }, newPaintedLayer('o', 'O'), newGroup('g', 'G')),
    ],
    [
      'an echo of the group that it is in',
      withLayers({ ...newEchoLayer('e', 'E', 'g', 'base-colour', ['height']), parent: 'g' }, newGroup('g', 'G')),
    ],
    [
      'two echoes of each other',
      withLayers(newEchoLayer('e', 'E', 'f', 'height', ['height']), newEchoLayer('f', 'F', 'e', 'height', ['height'])),
    ],
    ['a mask that is not there', withLayers({ ...newPaintedLayer('m', 'M'), mask: { id: 'nobody', on: true } })],
    ['an unknown kind', withLayers({ ...newPaintedLayer('m', 'M'), kind: 'wonder' } as never)],
    ['ten thousand layers and one', withLayers(...Array.from({ length: 10_001 }, (_, n) => newPaintedLayer(`m${n}`, 'M')))],
    ['a model piece without a mesh', { ...piece(), kind: 'model' }],
  ])('%s gives one sentence', (_what, input) => {
    const result = parsePiece(input);
    expect(result.ok).toBe(false);
    expect(!result.ok && result.message).toMatch(/^[A-Z].+\.$/s);
  });

  test('names are trimmed, and refuse what a file name cannot hold', () => {
    expect(nameSchema.parse('  Lantern ')).toBe('Lantern');
    for (const bad of ['', '   ', 'a/b', 'a\\b', 'a\u0000b', 'x'.repeat(121)])
      expect(nameSchema.safeParse(bad).success).toBe(false);
    expect(freeName('Hand', ['Hand', 'Hand 2'])).toBe('Hand 3');
  });
});

describe('operations as bytes', () => {
  const hash = 'ab'.repeat(32);
  const operation = {
    kind: 'edit' as const,
    id: 'op-1',
    baseRevision: 3,
    label: 'Stroke',
    edit: { type: 'paint' as const, sheetId: 's', layerId: 'b' },
    tiles: [['b/height', 257, null, hash]] as [string, number, string | null, string | null][],
    blobs: [{ hash, length: 5 }],
    stroke: null,
  };
  const bytes = packOperation(operation, new Map([[hash, Uint8Array.of(4, 1, 2, 3, 4)]]));

  test('packing and unpacking give the same operation and blobs', () => {
    const back = unpackOperation(bytes);
    expect(back).toEqual({ ok: true, value: { operation, blobs: new Map([[hash, Uint8Array.of(4, 1, 2, 3, 4)]]) } });
  });

  test('every cut and every flipped byte of the header is refused or read, never thrown', () => {
    for (let n = 0; n < bytes.length; n++) expect(unpackOperation(bytes.slice(0, n)).ok).toBe(false);
    const random = seededRandom(5);
    for (let i = 0; i < 300; i++) {
      const bad = bytes.slice();
      bad[Math.floor(random() * bad.length)] ^= 1 << Math.floor(random() * 8);
      expect(typeof unpackOperation(bad).ok).toBe('boolean');
    }
  });
});
