/** What ./brindle kinds lists, kinds that only a test knows included. */
import '../../src/core/testing/toys';
import { run } from '../kinds';

function printed(...args: string[]): Promise<string> {
  const out: string[] = [];
  const write = jest.spyOn(process.stdout, 'write').mockImplementation((text) => out.push(String(text)) > 0);
  return run(args)
    .finally(() => write.mockRestore())
    .then(() => out.join(''));
}

test('each registry is listed with its kinds, the toys at its end', async () => {
  const lists = JSON.parse(await printed('--json')) as Record<string, { type: string; label: string }[]>;
  const toys = Object.fromEntries(Object.entries(lists).map(([name, list]) => [name, list.at(-1)]));
  expect(toys).toEqual({
    maps: { type: 'toy-map', label: 'Toy map' },
    layers: { type: 'echo', label: 'an echo layer' },
    sources: { type: 'toy-source', label: 'Toy source' },
    adjustments: { type: 'toy-filter', label: 'Toy adjustment' },
    'mask steps': { type: 'toy-step', label: 'toy 0.5' },
    tools: { type: 'toy-tool', label: 'Toy tool' },
    areas: { type: 'toy-area', label: 'Toy area' },
    bakes: { type: 'toy-bake', label: 'Toy bake' },
    meters: { type: 'toy-meter', label: 'Toy meter' },
    outputs: { type: 'toy-output', label: 'Toy output' },
  });
  for (const list of Object.values(lists)) for (const { label } of list) expect(label).toMatch(/\w/);
});

test('for people: a line each below its registry', async () => {
  const text = await printed();
  expect(text).toMatch(/^maps\n {2}base-colour {6}Base colour\n/);
  expect(text).toMatch(/\nbakes\n {2}occlusion +Ambient occlusion\n/);
});
