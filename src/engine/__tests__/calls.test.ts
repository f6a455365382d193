/** Calls to a worker that may go, and what happens often. */
import { Calls } from '../calls';
import { Signal } from '../signal';

describe('calls', () => {
  test('each is answered once, by its number, in any order', async () => {
    const calls = new Calls();
    const [a, b] = [calls.freshId(), calls.freshId()];
    expect(a).not.toBe(b);
    const sent: number[] = [];
    const [first, second] = [a, b].map((id) => calls.make<string>(id, () => void sent.push(id)));
    calls.answer(b, 'b');
    calls.answer(a, 'a');
    calls.answer(a, 'once more');
    calls.fail(b, 'too late');
    expect(await Promise.all([first, second])).toEqual(['a', 'b']);
    expect(sent).toEqual([a, b]);
  });

  test('one that fails, and one that cannot even be sent', async () => {
    const calls = new Calls();
    const failing = calls.make(1, () => undefined);
    calls.fail(1, 'No such layer.');
    await expect(failing).rejects.toThrow('No such layer.');
    const unsent = calls.make(2, () => {
      throw new Error('could not be cloned');
    });
    await expect(unsent).rejects.toThrow('could not be cloned');
    // Nobody waits for it any more.
    expect(() => calls.answer(2, 'x')).not.toThrow();
  });

  test('when the other side is gone all that wait fail, and so does what is asked later, without being sent', async () => {
    const calls = new Calls();
    const waiting = [1, 2].map((id) => calls.make(id, () => undefined));
    calls.end('The engine stopped.');
    calls.end('The piece was closed.');
    const send = jest.fn();
    for (const call of [...waiting, calls.make(3, send)]) await expect(call).rejects.toThrow('The engine stopped.');
    expect(send).not.toHaveBeenCalled();
  });
});

describe('a signal', () => {
  test('whoever listens is told, in order, until they stop', () => {
    const signal = new Signal<number>();
    const heard: string[] = [];
    const stop = signal.listen((n) => heard.push(`a${n}`));
    signal.listen((n) => heard.push(`b${n}`));
    signal.tell(1);
    stop();
    stop();
    signal.tell(2);
    expect(heard).toEqual(['a1', 'b1', 'b2']);
  });

  test('who stops listening, or begins, while it is told disturbs nobody', () => {
    const signal = new Signal();
    const heard: string[] = [];
    const stop = signal.listen(() => {
      heard.push('first');
      stop();
      signal.listen(() => heard.push('new'));
    });
    signal.listen(() => heard.push('second'));
    signal.tell();
    expect(heard).toEqual(['first', 'second']);
    signal.tell();
    expect(heard).toEqual(['first', 'second', 'second', 'new']);
  });
});
