/** Readers of what is ours: pieces, documents, brushes, recordings, palettes, operations on their way to the server. */
import { encodePng } from '../../src/core/codec/png';
import { ArchiveError, readZip, writeZip } from '../../src/core/codec/zip';
import { readPalette, writePalette } from '../../src/core/colour/palette';
import { newCoatLayer, newGroup, newMask, newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { parsePiece } from '../../src/core/document/schema';
import { brushSchema } from '../../src/core/hand/brush';
import { parseRecording, RecordingError } from '../../src/core/hand/replay';
import { readBrushFile, writeBrushFile } from '../../src/core/hand/rack/file';
import { SHIPPED } from '../../src/core/hand/rack/shipped';
import { unpackOperation } from '../../src/core/keeping/operation';
import { PieceFileError, readPieceFile, writePieceFile } from '../../src/core/piece/pieceFile';
import { mendedPng, spoilt, spoiltJson } from '../../src/core/testing/fuzz';
import { TileStore, tilesFromPicture } from '../../src/core/tile/tiles';
import { BYTES, json, lines, orRefusal, refusalIn, text, untext, type Spoil, type Target } from './target';

function piece() {
  const sheet = newSheet('s', 'Canvas', 40, 30);
  sheet.masks = [newMask('m', 'Mask', 1)];
  sheet.pictures = [{ id: 'q', name: 'Q', width: 9, height: 9, encoding: 'srgb' }];
  sheet.layers = [
    newCoatLayer('c', 'Ground', { roughness: [0.4] }),
    { ...newPaintedLayer('l', 'Hand'), parent: 'g', mask: { id: 'm', on: true } },
    newGroup('g', 'Group'),
  ];
  const store = new TileStore();
  const pixels = Uint16Array.from({ length: 40 * 30 * 4 }, (_, i) => i * 31);
  for (const [tile, data] of tilesFromPicture(pixels, 40, 30, 4)) store.set('l/base-colour', tile, { data, hash: null });
  const thumbnailPng = encodePng({ width: 9, height: 9, channels: 3, bits: 8, data: new Uint8Array(243) });
  return { piece: newPiece('p', 'P', 'canvas', [sheet]), store, modelGlb: null, thumbnailPng };
}

/** One entry of a zip is spoilt, as what it is. */
const entry: Spoil = (file, random) => {
  const entries = [...readZip(file, 'It')];
  const n = Math.floor(random() * entries.length);
  return writeZip(
    entries.map(([name, bytes], i): [string, Uint8Array] => {
      if (i !== n) return [name, bytes];
      if (name.endsWith('.json')) return [name, text(JSON.stringify(spoiltJson(JSON.parse(untext(bytes)), random)))];
      return [name, mendedPng(spoilt(bytes, random))];
    }),
  );
};

const recording = () => ({
  format: 'brindle-strokes',
  version: 1,
  strokes: [{ brush: brushSchema.parse(SHIPPED[0].brush), samples: [{ pane: 'flat', x: 3, y: 4, pressure: 0.5, time: 0 }] }],
});

function operation(): Uint8Array {
  const hash = 'a'.repeat(64);
  const header = text(
    JSON.stringify({
      kind: 'edit',
      id: 'o',
      baseRevision: 3,
      after: null,
      label: 'Stroke',
      edit: { type: 'set-layer', sheetId: 's', layerId: 'l', before: {}, after: { name: 'New' } },
      tiles: [['l/base-colour', 0, null, hash]],
      blobs: [{ hash, length: 9 }],
    }),
  );
  return Buffer.concat([new Uint8Array(Uint32Array.of(header.length).buffer), header, Buffer.alloc(9, 7)]);
}

/** The header of an operation is spoilt as a document. */
const header: Spoil = (file, random) => {
  const length = new DataView(file.buffer, file.byteOffset).getUint32(0, true);
  const body = json(file.subarray(4, 4 + length), random);
  return Buffer.concat([new Uint8Array(Uint32Array.of(body.length).buffer), body, file.subarray(4 + length)]);
};

const brushFile = () => writeBrushFile({ brushes: SHIPPED.slice(0, 3), tips: new Map() } as never);
const swatches = [{ colour: '#804020', name: 'Rust' }] as never;

export const DOCUMENTS: readonly Target[] = [
  {
    name: 'zip',
    files: () => [
      writePieceFile(piece()),
      writeZip([['a.txt', text('hello')]]),
      writeZip([
        ['deep/a.txt', text('x'.repeat(5000))],
        ['b', new Uint8Array(0)],
      ]),
    ],
    ways: BYTES,
    read: (bytes) => orRefusal(() => readZip(bytes, 'The file'), ArchiveError),
  },
  {
    name: 'piece',
    files: () => [writePieceFile(piece())],
    ways: [...BYTES, entry, entry],
    read: (bytes) => orRefusal(() => readPieceFile(bytes), PieceFileError),
  },
  {
    name: 'document',
    files: () => [text(JSON.stringify(piece().piece))],
    ways: [json],
    read: (bytes) => refusalIn(parsePiece(JSON.parse(untext(bytes)))),
  },
  {
    name: 'brushes',
    files: () => [brushFile()],
    ways: [...BYTES, entry],
    read: (bytes) => refusalIn(readBrushFile(bytes, 'The file')),
  },
  {
    name: 'recording',
    files: () => [text(JSON.stringify(recording()))],
    ways: [json],
    read: (bytes) => orRefusal(() => parseRecording(JSON.parse(untext(bytes))), RecordingError),
  },
  {
    name: 'palette',
    files: () => (['json', 'hex', 'css'] as const).map((format) => text(writePalette('Quay', swatches, format))),
    ways: [...BYTES, lines],
    read: (bytes) => refusalIn(readPalette(untext(bytes))),
  },
  { name: 'operation', files: () => [operation()], ways: [...BYTES, header], read: (bytes) => refusalIn(unpackOperation(bytes)) },
];
