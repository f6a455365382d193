import { Redraw } from '../redraw';

/** A card that takes `took` ms a frame, and a page that calls every 10 ms. */
function machine(took: number) {
  let now = 0;
  let callback: (() => void) | null = null;
  const drawn: { at: number; panes: string }[] = [];
  const gl = {
    SYNC_GPU_COMMANDS_COMPLETE: 1,
    TIMEOUT_EXPIRED: 2,
    fenceSync: () => ({ until: now + took }) as unknown as WebGLSync,
    flush: () => undefined,
    clientWaitSync: (sync: WebGLSync) => (now >= (sync as unknown as { until: number }).until ? 3 : 2),
    deleteSync: () => undefined,
  };
  const redraw = new Redraw(gl, (panes) => drawn.push({ at: now, panes: [...panes].sort().join() }), {
    request: (run) => ((callback = run), 1),
    cancel: () => (callback = null),
    now: () => now,
  });
  redraw.release();
  const run = (ms: number, each: () => void = () => undefined) => {
    for (const end = now + ms; now < end; now += 10) {
      each();
      const turn = callback;
      callback = null;
      turn?.();
    }
  };
  return { redraw, drawn, run, idle: () => callback === null };
}

describe('when panes are drawn', () => {
  test('nothing is drawn where nothing changed, and no frame is asked for then', () => {
    const { drawn, run, idle, redraw } = machine(30);
    run(200);
    expect(drawn).toEqual([]);
    redraw.ask('flat');
    run(200);
    expect(drawn).toEqual([{ at: 200, panes: 'flat' }]);
    expect(idle()).toBe(true);
  });

  test('a frame begins when the card is through with the one before, however often it is asked for', () => {
    const { drawn, run, redraw } = machine(95);
    run(1000, () => redraw.ask('model'));
    expect(drawn.length).toBe(10);
    for (let i = 1; i < drawn.length; i++) expect(drawn[i].at - drawn[i - 1].at).toBe(100);
  });

  test('what nobody waits for takes a fifth of the time at most, and comes after a second and a half at the latest', () => {
    for (const took of [40, 100, 600]) {
      const { drawn, run, redraw } = machine(took);
      redraw.ask('model');
      run(2000);
      drawn.length = 0;
      run(20_000, () => redraw.ask('model', false));
      expect(drawn.length).toBeGreaterThan(5);
      for (let i = 1; i < drawn.length; i++) {
        const apart = drawn[i].at - drawn[i - 1].at;
        expect(apart).toBeGreaterThanOrEqual(Math.min(1500, 4 * took));
        expect(apart).toBeLessThanOrEqual(1500 + took + 20);
      }
    }
  });

  test('the pane under the pen is drawn each time, the other one along with it now and then', () => {
    const { drawn, run, redraw } = machine(45);
    run(2000, () => {
      redraw.ask('flat');
      redraw.ask('model', false);
    });
    const both = drawn.filter((d) => d.panes === 'flat,model').length;
    expect(drawn.every((d) => d.panes.includes('flat'))).toBe(true);
    expect(both).toBeGreaterThan(drawn.length / 8);
    expect(both).toBeLessThan(drawn.length / 3);
  });

  test('what nobody waited for is drawn with the next frame once it is hurried', () => {
    const { drawn, run, redraw } = machine(100);
    redraw.ask('model');
    run(300);
    drawn.length = 0;
    redraw.ask('model', false);
    run(100);
    expect(drawn).toEqual([]);
    redraw.hurry();
    run(30);
    expect(drawn.map((d) => d.panes)).toEqual(['model']);
    // Nothing more is drawn for it.
    redraw.hurry();
    run(2000);
    expect(drawn).toHaveLength(1);
  });

  test('before there is anything to be seen nothing is drawn; then what was asked for is', () => {
    const drawn: string[] = [];
    let callback: (() => void) | null = null;
    const gl = { SYNC_GPU_COMMANDS_COMPLETE: 1, TIMEOUT_EXPIRED: 2, fenceSync: () => null, flush: () => undefined, clientWaitSync: () => 3, deleteSync: () => undefined }; // prettier-ignore
    const redraw = new Redraw(gl as never, (panes) => drawn.push(panes.join()), {
      request: (run) => ((callback = run), 1),
      cancel: () => undefined,
      now: () => 50,
    });
    redraw.ask('model');
    expect([callback, redraw.begun]).toEqual([null, false]);
    redraw.release();
    redraw.ask('model');
    callback!();
    expect([drawn, redraw.begun]).toEqual([['model'], true]);
  });

  test('it is over when the page lets go of it', () => {
    const { drawn, run, redraw } = machine(10);
    redraw.ask('model');
    redraw.stop();
    run(100);
    expect(drawn).toEqual([]);
  });
});
