import { newCoatLayer, newGroup, newPaintedLayer } from '@/core/document/factory';
import type { Layer } from '@/core/document/schema';
import { rowsOf } from '../rows';

/** Bottom first, members right before their group. */
const layers: Layer[] = [
  newCoatLayer('ground', 'Ground', {}, ['base-colour']),
  { ...newPaintedLayer('moss', 'Moss'), parent: 'joints' },
  { ...newGroup('joints', 'Joints', ['base-colour']), parent: 'stones' },
  { ...newPaintedLayer('chips', 'Chips'), parent: 'stones', note: 'the harbour side' },
  newGroup('stones', 'Stones', ['base-colour']),
  newPaintedLayer('hand', 'Hand'),
];
const shown = (collapsed: string[], search = '') =>
  rowsOf(layers, collapsed, search).map(({ layer, depth }) => `${depth} ${layer.id}`);

describe('rows of the table', () => {
  test('run from the top down, members under their group and one step in', () => {
    expect(shown([])).toEqual(['0 hand', '0 stones', '1 chips', '1 joints', '2 moss', '0 ground']);
  });

  test('what is folded hides all that is in it, at any depth', () => {
    expect(shown(['joints'])).toEqual(['0 hand', '0 stones', '1 chips', '1 joints', '0 ground']);
    expect(shown(['stones'])).toEqual(['0 hand', '0 stones', '0 ground']);
    expect(shown(['stones', 'joints'])).toEqual(['0 hand', '0 stones', '0 ground']);
  });

  test('a search finds names, notes and kinds, shows the groups around a hit and looks into folded ones', () => {
    expect(shown(['stones', 'joints'], ' MOSS ')).toEqual(['0 stones', '1 joints', '2 moss']);
    expect(shown([], 'harbour')).toEqual(['0 stones', '1 chips']);
    expect(shown([], 'coat')).toEqual(['0 ground']);
    expect(shown([], 'nothing of that name')).toEqual([]);
  });
});
