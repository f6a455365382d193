import { strToU8, zipSync } from 'fflate';
import { blobChannels, filterTile, sha256, tileBlob, tileBytes, unfilterTile } from '../codec/tileBlob';
import { decodePng, encodePng, PictureError } from '../codec/png';
import { toStored } from '../tile/bitmap';
import { pinSchema } from '../document/pin';
import { PieceFileError, readPieceFile, writePieceFile } from '../piece/pieceFile';
import { ArchiveError, readZip, writeZip } from '../codec/zip';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { TILE_TEXELS, TileStore, tilesFromPicture } from '../tile/tiles';
import { seededRandom } from '../testing/models';

describe('tile blobs', () => {
  test.each([2, 4] as const)('texels of %i channels survive filtering', (channels) => {
    const random = seededRandom(channels);
    const data = Uint16Array.from({ length: TILE_TEXELS * channels }, (_, i) => (i % 3 ? i : random() * 65536));
    expect(unfilterTile(filterTile(data), channels)).toEqual(data);
  });

  test('the wrong length and the wrong first byte are misuse and throw', () => {
    expect(() => unfilterTile(new Uint8Array(5), 4)).toThrow(/has 131072 bytes, not 5/);
    expect(() => blobChannels(Uint8Array.of(3))).toThrow(/3 channels/);
    expect(blobChannels(tileBlob(2, new Uint8Array(0)))).toBe(2);
  });

  test('the address is SHA-256 (FIPS 180-4: "abc")', async () => {
    expect(await sha256(strToU8('abc'))).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad');
    expect(tileBytes(Uint16Array.of(0x0102))).toEqual(Uint8Array.of(2, 1));
  });
});

describe('PNG', () => {
  test.each([
    [1, 8],
    [1, 16],
    [2, 8],
    [2, 16],
    [3, 8],
    [3, 16],
    [4, 8],
    [4, 16],
  ] as const)('%i channels at %i bit come back exactly', (channels, bits) => {
    const random = seededRandom(channels * bits);
    const length = 13 * 7 * channels;
    const data =
      bits === 8 ? Uint8Array.from({ length }, () => random() * 256) : Uint16Array.from({ length }, () => random() * 65536);
    const back = decodePng(encodePng({ width: 13, height: 7, channels, bits, data }, 'srgb'));
    expect({ ...back, data: [...back.data] }).toEqual({ width: 13, height: 7, channels, bits, data: [...data] });
  });

  test('colour is tagged as sRGB, data is not', () => {
    const picture = { width: 1, height: 1, channels: 3 as const, bits: 8 as const, data: Uint8Array.of(1, 2, 3) };
    expect(new TextDecoder('latin1').decode(encodePng(picture, 'srgb'))).toContain('sRGB');
    expect(new TextDecoder('latin1').decode(encodePng(picture))).not.toContain('sRGB');
  });

  test('8 bit grey becomes exact 16 bit value with full coverage', () => {
    expect([...toStored({ width: 2, height: 1, channels: 1, bits: 8, data: Uint8Array.of(0, 200) }, 2)]).toEqual([
      0,
      65535,
      200 * 257,
      65535,
    ]);
  });

  test('300 damaged PNGs end in a sentence or a picture, nothing else', () => {
    const good = encodePng({ width: 16, height: 16, channels: 4, bits: 8, data: new Uint8Array(1024).fill(9) });
    const random = seededRandom(21);
    for (let n = 0; n < 300; n++) {
      const bad = good.slice(0, random() < 0.4 ? Math.floor(random() * good.length) : good.length);
      for (let k = 0; k < 3; k++) bad[Math.floor(random() * bad.length)] = random() * 256;
      try {
        const p = decodePng(bad);
        expect(p.data.length).toBe(p.width * p.height * p.channels);
      } catch (error) {
        expect(error).toBeInstanceOf(PictureError);
      }
    }
  });

  test('a picture that says it is enormous is refused before it is unpacked', () => {
    const bad = encodePng({ width: 1, height: 1, channels: 1, bits: 8, data: Uint8Array.of(0) });
    new DataView(bad.buffer, bad.byteOffset).setUint32(16, 4_000_000_000);
    expect(() => decodePng(bad)).toThrow(/4000000000 × 1/);
  });
});

describe('zip archives', () => {
  test('files survive, and the same input gives the same bytes', () => {
    const files: [string, Uint8Array][] = [
      ['a/b.txt', strToU8('hello')],
      ['c.png', Uint8Array.of(1, 2, 3)],
    ];
    expect(readZip(writeZip(files), 'It')).toEqual(new Map(files));
    expect(writeZip(files)).toEqual(writeZip(files));
  });

  test.each([
    ['paths that point outside', zipSync({ '../evil': strToU8('x') }), /points outside/],
    ['absolute paths', zipSync({ '/etc/evil': strToU8('x') }), /points outside/],
    ['backslashes', zipSync({ 'a\\..\\evil': strToU8('x') }), /points outside/],
    ['bombs', zipSync({ bomb: new Uint8Array(80_000_000) }), /far more/],
    ['nothing', new Uint8Array(0), /empty/],
    ['other files', strToU8('not a zip at all'), /not a zip/],
    ['cut ones', zipSync({ a: strToU8('hello hello') }).slice(0, 30), /damaged or cut/],
  ])('%s are refused', (_what, bytes, says) => {
    expect(() => readZip(bytes, 'The file')).toThrow(ArchiveError);
    expect(() => readZip(bytes, 'The file')).toThrow(says);
  });
});

describe('piece files', () => {
  function bundle() {
    const sheet = newSheet('s', 'Canvas', 200, 150);
    sheet.layers = [newCoatLayer('g', 'Ground', { roughness: [0.4] }), newPaintedLayer('l', 'Hand')];
    const store = new TileStore();
    const random = seededRandom(2);
    for (const [map, channels] of [
      ['base-colour', 4],
      ['height', 2],
    ] as const) {
      const pixels = Uint16Array.from({ length: 200 * 150 * channels }, () => random() * 65536);
      for (const [tile, data] of tilesFromPicture(pixels, 200, 150, channels)) store.set(`l/${map}`, tile, { data, hash: null });
    }
    return { piece: newPiece('p', 'Tile', 'canvas', [sheet]), store, modelGlb: null, thumbnailPng: null };
  }
  const files = () => readZip(writePieceFile(bundle()), 'It');
  const pack = (entries: Map<string, Uint8Array>) => zipSync(Object.fromEntries(entries));

  test('a piece comes back whole: document and every texel', () => {
    const a = bundle();
    const b = readPieceFile(writePieceFile(a));
    expect(b.piece).toEqual(a.piece);
    expect(b.store.planeKeys().sort()).toEqual(a.store.planeKeys().sort());
    for (const plane of a.store.planeKeys())
      for (const [tile, v] of a.store.tilesOf(plane)) expect(b.store.data(plane, tile)).toEqual(v.data);
  });

  test('planes are 8-bit where each sample is a whole step of 8 bits, and come back the same', () => {
    const a = bundle();
    // One of the two planes: the other keeps its 16 bits.
    for (const [tile, { data }] of a.store.tilesOf('l/height'))
      a.store.set('l/height', tile, { data: data!.map((v) => (v >> 8) * 257), hash: null });
    const bytes = writePieceFile(a);
    const bits = (path: string) => decodePng(readZip(bytes, 'It').get(path)!).bits;
    expect([bits('planes/l/height.png'), bits('planes/l/base-colour.png')]).toEqual([8, 16]);
    const { store } = readPieceFile(bytes);
    for (const plane of a.store.planeKeys())
      for (const [tile, v] of a.store.tilesOf(plane)) expect(store.data(plane, tile)).toEqual(v.data);
  });

  test('pictures of its pinboard go with it: those that it names', () => {
    const hash = 'ab'.repeat(32);
    const of = (picture: string) =>
      pinSchema.parse({ id: 'n', name: 'Quay', picture, width: 4, height: 4, x: 0, y: 0, scale: 1 });
    const a = bundle();
    const webp = Uint8Array.of(1, 2, 3, 4);
    const b = readPieceFile(
      writePieceFile({
        ...a,
        piece: { ...a.piece, pins: [of(hash)] },
        pinned: new Map([
          [hash, webp],
          ['cd'.repeat(32), webp],
        ]),
      }),
    );
    expect([...b.pinned!]).toEqual([[hash, webp]]);
    // One that is lost leaves the rest as it is.
    const lost = readPieceFile(writePieceFile({ ...a, piece: { ...a.piece, pins: [of(hash)] } }));
    expect(lost.pinned!.size).toBe(0);
    expect(lost.piece.pins.length).toBe(1);
  });

  test.each<[string, (f: Map<string, Uint8Array>) => void, RegExp]>([
    ['no document', (f) => void f.delete('piece.json'), /piece\.json/],
    ['a document in UTF-16', (f) => void f.set('piece.json', Uint8Array.of(0xff, 0xfe, 0x7b, 0)), /JSON in UTF-8/],
    ['a newer document', (f) => void f.set('piece.json', strToU8('{"version":77}')), /newer/],
    ['a plane of no layer', (f) => void f.set('planes/x/height.png', f.get('planes/l/height.png')!), /no painted layer/],
    ['a damaged plane', (f) => void f.set('planes/l/height.png', f.get('planes/l/height.png')!.slice(0, 60)), /damaged/],
    [
      'a model piece without model',
      (f) =>
        void f.set(
          'piece.json',
          strToU8(
            new TextDecoder()
              .decode(f.get('piece.json')!)
              .replace('"canvas"', '"model"')
              .replace('"model": null', '"model": {"blob":"","uvSet":0}'),
          ),
        ),
      /model\.glb/,
    ],
  ])('%s is refused in one sentence', (_what, spoil, says) => {
    const f = files();
    spoil(f);
    expect(() => readPieceFile(pack(f))).toThrow(PieceFileError);
    expect(() => readPieceFile(pack(f))).toThrow(says);
  });
});
