import { guarded, refuse } from '@/server/access';
import { cancelBake, tilesOfBake } from '@/server/bakes/requests';

type Context = { params: Promise<{ key: string }> };

const withKey = (work: (key: string) => Promise<Response>) =>
  guarded<Context>(async (_, { params }) => {
    const { key } = await params;
    return /^[0-9a-f]{64}$/.test(key) ? work(key) : refuse(400, 'This is no key of a bake.');
  });

/** The tiles of one that is done. */
export const GET = withKey(async (key) => {
  const found = await tilesOfBake(key);
  return found ? Response.json(found) : refuse(404, 'This bake is not done, or is not there any more: bake it again.');
});

/** Cancels it. */
export const DELETE = withKey(async (key) =>
  (await cancelBake(key)) ? Response.json({ cancelled: true }) : refuse(409, 'This bake does not run any more.'),
);
