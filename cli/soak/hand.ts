/** A hand at the real page: strokes at a pen's pace, areas, edits, undo and redo. Tells what each should have done to the history. */
import type { Page } from '@playwright/test';
import type { Action, Step } from './expected';

type Random = () => number;

/** Keys of the tools, and of what lays a shape by a drag (ui/bench/keys/tools.ts, areas/laying.ts). */
const TOOLS = ['b', 'e', 'r', 'Shift+S', 's', 'a', 'Shift+A', 'd', 'Shift+D', 'w'] as const;
const PAINT = 'b';
const CLONE = 'd';
const AREAS = ['Shift+R', 'Shift+E', 'Shift+L', 'Shift+I'] as const;
/** A stroke that is interrupted may lose its last 100 ms. */
const UNDER_PEN_MS = 100;

/** An edit that adds so many layers. */
const edited = (layers: number): Action => ({ type: 'step', step: { kind: 'edit', label: null, layers } });

const wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));
export interface Done {
  actions: Action[];
}

export class Hand {
  constructor(
    private readonly page: Page,
    private readonly random: Random,
    /** The layer that it works on. */
    private readonly layer: string,
    private readonly pane: 'flat' | 'model',
  ) {}

  private between = (from: number, to: number) => from + (to - from) * this.random();
  private one = <T>(list: readonly T[]): T => list[Math.floor(this.random() * list.length)];

  private async press(key: string): Promise<void> {
    await this.page.keyboard.press(key);
  }

  /** Back to the layer, whatever was chosen last; strokes instead of areas. */
  private async ready(): Promise<void> {
    await this.page
      .getByRole('row', { name: new RegExp(`^${this.layer}, `) })
      .getByTestId('layer-name')
      .click();
  }

  /** `untilMs`: the pen stays down, and the stroke is broken off after so long. */
  async stroke(untilMs: number | null = null): Promise<Done> {
    await this.ready();
    const onMask = this.random() < 0.15;
    const actions: Action[] = onMask ? await this.maskedCopy() : [];
    const tool = onMask || this.random() < 0.5 ? PAINT : this.one(TOOLS);
    await this.press(tool);
    const box = (await this.page.getByTestId(`pane-${this.pane}`).boundingBox())!;
    const flat = this.pane === 'flat';
    const y = box.y + box.height / 2 + (flat ? box.width * 0.5 : box.height * 0.15) * (this.random() - 0.5);
    const x = flat ? box.x + box.width * 0.15 : box.x + box.width * 0.4;
    if (tool === CLONE) {
      await this.page.keyboard.down('Alt');
      await this.page.mouse.click(x + 30, y - 10);
      await this.page.keyboard.up('Alt');
    }
    const way = flat ? box.width * this.between(0.2, 0.65) : box.width * 0.15;
    const [rate, lasts] = [this.between(60, 240), this.between(200, 1200)];
    const moves = Math.max(4, Math.round((rate * lasts) / 1000));
    const sent: number[] = [];
    await this.page.mouse.move(x, y);
    await this.page.mouse.down();
    const begun = performance.now();
    const arrived: Promise<void>[] = [];
    let gone = 0;
    for (let n = 1; n <= moves; n++) {
      const due = (n / moves) * lasts;
      const early = due - (performance.now() - begun);
      if (early > 1) await wait(early);
      if (untilMs !== null && performance.now() - begun > untilMs) break;
      gone = n;
      const [px, py] = [x + (way * n) / moves, y + box.height * 0.03 * Math.sin((n / moves) * 5)];
      // Those that are still on their way when the browser is killed never arrive.
      const arrives = this.page.mouse.move(px, py).then(
        () => void (sent[n] = performance.now()),
        () => undefined,
      );
      arrived.push(arrives);
    }
    const step: Step = { kind: 'stroke', label: null, layers: 0, ...(flat && { way }) };
    if (untilMs !== null) {
      const heard = sent.findLastIndex((at) => at !== undefined && performance.now() - at > UNDER_PEN_MS);
      return { actions: [...actions, { type: 'step', step: { ...step, atLeast: Math.max(0, heard / moves) } }] };
    }
    await Promise.all(arrived);
    await this.page.mouse.up();
    return { actions: [...actions, { type: 'step', step: { ...step, atLeast: gone / moves } }] };
  }

  /** A copy of the layer with a mask of its own, which the next stroke paints. */
  private async maskedCopy(): Promise<Action[]> {
    await this.press('Control+d');
    await this.press('q');
    return [edited(1), edited(0)];
  }

  async penUp(): Promise<void> {
    await this.page.mouse.up();
  }

  async area(): Promise<Done> {
    await this.ready();
    await this.press(PAINT);
    const laying = this.one(AREAS);
    await this.press(laying);
    const box = (await this.page.getByTestId('pane-flat').boundingBox())!;
    const at = () =>
      [box.x + box.width * this.between(0.2, 0.8), box.y + box.height / 2 + box.width * this.between(-0.3, 0.3)] as const;
    const [from, to] = [at(), at()];
    await this.page.mouse.move(...from);
    await this.page.mouse.down();
    await this.page.mouse.move(from[0] + 40, from[1] + 25, { steps: 3 });
    await this.page.mouse.move(...to, { steps: 8 });
    await this.page.mouse.up();
    // Back to strokes: the same key again.
    await this.press(laying);
    return { actions: [{ type: 'step', step: { kind: 'area', label: null, layers: 0 } }] };
  }

  async edit(): Promise<Done> {
    await this.ready();
    const what = this.one(['duplicate', 'add', 'group', 'hide'] as const);
    if (what === 'hide') {
      await this.press('h');
      await this.press('h');
      return { actions: [edited(0), edited(0)] };
    }
    await this.press({ duplicate: 'Control+d', add: 'n', group: 'Control+g' }[what]);
    return { actions: [edited(1)] };
  }

  async undo(): Promise<Done> {
    await this.press('Control+z');
    return { actions: [{ type: 'undo' }] };
  }

  async redo(): Promise<Done> {
    await this.press('Control+Shift+z');
    return { actions: [{ type: 'redo' }] };
  }
}
