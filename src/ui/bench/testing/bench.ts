/** A bench without a page: its state, and an engine that only writes down what it is sent. */
import { newCoatLayer, newGroup, newMask, newPaintedLayer, newPiece, newSheet } from '@/core/document/factory';
import type { Layer, Sheet } from '@/core/document/schema';
import type { EngineClient } from '@/engine/client';
import type { PageRequest, Question } from '@/engine/protocol';
import { connect, currentSheet, useBench } from '../store';
import { fresh } from '../store/state';

export interface TestBench {
  sent: PageRequest[];
  asked: Question[];
  /** What the next questions are answered with; a function may throw. */
  answers: ((question: Question) => unknown)[];
  /** Kinds of requests, in order. */
  kinds(): string[];
  names(): string[];
  layer(name: string): Layer;
  notice(): string;
}

/** A ground, two painted layers of which one has a mask, and a group of two coats on top. */
export function testSheet(): Sheet {
  const sheet = newSheet('s', 'Sheet', 256, 256, { maps: ['base-colour', 'height', 'roughness', 'normal'] });
  const hand = newPaintedLayer('hand', 'Hand');
  sheet.layers = [
    newCoatLayer('ground', 'Ground', { 'base-colour': [0.5, 0.5, 0.5] }),
    hand,
    { ...newPaintedLayer('wear', 'Wear'), mask: { id: 'm', on: true } },
    { ...newCoatLayer('rust', 'Rust', { 'base-colour': [0.4, 0.2, 0.1] }), parent: 'group' },
    { ...newCoatLayer('soot', 'Soot', { 'base-colour': [0, 0, 0] }), parent: 'group' },
    newGroup('group', 'Weather', sheet.maps),
  ];
  sheet.masks = [newMask('m', 'Mask', 0)];
  return sheet;
}

export function openTestBench(...sheets: Sheet[]): TestBench {
  const all = sheets.length ? sheets : [testSheet()];
  const bench: TestBench = {
    sent: [],
    asked: [],
    answers: [],
    kinds: () => bench.sent.map((r) => r.type),
    names: () => currentSheet().layers.map((l) => l.name),
    layer: (name) => currentSheet().layers.find((l) => l.name === name)!,
    notice: () => useBench.getState().notice?.message ?? '',
  };
  const engine: Partial<EngineClient> = {
    send: (request) => void bench.sent.push(request),
    penUp: () => undefined,
    ask: ((question: Question) => {
      bench.asked.push(question);
      return Promise.resolve().then(() => bench.answers.shift()?.(question) ?? null);
    }) as EngineClient['ask'],
  };
  connect(engine as EngineClient);
  const [first] = all;
  const top = first.layers.at(-1)!.id;
  useBench.setState(
    {
      ...fresh(),
      phase: 'open',
      document: newPiece('p', 'P', 'canvas', all),
      sheetId: first.id,
      selected: Object.fromEntries(all.map((s) => [s.id, s.layers.at(-1)!.id])),
      chosen: [top],
    },
    true,
  );
  return bench;
}

/** The browser's store for tests in Node. `room`: characters that go into it. */
export function fakeStorage(room = Infinity): Map<string, string> {
  const map = new Map<string, string>();
  Object.assign(globalThis, {
    localStorage: {
      getItem: (key: string) => map.get(key) ?? null,
      setItem: (key: string, value: string) => {
        if (value.length > room) throw new DOMException('The quota has been exceeded.', 'QuotaExceededError');
        map.set(key, value);
      },
      removeItem: (key: string) => map.delete(key),
    },
  });
  return map;
}
