/** Clone: lays down what is at another place, as it was when the stroke began. */
import type { PlaneMap } from '../../kinds/maps';
import type { ChoiceControl } from '../../kinds/control';
import { TILE } from '../../tile/tiles';
import { Elsewhere } from '../elsewhere';
import type { Imprint } from '../imprint';
import type { Looked } from '../looked';
import { layTaken, liesOver, lookAtSource, OF, Taken } from './taking';
import type { Dab, ToolContext, ToolDef } from './tool';

export const MOVES: ChoiceControl = {
  kind: 'choice',
  key: 'moves',
  label: 'Source',
  options: [
    { value: 'along', label: 'aligned' },
    { value: 'anew', label: 'each stroke' },
    { value: 'fixed', label: 'stays put' },
  ],
};

export const clone: ToolDef = {
  type: 'clone',
  needsPath: true,
  label: 'Clone',
  hint: 'Lays down what is at another place. Alt-click sets that place.',
  suitedBrush: 'shipped:hard-round',
  controls: [MOVES, OF],
  start: { moves: 'along', of: 'all' },
  needsSource: true,
  begin: (context) => {
    const taking = new Taking(context);
    return {
      dab: (imprint, dab) => taking.dab(imprint, dab),
      flush: (patch) => {
        const own = taking.maps.get(patch.map);
        if (own) layTaken(context, patch, own.taken.tile(patch.tile), liesOver(context, patch.map));
      },
    };
  },
};

/** Takes for each texel that dabs come to what is at the source then, once. */
export class Taking {
  readonly maps = new Map<PlaneMap, { looked: Looked; taken: Taken }>();
  /** For each image of the dabs its own: it lays the same source down, as it lies there. */
  private elsewhere = new Map<number, Elsewhere>();

  constructor(private context: ToolContext) {
    for (const map of context.maps) {
      const looked = lookAtSource(context, map);
      if (looked) this.maps.set(map, { looked, taken: new Taken(looked.channels) });
    }
  }

  dab(imprint: Imprint, dab: Dab): void {
    const { context } = this;
    if (!context.source) return;
    let from = this.elsewhere.get(dab.which);
    const { moves } = context.settings;
    if (!from) {
      const source = moves === 'along' ? context.source : { at: context.source.at };
      this.elsewhere.set(dab.which, (from = new Elsewhere(context, source, moves !== 'fixed')));
    }
    if (!from.goTo(dab)) return;
    const maps = [...this.maps.values()];
    if (maps.length === 0) return;
    // A picture ends at its border; what is beside it is not there.
    const { width, height } = maps[0].looked;
    const ends = context.source.picture !== undefined;
    for (const { index, values, x0, y0, x1, y1 } of imprint.tiles) {
      const tiles = maps.map(({ taken }) => taken.tile(index));
      for (let y = y0; y < y1; y++)
        for (let i = y * TILE + x0, end = y * TILE + x1; i < end; i++) {
          if (values[i] === 0 || tiles[0].done[i]) continue;
          let found = from.of(index, i);
          if (ends && (from.x < 0 || from.y < 0 || from.x > width || from.y > height)) found = false;
          for (let n = 0; n < maps.length; n++) {
            const { done, values: into } = tiles[n];
            done[i] = found ? 1 : 2;
            if (found) maps[n].looked.sample(from.x, from.y, read);
            const { channels } = maps[n].taken;
            if (found) for (let k = 0; k < channels; k++) into[i * channels + k] = read[k];
          }
        }
    }
  }
}
const read = new Float32Array(4);
