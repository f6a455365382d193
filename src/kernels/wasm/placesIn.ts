import type { Arena, Numbers } from '../arena';

/** Where arrays of an object lie, asked once an object; null: one of them lies outside. */
export function placesIn(arena: Arena): <T extends object>(of: T, arrays: (of: T) => readonly Numbers[]) => number[] | null {
  const known = new WeakMap<object, number[] | null>();
  return (of, arrays) => {
    let places = known.get(of);
    if (places === undefined) {
      const all = arrays(of).map((a) => arena.inPlace(a));
      known.set(of, (places = all.some((p) => p === null) ? null : (all as number[])));
    }
    return places;
  };
}
