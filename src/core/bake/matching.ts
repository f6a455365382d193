/** Which parts of a twin belong to which of a model. */
import type { TwinUse } from '../kinds/bakes/spec';
import type { Matching } from './project';

/** Names as they are compared: without case, and without what tells a dense or a light one. */
const plain = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[\s._-]+/g, '_')
    .replace(/_(high|hi|hp|dense|twin|low|lo|lp|light)(?=_|$)/g, '')
    .replace(/^_+|_+$/g, '');

/** By names: a part of the twin belongs to the part of the model with the longest name that its own begins with. */
export function matchingOf(use: Pick<TwinUse, 'match' | 'pairs'>, low: readonly string[], twin: readonly string[]): Matching {
  if (use.match === 'whole') return null;
  const lists = low.map((): number[] => []);
  if (use.match === 'pairs') {
    for (const [a, b] of use.pairs) {
      const [i, j] = [low.indexOf(a), twin.indexOf(b)];
      if (i >= 0 && j >= 0) lists[i].push(j);
    }
    return lists;
  }
  const names = low.map(plain);
  twin.forEach((name, j) => {
    const n = plain(name);
    let best = -1;
    names.forEach((own, i) => {
      const begins = n === own || n.startsWith(`${own}_`);
      if (begins && (best < 0 || own.length > names[best].length)) best = i;
    });
    if (best >= 0) lists[best].push(j);
  });
  return lists;
}

/** Parts of the model that nothing of the twin belongs to. */
export const unmatched = (matching: Matching, low: readonly string[]): string[] =>
  matching ? low.filter((_, i) => matching[i]?.length === 0) : [];
