/** Every kind of bake of models that nobody should make, but everybody has: an answer within its range, whatever they are like. */
import '../compute';
import { BAKES, BAKE_TYPES } from '../kinds/bakes';
import type { Model } from '../mesh/model';
import { baked, ballModel, together } from '../testing/baked';
import { boxModel, cubeModel, seededRandom } from '../testing/models';

const cube = cubeModel();
const change = (over: Partial<Model>): Model => ({ ...cube, ...over });
/** The faces of a model once more, with the corners of each as `turn` says. */
const withFaces = (model: Model, more: Uint32Array): Model => {
  const faces = more.length / 3;
  return {
    ...model,
    indices: Uint32Array.from([...model.indices, ...more]),
    facePart: Uint16Array.from([...model.facePart, ...new Uint16Array(faces)]),
    faceMaterial: Uint16Array.from([...model.faceMaterial, ...new Uint16Array(faces)]),
  };
};
const inverted = (m: Model): Model => ({
  ...m,
  indices: m.indices.map((_, i, all) => all[i % 3 === 1 ? i + 1 : i % 3 === 2 ? i - 1 : i]),
  normals: m.normals.map((v) => -v),
});

const BAD: Record<string, Model> = {
  'with an edge of four faces': withFaces(cube, Uint32Array.of(0, 1, 10, 0, 1, 14)),
  open: change({
    indices: cube.indices.slice(0, 15),
    facePart: cube.facePart.slice(0, 5),
    faceMaterial: cube.faceMaterial.slice(0, 5),
  }),
  'inside out': inverted(cube),
  'inside out in its corners alone': { ...inverted(cube), normals: cube.normals },
  'through itself': together(boxModel(1, 1, 1), boxModel(0.4, 2, 0.4)),
  'twice in one place': together(boxModel(1, 1, 1), boxModel(1, 1, 1)),
  'with faces of no area': withFaces(cube, Uint32Array.of(0, 0, 1, 2, 2, 2, 4, 5, 4)),
  'with normals of length zero': change({ normals: new Float32Array(cube.normals.length) }),
  'very large': change({ positions: cube.positions.map((v) => v * 1e6) }),
  'very small': change({ positions: cube.positions.map((v) => v * 1e-5) }),
  'far from the middle': change({ positions: cube.positions.map((v) => v + 1000) }),
  flat: change({ positions: cube.positions.map((v, i) => (i % 3 === 1 ? 0 : v)) }),
  'of random faces': (() => {
    const random = seededRandom(9);
    const model = ballModel(1, 6, 8);
    return { ...model, positions: model.positions.map(() => random() - 0.5) };
  })(),
};

test.each(Object.entries(BAD))('a model %s', (_, model) => {
  for (const type of BAKE_TYPES) {
    const { from, start } = BAKES[type];
    const settings = { ...start, ...('samples' in start && { samples: 8 }), ...('radius' in start && { radius: 0.1 }) };
    for (const twin of [from.model ? undefined : null, from.twin ? model : null]) {
      if (twin === null) continue;
      const out = baked(model, settings, { size: 32, twin, reach: { outward: 0.5, inward: 0.5 } });
      out.each((value) => {
        for (const v of value) expect(v >= 0 && v <= 1).toBe(true);
      });
    }
  }
});
