/** The table of the last figures in docs/measured.md: one row a figure, replaced when it is measured again. */
import type { Result } from './result';

export const PAGE = 'docs/measured.md';
const BEGIN = '<!-- written by ./brindle bench --write -->';
const END = '<!-- end -->';

export const figure = (v: number): string => (Math.abs(v) >= 100 ? Math.round(v).toLocaleString('en') : v.toFixed(2));

/** In a cell of a Markdown table. */
const cell = (text: string): string => text.replaceAll('|', '\\|');

function row(r: Result, on: string): string {
  const cells = [
    `\`${r.name}\``,
    `${figure(r.value)} ${r.unit}`,
    `${r.reference}: ${figure(r.referenceValue)} ${r.unit}`,
    r.ratio.toFixed(2),
    on,
  ];
  return `| ${cells.map(cell).join(' | ')} |`;
}

/** The page with these results in its table. `on`: the day, as it is to be shown. Throws where the page has lost its table. */
export function withResults(page: string, results: readonly Result[], on: string): string {
  const [from, to] = [page.indexOf(BEGIN), page.indexOf(END)];
  if (from < 0 || to < from) throw new Error(`${PAGE} lacks the lines "${BEGIN}" and "${END}": put them back.`);
  const lines = page.slice(from + BEGIN.length, to).split('\n');
  const rows = new Map(lines.filter((l) => l.startsWith('| `')).map((l) => [l.slice(3, l.indexOf('`', 3)), l]));
  for (const r of results) rows.set(r.name, row(r, on));
  const table = [
    '| figure | value | reference in the same run | ratio | measured on |',
    '| --- | --- | --- | --- | --- |',
    ...rows.values(),
  ];
  return `${page.slice(0, from)}${BEGIN}\n${table.join('\n')}\n${page.slice(to)}`;
}
