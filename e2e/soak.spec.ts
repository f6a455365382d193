/** The soak itself: kills of the browser lose nothing, and a fault that is put in on purpose is found. */
import { expect, test } from '@playwright/test';
import { seededRandom } from '../src/core/testing/models';
import { FAULTS, type Fault } from '../cli/soak/faults';
import { Soak, type SoakServer, type SoakOptions } from '../cli/soak/soak';
import { address } from './app';
import { importPiece } from './helpers';

test.setTimeout(600_000);

const never = () => Promise.reject(new Error('The application of the tests is not killed.'));
const server = (): SoakServer => ({
  address: address(),
  killApplication: never,
  startApplication: never,
  killDatabase: never,
  startDatabase: never,
});

const insert: SoakOptions['insert'] = (bundle) => importPiece({ ...bundle, thumbnailPng: null });

/** What is lost first in so many rounds; null: nothing. */
async function firstLoss(rounds: number, seed: number, fault?: Fault): Promise<string | null> {
  const soak = new Soak(server(), { random: seededRandom(seed), kills: ['browser'], size: 256, fault, insert });
  try {
    for (let n = 0; n < rounds; n++) {
      const { loss } = await soak.round();
      if (loss) return loss;
    }
    return null;
  } finally {
    await soak.stop();
  }
}

test('nothing is lost', async () => expect(await firstLoss(2, 9)).toBeNull());

for (const fault of FAULTS) test(`a fault is found: ${fault}`, async () => expect(await firstLoss(8, 9, fault)).not.toBeNull());
