/** Brushes in words. */
import { brushSchema } from '@/core/hand/brush';
import { DRIVER_TYPES, VARIED, VARIED_TYPES, varySchema, type Vary } from '@/core/hand/vary';
import { startLine } from '../Lines';
import { brushSentence, lineWords } from '../sentences';

const line = (over: Partial<Vary> & Pick<Vary, 'what' | 'by' | 'amount'>): Vary => varySchema.parse(over);

test.each<[Partial<Vary> & Pick<Vary, 'what' | 'by' | 'amount'>, string]>([
  [{ what: 'size', by: 'pressure', amount: 1 }, 'by pressure'],
  [{ what: 'size', by: 'pressure', amount: 0.6 }, 'from 40 % by pressure'],
  [{ what: 'flow', by: 'speed', amount: -0.5 }, 'down to 50 % by speed'],
  [{ what: 'size', by: 'dab', amount: 0.15 }, '± 15 % each dab'],
  [{ what: 'size', by: 'length', amount: -1, over: 60, unit: 'millimetres' }, 'to nothing over 6 cm'],
  [{ what: 'opacity', by: 'length', amount: 0.8, over: 4.5 }, 'from 20 % over 4.5 diameters'],
  [{ what: 'angle', by: 'direction', amount: 0 }, 'follows the stroke'],
  [{ what: 'angle', by: 'stroke', amount: 15 }, '± 15° each stroke'],
  [{ what: 'angle', by: 'tilt', amount: -90 }, 'up to −90° by tilt'],
  [{ what: 'across', by: 'dab', amount: 0.5 }, '± 0.5 diameters each dab'],
])('%j reads "%s"', (what, words) => expect(lineWords(line(what))).toBe(words));

test('a brush says one sentence for each thing, and what its tip is where it is not round', () => {
  const sentence = (over: object) => brushSentence(brushSchema.parse(over));
  expect(sentence({})).toBe('Size by pressure.');
  expect(sentence({ vary: [] })).toBe('The same in every dab.');
  expect(
    sentence({
      tip: { shape: 'square', grid: true },
      vary: [
        { what: 'size', by: 'pressure', amount: 1 },
        { what: 'angle', by: 'direction', amount: 0 },
        { what: 'size', by: 'dab', amount: 0.1 },
      ],
    }),
  ).toBe('Square, on the texel grid. Size by pressure, ± 10 % each dab. Angle follows the stroke.');
  expect(sentence({ tip: { roundness: 0.3 }, vary: [] })).toBe('Oval.');
});

test('whatever is chosen, a line starts as one that a brush takes and that says something', () => {
  for (const what of VARIED_TYPES)
    for (const by of DRIVER_TYPES) {
      const start = startLine(what, by);
      expect(varySchema.parse(start)).toEqual(start);
      expect(`${VARIED[what].label} ${lineWords(start)}`).not.toMatch(/undefined|NaN/);
    }
});
