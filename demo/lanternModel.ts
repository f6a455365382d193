/** The harbour lantern of Saltglass, as a mesh: brass frame, enamel cap, glass, rope ring. */
import type { Model } from '../src/core/mesh/model';
import { MeshScript, type Point } from './meshScript';

const METAL = 0;
const GLASS = 1;
const TAU = Math.PI * 2;

export function lanternModel(): Model {
  const m = new MeshScript([
    MeshScript.material('Metalwork', { baseColourLinear: [0.42, 0.25, 0.08, 1], metallic: 1, roughness: 0.4 }),
    MeshScript.material('Glass', {
      baseColourLinear: [0.75, 0.85, 0.8, 0.28],
      roughness: 0.05,
      seeThrough: true,
      doubleSided: true,
    }),
  ]);
  const base = m.part('Base');
  m.lathe(base, METAL, 48, [
    [0.0005, 0],
    [0.06, 0],
    [0.112, 0],
  ]);
  m.lathe(base, METAL, 48, [
    [0.112, 0],
    [0.118, 0.004],
    [0.121, 0.012],
    [0.119, 0.022],
    [0.112, 0.03],
    [0.104, 0.034],
    [0.1, 0.038],
    [0.099, 0.044],
    [0.101, 0.05],
    [0.104, 0.054],
  ]);
  m.lathe(base, METAL, 48, [
    [0.104, 0.054],
    [0.08, 0.054],
    [0.05, 0.057],
    [0.03, 0.062],
  ]);
  const burner = m.part('Burner');
  m.lathe(burner, METAL, 24, [
    [0.03, 0.062],
    [0.033, 0.07],
    [0.03, 0.08],
    [0.022, 0.086],
    [0.016, 0.094],
    [0.017, 0.1],
    [0.013, 0.104],
    [0.009, 0.116],
    [0.0005, 0.118],
  ]);
  const posts = m.part('Posts');
  for (let i = 0; i < 6; i++) {
    const a = ((i + 0.5) / 6) * TAU;
    const out: Point = [Math.sin(a), 0, Math.cos(a)];
    m.tube(
      posts,
      METAL,
      10,
      8,
      (t) => [out[0] * 0.096, 0.05 + 0.2 * t, out[2] * 0.096],
      () => out,
      () => 0.0052,
    );
  }
  const guards = m.part('Guards');
  for (const y of [0.115, 0.185])
    m.tube(
      guards,
      METAL,
      7,
      40,
      (t) => [0.1 * Math.sin(t * TAU), y, 0.1 * Math.cos(t * TAU)],
      (t) => [Math.sin(t * TAU), 0, Math.cos(t * TAU)],
      () => 0.0036,
    );
  const cap = m.part('Cap');
  m.lathe(cap, METAL, 48, [
    [0.06, 0.249],
    [0.095, 0.247],
    [0.117, 0.244],
  ]);
  m.lathe(cap, METAL, 48, [
    [0.117, 0.244],
    [0.123, 0.246],
    [0.125, 0.251],
    [0.122, 0.257],
    [0.11, 0.266],
    [0.09, 0.281],
    [0.07, 0.296],
    [0.055, 0.308],
    [0.047, 0.317],
    [0.044, 0.324],
  ]);
  const crown = m.part('Crown');
  m.lathe(crown, METAL, 32, [
    [0.044, 0.322],
    [0.047, 0.325],
    [0.047, 0.33],
    [0.043, 0.334],
  ]);
  m.lathe(crown, METAL, 32, [
    [0.043, 0.334],
    [0.036, 0.336],
    [0.035, 0.35],
    [0.037, 0.353],
  ]);
  m.lathe(crown, METAL, 32, [
    [0.037, 0.353],
    [0.044, 0.353],
    [0.045, 0.357],
    [0.038, 0.363],
    [0.025, 0.369],
    [0.013, 0.373],
    [0.011, 0.379],
    [0.0125, 0.384],
    [0.009, 0.39],
    [0.0005, 0.392],
  ]);
  const rope = m.part('Rope ring');
  m.tube(
    rope,
    METAL,
    12,
    72,
    (t) => [0.036 * Math.sin(t * TAU), 0.424 + 0.036 * Math.cos(t * TAU), 0],
    (t) => [Math.sin(t * TAU), Math.cos(t * TAU), 0],
    (t, a) => 0.0068 * (1 + 0.1 * Math.abs(Math.sin(1.5 * a + t * TAU * 12))),
  );
  const glass = m.part('Glass');
  m.lathe(glass, GLASS, 48, [
    [0.084, 0.055],
    [0.0855, 0.1],
    [0.086, 0.15],
    [0.0855, 0.2],
    [0.084, 0.248],
  ]);
  return m.build(14 / 2048);
}
