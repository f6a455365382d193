import { guideLines, nextGuide, NO_GUIDES } from '../guides';

describe('guides', () => {
  test('thirds cut both sides in three, squares lie side by side', () => {
    expect(guideLines('thirds', 5, 300, 90)).toEqual([
      [100, 0, 100, 90],
      [0, 30, 300, 30],
      [200, 0, 200, 90],
      [0, 60, 300, 60],
    ]);
    const lines = guideLines('square', 8, 256, 128);
    expect(lines.filter(([a, , b]) => a === b).map(([x]) => x)).toEqual([32, 64, 96, 128, 160, 192, 224]);
    expect(lines.filter(([, a, , b]) => a === b).map(([, y]) => y)).toEqual([32, 64, 96]);
    expect(guideLines('none', 8, 256, 128)).toEqual([]);
  });

  test.each([
    [8, 512, 512],
    [12, 512, 128],
    [3, 100, 700],
  ])('isometric lines with %i cells over %i × %i stay on the sheet and rise one in two', (count, width, height) => {
    const lines = guideLines('isometric', count, width, height);
    expect(lines.length).toBeGreaterThan(count);
    for (const [x1, y1, x2, y2] of lines) {
      for (const x of [x1, x2]) expect(x >= -1e-6 && x <= width + 1e-6).toBe(true);
      for (const y of [y1, y2]) expect(y >= -1e-6 && y <= height + 1e-6).toBe(true);
      if (x1 !== x2 && Math.abs(x2 - x1) > 1e-6) expect(Math.abs((y2 - y1) / (x2 - x1))).toBeCloseTo(0.5, 6);
    }
  });

  test('the key goes round all kinds, and to a picture only where there is one', () => {
    const round = (picture: string | null) => {
      const seen: string[] = [];
      for (let g = { ...NO_GUIDES, picture }, n = 0; n < 5; n++) {
        g = { ...g, kind: nextGuide(g) };
        seen.push(g.kind);
      }
      return seen;
    };
    expect(round(null)).toEqual(['square', 'isometric', 'thirds', 'none', 'square']);
    expect(round('data:')).toEqual(['square', 'isometric', 'thirds', 'picture', 'none']);
  });
});
