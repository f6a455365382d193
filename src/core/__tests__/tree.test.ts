import { newEchoLayer, newGroup, newMask, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { parsePiece, stepSchema } from '../document/schema';
import type { Layer } from '../document/layer';
import { ancestors, arranged, arrangementOf, block, whyUnmakeable, moved, outermost, strayLayer } from '../document/tree';
import { seededRandom } from '../testing/models';

const within = (parent: string | null, layer: Layer): Layer => ({ ...layer, parent });
const paint = (id: string, parent: string | null = null) => within(parent, newPaintedLayer(id, id));
const group = (id: string, parent: string | null = null) => within(parent, newGroup(id, id));

/** Bottom first: a · [b · [c d] i] o · e */
const tree = () => [paint('a'), paint('b', 'o'), paint('c', 'i'), paint('d', 'i'), group('i', 'o'), group('o'), paint('e')];
const ids = (layers: readonly Layer[] | null) => layers?.map((l) => `${l.parent ?? ''}/${l.id}`).join(' ');

describe('layers as a tree', () => {
  test('a block is a group with all in it', () => {
    expect(block(tree(), 'o').map((l) => l.id)).toEqual(['b', 'c', 'd', 'i', 'o']);
    expect(block(tree(), 'c').map((l) => l.id)).toEqual(['c']);
    expect(ancestors(tree(), 'c').map((l) => l.id)).toEqual(['i', 'o']);
    expect(outermost(tree(), ['c', 'i', 'e']).map((l) => l.id)).toEqual(['i', 'e']);
  });

  test('moving takes a block along, into a group, out of it, and to its own place', () => {
    expect(ids(moved(tree(), ['i'], { parent: null, above: 'e' }))).toBe('/a o/b /o /e i/c i/d /i');
    expect(ids(moved(tree(), ['e'], { parent: 'i', above: 'c' }))).toBe('/a o/b i/c i/e i/d o/i /o');
    expect(ids(moved(tree(), ['a'], { parent: 'o', above: null }))).toBe('o/a o/b i/c i/d o/i /o /e');
    expect(ids(moved(tree(), ['d'], { parent: 'i', above: 'd' }))).toBe(ids(tree()));
    expect(ids(moved(tree(), ['a', 'c'], { parent: null, above: 'e' }))).toBe('o/b i/d o/i /o /e /a /c');
  });

  test('a group cannot go into itself', () => {
    expect(moved(tree(), ['o'], { parent: 'i', above: null })).toBeNull();
  });

  test('random moves keep every layer and a sound order, and an arrangement brings the first order back', () => {
    const random = seededRandom(17);
    const first = tree();
    let now: Layer[] = first;
    for (let n = 0; n < 400; n++) {
      const layer = now[Math.floor(random() * now.length)];
      const groups = [null, 'i', 'o'];
      const parent = groups[Math.floor(random() * 3)];
      const members = now.filter((l) => l.parent === parent);
      const above = random() < 0.3 || members.length === 0 ? null : members[Math.floor(random() * members.length)].id;
      now = moved(now, [layer.id], { parent, above }) ?? now;
      expect(strayLayer(now)).toBeNull();
      expect(now.map((l) => l.id).toSorted()).toEqual(['a', 'b', 'c', 'd', 'e', 'i', 'o']);
    }
    expect(arranged(now, arrangementOf(first))).toEqual(first);
  });

  test('what is out of order is named', () => {
    expect(strayLayer(tree())).toBeNull();
    expect(strayLayer([paint('a', 'g'), paint('b'), group('g')])).toContain('"a"');
    expect(strayLayer(Array.from({ length: 40 }, (_, n) => group(`g${39 - n}`, n === 39 ? null : `g${38 - n}`)))).toContain(
      'deep',
    );
  });

  test('echoes of themselves are found through groups and through each other', () => {
    const echo = (id: string, of: string, parent: string | null = null) =>
      within(parent, newEchoLayer(id, id, of, 'height', ['height']));
    expect(whyUnmakeable([paint('a'), echo('e', 'a')])).toBeNull();
    expect(whyUnmakeable([echo('e', 'g', 'g'), group('g')])).toContain('would echo itself');
    expect(whyUnmakeable([echo('e', 'f'), echo('f', 'e')])).toContain('would echo itself');
    expect(whyUnmakeable([echo('e', 'g'), echo('f', 'e', 'g'), group('g')])).toContain('would echo itself');
    expect(whyUnmakeable([echo('e', 'gone')])).toBeNull();
  });
});

describe('stacks that would never be done', () => {
  const TOO_MUCH = /would be made of more than 100,000 layers/;

  test('echoes of groups of two echoes, and so on: each doubles the work', () => {
    const doubling = (levels: number) => {
      const layers: Layer[] = [paint('0')];
      for (let n = 1; n <= levels; n++)
        layers.push(
          within(`${n}`, newEchoLayer(`${n}a`, 'a', `${n - 1}`, 'base-colour', ['base-colour'])),
          within(`${n}`, newEchoLayer(`${n}b`, 'b', `${n - 1}`, 'base-colour', ['base-colour'])),
          group(`${n}`),
        );
      return layers;
    };
    expect(whyUnmakeable(doubling(10))).toBeNull();
    expect(whyUnmakeable(doubling(60))).toMatch(TOO_MUCH);
  });

  test('masks that each look at two others', () => {
    const masks = (levels: number) =>
      Array.from({ length: levels }, (_, n) => {
        const mask = newMask(`m${n}`, `Mask ${n}`, 0);
        const source = n === 0 ? { type: 'below', map: 'height', by: 'luminance' } : { type: 'mask', of: `m${n - 1}` };
        return { ...mask, steps: ['a', 'b'].map((id) => stepSchema.parse({ id: `${n}${id}`, source })) };
      });
    const on = (levels: number) => [paint('a'), { ...paint('b'), mask: { id: `m${levels - 1}`, on: true } }];
    expect(whyUnmakeable(on(8), masks(8))).toBeNull();
    expect(whyUnmakeable(on(60), masks(60))).toMatch(TOO_MUCH);
  });

  test('a thousand layers with masks that look at what is below are nothing of the kind', () => {
    const mask = {
      ...newMask('m', 'Contact', 0),
      steps: [stepSchema.parse({ id: 's', source: { type: 'contact', offset: 0, contrast: 1, line: 0 } })],
    };
    const layers = Array.from({ length: 1000 }, (_, n) => ({ ...paint(`l${n}`), mask: { id: 'm', on: true } }));
    expect(whyUnmakeable(layers, [mask])).toBeNull();
  });

  test('a file with such a stack is refused with that sentence', () => {
    const layers: Layer[] = [paint('0')];
    for (let n = 1; n <= 40; n++)
      layers.push(
        within(`${n}`, newEchoLayer(`${n}a`, 'a', `${n - 1}`, 'base-colour', ['base-colour'])),
        within(`${n}`, newEchoLayer(`${n}b`, 'b', `${n - 1}`, 'base-colour', ['base-colour'])),
        group(`${n}`),
      );
    const piece = newPiece('p', 'P', 'canvas', [{ ...newSheet('s', 'S', 64, 64), layers }]);
    const parsed = parsePiece(JSON.parse(JSON.stringify(piece)));
    expect(parsed.ok).toBe(false);
    expect(JSON.stringify(parsed)).toMatch(TOO_MUCH);
  });
});
