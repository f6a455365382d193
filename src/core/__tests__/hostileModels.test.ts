/** Small files that make much work: each is read, or refused with a sentence, before anything large is allocated or gone through. */
import { ModelError } from '../mesh/model';
import { readModel } from '../mesh/readModel';

const TRIANGLE = 'v 0 0 0\nv 1 0 0\nv 0 1 0\n';
const lines = (count: number, line: (n: number) => string) => Array.from({ length: count }, (_, n) => line(n)).join('');
const read = (name: string, text: string) => readModel(new Map([[name, new TextEncoder().encode(text)]]));

test.each<[string, string, () => string, RegExp]>([
  ['300,000 groups', 'a.obj', () => TRIANGLE + lines(300_000, (n) => `g p${n}\nf 1 2 3\n`), /more than 4096 parts: join some/],
  [
    '300,000 materials',
    'a.obj',
    () => TRIANGLE + lines(300_000, (n) => `usemtl m${n}\nf 1 2 3\n`),
    /more than 256 materials.*merge some/,
  ],
  [
    'a face of 60,000 corners, crossing itself',
    'a.obj',
    () =>
      `${lines(60_000, (n) => `v ${Math.cos(n * 2.4) * n} ${Math.sin(n * 2.4) * n} 0\n`)}f ${lines(60_000, (n) => `${n + 1} `)}\n`,
    /very many corners.*triangulate it/,
  ],
  [
    'a thousand faces of 2,000 corners',
    'a.obj',
    () => `${lines(2000, (n) => `v ${n} ${n * n} 0\n`)}${`f ${lines(2000, (n) => `${n + 1} `)}\n`.repeat(1000)}`,
    /very many corners.*triangulate it/,
  ],
  ['solids that never end', 'a.stl', () => 'solid '.repeat(2_000_000), /no triangles/],
  ['faces that never end', 'a.stl', () => `solid a\n${'facet '.repeat(2_000_000)}\nendsolid a\n`, /no triangles/],
  ['two corners of three', 'a.stl', () => 'solid a\nvertex 0 0 0\nvertex 1 0 0\nendsolid\n', /does not fit/],
  [
    'three million nodes',
    'a.gltf',
    () => `{"asset":{"version":"2.0"},"nodes":[${'{},'.repeat(3_000_000)}{}]}`,
    /declares more than 2,000,000 things: split the model/,
  ],
])('%s', async (_, name, text, sentence) => {
  const failure = await read(name, text()).then(
    () => null,
    (error: unknown) => error,
  );
  expect(failure).toBeInstanceOf(ModelError);
  expect((failure as Error).message).toMatch(sentence);
});

test('300,000 corners at one place that differ by their UVs are 300,000 vertices', async () => {
  const uvs = lines(300_000, (n) => `vt ${n / 300_000} 0\n`);
  const model = await read('a.obj', `${TRIANGLE}${uvs}${lines(300_000, (n) => `f 1/${n + 1} 2/1 3/1\n`)}`);
  expect(model.indices.length).toBe(900_000);
  expect(model.positions.length / 3).toBe(300_002);
});

test('an STL of text with two solids, names like keywords, tabs and other line ends', async () => {
  const facet = (z: number) =>
    `\tfacet normal 0 0 1\r\n outer loop\r\n\t\tvertex 0 0 ${z}\r\n vertex\t1 0 ${z}\r\n vertex 0 1e0 ${z}\r\n endloop\r\n endfacet\r\n`;
  const model = await read(
    'a.stl',
    `solid vertex 1 2 3\r\n${facet(0)}endsolid\r\nsolid facet\r\n${facet(1)}${facet(2)}endsolid facet\r\n`,
  );
  expect(model.indices.length).toBe(9);
  expect([...model.positions].filter((_, i) => i % 3 === 1).toSorted()).toEqual([0, 0, 0, 0, 0, 0, 1, 1, 1]);
});
