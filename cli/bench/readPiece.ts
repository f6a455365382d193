/** Run by the bench: reads one piece file as the server does, says how long it took and what it held. */
import { readFileSync } from 'node:fs';
import { Readable, Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createInflate } from 'node:zlib';
import { readZip } from '../../src/core/codec/zip';
import { layoutOf } from '../../src/core/codec/pngRows';
import { readPieceFileBy } from '../../src/core/piece/pieceFile';
import { readPngByNode } from '../../src/server/nodePng';
import { TileSink } from '../../src/server/tileSink';
import { peakMiB } from './memory';

const bytes = readFileSync(process.argv[2]);
const start = performance.now();
await readPieceFileBy(readPngByNode, bytes, 'It', new TileSink(256 * 1024 * 1024).take);
const seconds = (performance.now() - start) / 1000;
const mebibytes = peakMiB();
const before = performance.now();
for (const [name, png] of readZip(bytes, 'It'))
  if (name.endsWith('.png')) {
    const nowhere = new Writable({ write: (_chunk, _encoding, done) => done() });
    await pipeline(Readable.from(layoutOf(png, name).data), createInflate(), nowhere);
  }
process.stdout.write(JSON.stringify({ seconds, mebibytes, inflating: (performance.now() - before) / 1000 }));
