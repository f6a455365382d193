import { readZip } from '@/core/codec/zip';
import type { Recorded } from '@/engine/keeping/journal/journal';
import { asideFile } from '../asideFile';

test('a change as a file: what was asked for as JSON, pixels beside it', () => {
  const entry: Recorded = {
    id: 'e1',
    pieceId: 'p',
    client: 'c',
    at: Date.UTC(2026, 10, 26),
    label: 'Lay down 3 pictures',
    intent: { type: 'layers', what: { do: 'pictures', pictures: [{ data: Uint16Array.of(1, 2, 515) }] } },
    whole: true,
    step: null,
    packed: null,
    aside: { why: 'It is too large.' },
    samples: [],
  };
  const [bytes, name] = asideFile(entry);
  expect(name).toBe('lay-down-3-pictures.zip');
  const files = readZip(bytes, name);
  const json = JSON.parse(new TextDecoder().decode(files.get('change.json'))) as Record<string, never>;
  expect(json).toMatchObject({
    brindle: 'change',
    piece: 'p',
    why: 'It is too large.',
    at: '2026-11-26T00:00:00.000Z',
    intent: { what: { pictures: [{ data: { file: 'data-1.bin', type: 'Uint16Array' } }] } },
  });
  expect([...files.get('data-1.bin')!]).toEqual([1, 0, 2, 0, 3, 2]);
});
