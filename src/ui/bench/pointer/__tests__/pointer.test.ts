/** What the pointer does in a pane: strokes, or one sentence why not; turning, sliding, zooming, picking. */
import { newSheet, newPaintedLayer } from '@/core/document/factory';
import type { BenchViewport } from '@/viewport/benchViewport';
import { FlatCamera } from '@/viewport/flatCamera';
import { ModelCamera } from '@/viewport/modelCamera';
import { orbit, pan, turnLight, zoom } from '../camera';
import { isEraser, paint } from '../paint';
import type { Pane } from '../pane';
import { pick } from '../pick';
import { usePointed } from '../pointed';
import { sampleOf, samplesOf } from '../samples';
import { chooseLayers, useBench } from '../../store';
import { fakeStorage, openTestBench, testSheet, type TestBench } from '../../testing/bench';

let bench: TestBench;
let pane: Pane;
let hit: { sheetId: string; part: string; point: number[] } | null;

beforeEach(() => {
  fakeStorage();
  bench = openTestBench();
  chooseLayers(['hand']);
  hit = null;
  const flatCamera = new FlatCamera();
  flatCamera.resize(500, 400);
  flatCamera.oneToOne();
  const viewport = {
    flatCamera,
    modelCamera: new ModelCamera(),
    invalidate: jest.fn(),
    hitAt: () => hit,
    rayAt: (x: number, y: number) => ({ origin: [x, y, 5], direction: [0, 0, -1], pixelSpread: 0.001 }),
    planeTexelAt: () => null,
    flatVisible: () => null,
  } as unknown as BenchViewport;
  const box = { getBoundingClientRect: () => ({ left: 100, top: 50 }), clientHeight: 400 } as unknown as HTMLElement;
  pane = { name: 'flat', box, viewport, isCanvas: false };
});

const event = (over: Partial<PointerEvent> = {}): PointerEvent =>
  ({
    ...{ clientX: 350, clientY: 250, pressure: 0.5, tiltX: 0, tiltY: 0, timeStamp: 1, buttons: 1, button: 0 },
    ...{ pointerType: 'mouse', shiftKey: false, getCoalescedEvents: () => [] },
    ...over,
  }) as PointerEvent;

describe('samples', () => {
  test('a mouse presses fully, a pen as it is pressed; coalesced events are all there', () => {
    expect(sampleOf(event(), pane)).toMatchObject({ pane: 'flat', x: 0, y: 0, pressure: 1, texelsPerPixel: 1 });
    const pen = event({ pointerType: 'pen', pressure: 0.3, tiltX: 20 });
    expect(sampleOf(pen, pane)).toMatchObject({ pressure: 0.3, tiltX: 20 });
    const three = [1, 2, 3].map((n) => event({ clientX: 350 + n, timeStamp: n }));
    const samples = samplesOf(event({ getCoalescedEvents: () => three }), pane);
    expect(samples.map((s) => (s.pane === 'flat' ? s.x : null))).toEqual([1, 2, 3]);
  });

  test('in the model pane it is a ray; on a canvas a texel of the plane, beside it nothing', () => {
    expect(sampleOf(event(), { ...pane, name: 'model' })).toMatchObject({ pane: 'model', origin: [250, 200, 5] });
    expect(sampleOf(event(), { ...pane, name: 'model', isCanvas: true })).toBeNull();
  });
});

describe('painting', () => {
  const types = () => bench.sent.map((r) => r.type);

  test('from down to up: one stroke on the layer at work, with the brush in hand', () => {
    const gesture = paint(pane, event())!;
    gesture.move(event({ clientX: 360, timeStamp: 2 }));
    gesture.up!(event({ clientX: 365, timeStamp: 3 }));
    expect(types()).toEqual(['stroke-begin', 'stroke-add', 'stroke-end']);
    expect(bench.sent[0]).toMatchObject({ sheetId: 's', layerId: 'hand', samples: [{ x: 0 }] });
    expect(bench.sent[2]).toMatchObject({ samples: [{ x: 15 }] });
    expect(useBench.getState().recent).toEqual(['#b5502f']);
  });

  test('a lifted pen has no pressure: the stroke ends where the last move was', () => {
    const gesture = paint(pane, event({ pointerType: 'pen' }))!;
    gesture.up!(event({ pointerType: 'pen', pressure: 0 }));
    expect(bench.sent.at(-1)).toMatchObject({ type: 'stroke-end', samples: [] });
  });

  test('Escape takes it back', () => {
    paint(pane, event())!.cancel!();
    expect(types()).toEqual(['stroke-begin', 'stroke-cancel']);
  });

  test('with Shift a straight line from where the last one ended, at once and not smoothed', () => {
    const gesture = paint(pane, event())!;
    gesture.up!(event({ clientX: 380 }));
    bench.sent.length = 0;
    expect(paint(pane, event({ clientX: 450, shiftKey: true }))).toBeNull();
    expect(bench.sent).toMatchObject([
      { type: 'stroke-begin', brush: { smoothing: 0 }, samples: [{ x: 30 }] },
      { type: 'stroke-end', samples: [{ x: 100 }] },
    ]);
    // Not from the flat sheet to the model.
    expect(paint({ ...pane, name: 'model' }, event({ shiftKey: true }))).not.toBeNull();
  });

  test('the eraser end of a pen erases, whatever tool is in hand', () => {
    const eraser = event({ pointerType: 'pen', button: 5, buttons: 32 });
    expect([isEraser(eraser), isEraser(event({ buttons: 32 }))]).toEqual([true, false]);
    paint(pane, eraser);
    expect(bench.sent[0]).toMatchObject({ brush: { mode: 'erase' } });
  });

  test('what cannot be painted on says why, and nothing is sent', () => {
    const change = (over: object) =>
      useBench.setState((s) => ({
        document: {
          ...s.document!,
          sheets: s.document!.sheets.map((x) => ({
            ...x,
            layers: x.layers.map((l) => (l.id === 'hand' ? { ...l, ...over } : l)),
          })),
        },
      }));
    const says = (what: RegExp) => {
      expect(paint(pane, event())).toBeNull();
      expect(bench.notice()).toMatch(what);
    };
    change({ lock: 'paint' });
    says(/"Hand" is locked: unlock it/);
    change({ lock: 'none', visible: false });
    says(/"Hand" is hidden: show it/);
    change({ visible: true, cells: { 'base-colour': { on: false } } });
    says(/"Hand" has .*base colour.* switched off: switch the cell on/);
    useBench.setState({ writes: {} });
    says(/The brush writes no map/);
    chooseLayers(['ground']);
    says(/"Ground" is a coat, which is not painted by hand/);
    useBench.setState({ selected: {} });
    says(/There is no layer to paint on/);
    expect(bench.sent).toEqual([]);
  });

  test('on a mask it goes to the mask’s painted step, and the cells do not matter', () => {
    chooseLayers(['wear']);
    useBench.setState({ target: 'mask', writes: {} });
    const painted = useBench.getState().document!.sheets[0].masks[0].steps.find((s) => s.source.type === 'paint')!;
    expect(paint(pane, event())).not.toBeNull();
    expect(bench.sent[0]).toMatchObject({ layerId: painted.id, brush: { writes: { mask: { on: true } } } });
    useBench.setState((s) => ({
      document: {
        ...s.document!,
        sheets: s.document!.sheets.map((x) => ({ ...x, masks: x.masks.map((m) => ({ ...m, steps: [] })) })),
      },
    }));
    expect(paint(pane, event())).toBeNull();
    expect(bench.notice()).toMatch(/has no painted step/);
  });

  test('on a part of another sheet that sheet is taken up first', () => {
    const other = newSheet('t', 'Glass', 64, 64);
    other.layers = [newPaintedLayer('g', 'Hand on glass')];
    bench = openTestBench(testSheet(), other);
    hit = { sheetId: 't', part: 'Pane', point: [0, 0, 0] };
    expect(paint({ ...pane, name: 'model' }, event())).toBeNull();
    expect(useBench.getState().sheetId).toBe('t');
    expect(bench.notice()).toBe('Now on the sheet "Glass", to which "Pane" belongs.');
    expect(bench.kinds()).toEqual(['focus']);
    expect(paint({ ...pane, name: 'model' }, event())).not.toBeNull();
  });
});

describe('the eye and the light', () => {
  test('dragging slides the sheet by as many pixels, and turns the model', () => {
    const { flatCamera, modelCamera } = pane.viewport;
    const slide = pan(pane, event());
    slide.move(event({ clientX: 380, clientY: 230 }));
    slide.move(event({ clientX: 390, clientY: 230 }));
    expect([flatCamera.centreX, flatCamera.centreY]).toEqual([-40, 20]);
    const before = modelCamera.camera.position.clone();
    const turn = orbit({ ...pane, name: 'model' }, event());
    expect([slide.hidesRing, turn.hidesRing]).toEqual([true, true]);
    turn.move(event({ clientX: 390 }));
    expect(modelCamera.camera.position.distanceTo(before)).toBeGreaterThan(0.1);
    expect(pane.viewport.invalidate).toHaveBeenCalledTimes(3);
  });

  test('the light goes round and round', () => {
    const turn = turnLight(event());
    turn.move(event({ clientX: 350 - 20 }));
    expect(useBench.getState().light).toBe(350);
    turn.move(event({ clientX: 350 + 20 }));
    expect(useBench.getState().light).toBe(10);
  });

  test('the wheel zooms about the pointer, a wild one no further than a notch of sixty', () => {
    const { flatCamera } = pane.viewport;
    const at = flatCamera.texelAt(20, 30);
    zoom(pane, { deltaY: -60, clientX: 120, clientY: 80 } as WheelEvent);
    const once = flatCamera.zoom;
    expect(once).toBeCloseTo(Math.exp(0.168), 6);
    expect(flatCamera.texelAt(20, 30)).toEqual({ x: expect.closeTo(at.x, 6) as number, y: expect.closeTo(at.y, 6) as number });
    zoom(pane, { deltaY: -6000, clientX: 120, clientY: 80 } as WheelEvent);
    expect(flatCamera.zoom).toBeCloseTo(once * once, 6);
  });
});

describe('picking', () => {
  const picked = (values: object) => () => ({ sheetId: 's', x: 12, y: 34, values, on: null });
  const settle = () => new Promise((resolve) => setTimeout(resolve, 0));

  test('lit, the colour goes into the well, and all values into words; the tool is put away', async () => {
    useBench.setState({ tool: 'pick' });
    bench.answers.push(picked({ 'base-colour': [1, 0, 0], roughness: [0.25], normal: [0, 0, 1] }));
    const gesture = pick(pane, event());
    await settle();
    expect(useBench.getState().wells[0]).toBe('#ff0000');
    expect(usePointed.getState().picked).toBe('#ff0000 · roughness 25 % at 12, 34');
    gesture.up!(event());
    expect(useBench.getState().tool).toBe('paint');
  });

  test('on a map of values the value goes into what the brush writes', async () => {
    useBench.setState({ view: 'height' });
    bench.answers.push(picked({ height: [0.75] }));
    pick(pane, event());
    await settle();
    expect(useBench.getState().writes.height!.value).toBe(0.75);
  });

  test('where nothing is, and where the engine is gone: a sentence', async () => {
    bench.answers.push(() => null);
    pick(pane, event());
    await settle();
    expect(bench.notice()).toMatch(/nothing painted under the pointer/);
    bench.answers.push(() => {
      throw new Error('The painting engine stopped (x): reload the page.');
    });
    pick(pane, event());
    await settle();
    expect(bench.notice()).toMatch(/The painting engine stopped/);
  });
});
