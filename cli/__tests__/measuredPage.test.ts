import { withResults } from '../bench/measuredPage';
import { result } from '../bench/result';

const PAGE = `# Measured

<!-- written by ./brindle bench --write -->
| figure | value | reference in the same run | ratio | measured on |
| --- | --- | --- | --- | --- |
| \`old\` | 1.00 s | a copy: 2.00 s | 0.50 | 1 May 2026 |
| \`kept\` | 3.00 s | a copy: 2.00 s | 1.50 | 1 May 2026 |
<!-- end -->

More.
`;

test('figures that were measured again replace theirs, others stay, new ones come last', () => {
  const page = withResults(
    PAGE,
    [result('old', 1234.6, 'dabs/s', 'one | two', 617.3), result('new', 0.5, 's', 'alone', 1)],
    '2 May 2026',
  );
  expect(page).toBe(
    PAGE.replace(/\| `old`.*\n/, '| `old` | 1,235 dabs/s | one \\| two: 617 dabs/s | 2.00 | 2 May 2026 |\n').replace(
      '<!-- end -->',
      '| `new` | 0.50 s | alone: 1.00 s | 0.50 | 2 May 2026 |\n<!-- end -->',
    ),
  );
});

test('a page without its table is not written', () => {
  expect(() => withResults('# Measured\n', [], 'today')).toThrow(/put them back/);
});
