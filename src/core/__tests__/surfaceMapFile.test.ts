/** A surface map that was kept is the same as one that is made, or is none. */
import { buildSurfaceMap } from '../mesh/surfaceMap/build';
import { readSurfaceMap, writeSurfaceMap, type MapFile } from '../mesh/surfaceMap/file';
import { buildIslands, buildTopology } from '../mesh/topology';
import { boxModel, cubeModel } from '../testing/models';

class Bytes implements MapFile {
  bytes = new Uint8Array(0);
  room = Infinity;
  read(into: Uint8Array<ArrayBuffer>, { at }: { at: number }): number {
    const part = this.bytes.subarray(at, at + into.length);
    into.set(part);
    return part.length;
  }
  write(from: Uint8Array<ArrayBuffer>, { at }: { at: number }): number {
    if (this.room-- <= 0) throw new Error('No room');
    if (at + from.length > this.bytes.length) {
      const grown = new Uint8Array(at + from.length);
      grown.set(this.bytes);
      this.bytes = grown;
    }
    this.bytes.set(from, at);
    return from.length;
  }
  flush(): void {}
}

const model = cubeModel();
const input = {
  model,
  islands: buildIslands(model, buildTopology(model), model.uvs[0]),
  uv: model.uvs[0],
  materialIndex: 0,
  width: 200,
  height: 160,
};

describe('surface maps as files', () => {
  const map = buildSurfaceMap(input);
  const file = new Bytes();
  for (const _ of writeSurfaceMap(map, file));

  test('come back number for number', () => {
    const again = readSurfaceMap(file, input)!;
    expect(Object.keys(again).sort()).toEqual(Object.keys(map).sort());
    expect([...again.tiles.keys()]).toEqual([...map.tiles.keys()]);
    for (const [index, tile] of map.tiles) expect(again.tiles.get(index)).toEqual(tile);
    const rest = ({ width, height, gutterTexels, texelsPerMetre, faceBlockStart, faceBlocks, blockBounds, shadowed, cornersTexels }: typeof map) => ({ width, height, gutterTexels, texelsPerMetre, faceBlockStart, faceBlocks, blockBounds, shadowed, cornersTexels }); // prettier-ignore
    expect(rest(again)).toEqual(rest(map));
  });

  test('are none where the file was not finished, wherever it ended', () => {
    for (let writes = 0; ; writes++) {
      const cut = new Bytes();
      cut.room = writes;
      try {
        for (const _ of writeSurfaceMap(map, cut));
        expect(writes).toBeGreaterThan(8);
        break;
      } catch {
        expect(readSurfaceMap(cut, input)).toBeNull();
      }
    }
    for (const length of [0, 3, 16, 200, file.bytes.length - 1]) {
      const short = new Bytes();
      short.bytes = file.bytes.slice(0, length);
      expect(readSurfaceMap(short, input)).toBeNull();
    }
  });

  test('are none for another size, another model, or another layout', () => {
    expect(readSurfaceMap(file, { ...input, width: 201 })).toBeNull();
    const other = boxModel(1, 2, 3);
    expect(readSurfaceMap(file, { ...input, model: { ...other, indices: other.indices.slice(3) } })).toBeNull();
    const later = new Bytes();
    later.bytes = Uint8Array.from(file.bytes);
    const at = Buffer.from(later.bytes).indexOf('"version":1') + 10;
    later.bytes[at] = 0x32;
    expect(readSurfaceMap(later, input)).toBeNull();
  });
});
