/** The demo models with their baked normals look like their dense twins. */
import { litPsnr } from './litPsnr';
import { lanternModel } from './lanternModel';
import { tortoiseModel } from './tortoiseModel';
import { lanternTwin, tortoiseTwin } from './twins';

test.each([
  ['lantern', lanternModel, lanternTwin],
  ['tortoise', tortoiseModel, tortoiseTwin],
])('the %s lit with its baked normals is as its twin is to 35 dB, and farther from it without them', (_, low, twin) => {
  const { decibels, without, share } = litPsnr(low(), twin(), { size: 768, side: 128 });
  expect(decibels).toBeGreaterThan(35);
  expect(without).toBeLessThan(decibels - 4);
  expect(share).toBeGreaterThan(0.96);
});
