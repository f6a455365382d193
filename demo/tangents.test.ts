import { againstReference } from '../src/core/testing/tangents';
import { lanternModel } from './lanternModel';
import { tortoiseModel } from './tortoiseModel';

it.each([
  ['the lantern', lanternModel()],
  ['the tortoise', tortoiseModel()],
])('tangents of %s are those of the reference at every corner', (_, model) => {
  // Slivers that meet at a pole have no angle to speak of there: the reference's float32 decides.
  const { worst, apart, turned } = againstReference(model);
  expect(apart).toBeLessThan(0.005);
  expect(worst).toBeLessThan(0.1);
  expect(turned).toBe(0);
});
