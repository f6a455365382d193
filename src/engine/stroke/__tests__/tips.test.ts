/** Strokes with pictures of tips that lie on the server. */
import { encodePng } from '../../../core/codec/png';
import type { Brush } from '../../../core/hand/brush';
import type { PageRequest } from '../../protocol';
import { at, brush, Server, makeEngine, startPiece } from '../../testing/server';

const ID = 'ab'.repeat(32);
/** Left half paints. */
const half = encodePng({
  width: 64,
  height: 64,
  channels: 1,
  bits: 8,
  data: Uint8Array.from({ length: 4096 }, (_, i) => (i % 64 < 32 ? 255 : 0)),
});
const tipped: Brush = {
  ...brush,
  size: 40,
  vary: [],
  hardness: 1,
  flow: 1,
  tip: { shape: 'picture', roundness: 1, angle: 0, grid: false, picture: ID },
};
const begin = {
  type: 'stroke-begin',
  sheetId: 's',
  layerId: 'l',
  brush: tipped,
  samples: [at(100, 100)],
  at: 0,
} satisfies PageRequest;

async function painted(server: Server): Promise<{ notices: string[]; left: number; right: number }> {
  const a = makeEngine(server);
  await a.open();
  await a.send(begin);
  await a.send({ type: 'stroke-end', samples: [], at: 1 });
  await a.engine.settled();
  const notices = a.events.flatMap((e) => (e.type === 'notice' ? [e.message] : []));
  const data = a.engine.open.store.data('l/base-colour', 0);
  const alpha = (x: number) => data?.[(100 * 128 + x) * 4 + 3] ?? 0;
  return { notices, left: alpha(88), right: alpha(112) };
}

test('the picture is fetched before the first dab, and only once', async () => {
  const server = new Server(startPiece());
  server.tips.set(ID, half);
  let asked = 0;
  server.faults = (what) => {
    if (what === 'tip') asked++;
    return null;
  };
  expect(await painted(server)).toEqual({ notices: [], left: 65535, right: 0 });
  expect(asked).toBe(1);
});

test('one that the server has lost is said once, and painted round', async () => {
  const { notices, left, right } = await painted(new Server(startPiece()));
  expect(notices).toEqual([expect.stringMatching(/lost on the server/)]);
  expect([left, right]).toEqual([65535, 65535]);
});

test('while the server does not answer nothing is painted with it, and it is said', async () => {
  const server = new Server(startPiece());
  server.tips.set(ID, half);
  server.faults = (what) => (what === 'tip' ? 'lost' : null);
  const { notices, left, right } = await painted(server);
  expect([left, right]).toEqual([0, 0]);
  expect(notices).toHaveLength(1);
  server.faults = null;
  expect(await painted(server)).toMatchObject({ notices: [], left: 65535, right: 0 });
});
