/** Pointing in a pane at what a fence or a step is to hold: a part at once, faces by box or lasso. */
import { STEPS } from '@/core/kinds/steps';
import { pickingStep, setStep } from '../mask/steps';
import { box, lasso, type PanePoint } from '../pointer/area';
import type { Gesture, Pane } from '../pointer/pane';
import { placeOf } from '../pointer/pick';
import { bench, currentSheet, say, selectSheet, useBench } from '../store';
import { fenceOn } from './commands';

/** Only the part under the pointer; with Shift that one too, with Ctrl its island, with both its face. */
export function quickFence(pane: Pane, e: PointerEvent): null {
  const place = placeOf(pane, e);
  const { shiftKey, ctrlKey } = e;
  if (pane.isCanvas) return (say('A canvas has no parts: open the fence, and make it of what is painted.'), null);
  if (place)
    void bench()
      .ask({ ask: 'pick', sheetId: currentSheet().id, place })
      .then((hit) => {
        if (!hit?.on) return say('There is no surface under the pointer: click on the model or on an island.');
        if (hit.sheetId !== currentSheet().id) selectSheet(hit.sheetId);
        if (ctrlKey) fenceOn({ type: 'islands', ids: [hit.on.island] }, shiftKey, 'an island');
        else fenceOn({ type: 'parts', names: [hit.on.part] }, shiftKey, hit.on.part);
      })
      .catch((error: unknown) => say((error as Error).message));
  return null;
}

/** Faces under a box or a lasso go into the step that is picking; with Alt they are taken out of it. */
export function pickFaces(pane: Pane, start: PointerEvent): Gesture {
  const { pickBy } = useBench.getState();
  const take = (points: PanePoint[], e: PointerEvent) =>
    void within(pane, points, e.altKey).catch((error: unknown) => say((error as Error).message));
  return pickBy === 'box' ? box(pane, start, take) : lasso(pane, start, take);
}

async function within(pane: Pane, points: readonly PanePoint[], out: boolean): Promise<void> {
  const { viewport, name } = pane;
  const sheet = currentSheet();
  const view = name === 'model' ? viewport.view : null;
  const there = view ? [...points] : points.map((p) => viewport.flatCamera.texelAt(p.x, p.y));
  const faces = await bench().ask({ ask: 'faces', sheetId: sheet.id, of: { within: there, view } });
  if (faces.length === 0) return say('No face of this sheet lies in there with its middle: draw around more.');
  const found = pickingStep();
  const taken = found && STEPS[found.step.source.type].pick?.takeFaces?.(found.step.source, faces, out);
  if (taken) setStep(found.mask, found.step.id, { source: taken.step }, taken.label);
}
