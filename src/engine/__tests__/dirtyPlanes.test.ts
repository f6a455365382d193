import { applyEdit, setLayerEdit, type Edit } from '../../core/document/edits';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import { TileStore } from '../../core/raster/tiles';
import { dirtyPlanesOf } from '../dirtyPlanes';
import { uvEdges } from '../geometry';

function house() {
  const sheet = newSheet('s', 'Sheet', 512, 512);
  sheet.layers = [newCoatLayer('g', 'Ground', { roughness: [0.4] }), newPaintedLayer('l', 'Hand'), newPaintedLayer('m', 'More')];
  const store = new TileStore();
  store.set('l/height', 3, { data: new Uint16Array(32768), hash: null });
  store.set('l/base-colour', 5, { data: new Uint16Array(65536), hash: null });
  return { piece: newPiece('p', 'Piece', 'canvas', [sheet]), store };
}
/** Planes and tiles that an edit makes out of date, as sorted words. */
function dirty(edit: (sheet: ReturnType<typeof newSheet>) => Edit): string[] {
  const { piece, store } = house();
  const found = dirtyPlanesOf(piece, applyEdit(piece, edit(piece.sheets[0])), [], store);
  const words = found.flatMap((d) => d.planes.map((p) => `${p} ${d.tiles === 'all' ? 'all' : [...d.tiles].join()}`));
  return [...new Set(words)].sort();
}

test('a painted layer makes only its own tiles out of date, plane by plane', () => {
  expect(dirty((s) => setLayerEdit(s, s.layers[1], { opacity: 0.5 }))).toEqual(['colour 5', 'normal 3', 'surface 3']);
});

test('a coat makes the maps it writes out of date everywhere, and no others', () => {
  expect(dirty((s) => setLayerEdit(s, s.layers[0], { opacity: 0.5 }))).toEqual(['surface all']);
});

test('names, empty layers and hidden changes draw nothing again', () => {
  expect(dirty((s) => setLayerEdit(s, s.layers[1], { name: 'Other' }))).toEqual([]);
  expect(dirty((s) => setLayerEdit(s, s.layers[2], { opacity: 0.1 }))).toEqual([]);
  expect(dirty(() => ({ type: 'add-layer', sheetId: 's', index: 3, layer: newPaintedLayer('x', 'New') }))).toEqual([]);
});

test('a cell switched off touches its own map only; on height a blend mode changes nothing, since height adds', () => {
  const off = (s: ReturnType<typeof newSheet>) =>
    setLayerEdit(s, s.layers[1], { cells: { ...s.layers[1].cells, height: { on: false } } });
  expect(dirty(off)).toEqual(['normal 3', 'surface 3']);
  expect(dirty((s) => setLayerEdit(s, s.layers[1], { blend: 'screen' }))).toEqual(['colour 5']);
});

test('the height range changes the normal alone', () => {
  expect(
    dirty((s) => ({ type: 'set-sheet', sheetId: 's', before: { heightSpan: s.heightSpan }, after: { heightSpan: 0.1 } })),
  ).toEqual(['normal all']);
});

test('each UV edge is drawn once', () => {
  const square = Float32Array.of(0, 0, 64, 0, 64, 64, 0, 0, 64, 64, 0, 64);
  expect(uvEdges(square, 64, 64).length / 4).toBe(5);
  expect(uvEdges(Float32Array.of(NaN, NaN, NaN, NaN, NaN, NaN), 64, 64).length).toBe(0);
});
