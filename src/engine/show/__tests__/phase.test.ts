/** The phases of an open piece: each way through an opening ends where everything is rendered, and no source serves what it lacks. */
import { after, isWaiting, lacksTexels, SOURCES, type Phase, type PhaseEvent } from '../phase';

const through = (...events: PhaseEvent[]): Phase[] => {
  const phases: Phase[] = ['closed'];
  for (const event of events) phases.push(after(phases.at(-1)!, event));
  return phases.slice(1);
};

test('a first visit renders everything, then follows changes', () => {
  expect(through('texels', 'exact', 'exact')).toEqual(['filling', 'live', 'live']);
});

test('a later visit shows what is cached until the texels are here', () => {
  expect(through('document', 'exact', 'texels', 'exact')).toEqual(['cached', 'cached', 'filling', 'live']);
});

test('rendered tiles from the server may arrive before or after the texels, or belong to an older document', () => {
  expect(through('document', 'fetch', 'texels', 'fetched', 'exact')).toEqual([
    'cached',
    'cached-fetching',
    'fetching',
    'filling',
    'live',
  ]);
  expect(through('document', 'fetch', 'fetched', 'texels')).toEqual(['cached', 'cached-fetching', 'cached', 'filling']);
});

test('events that make no sense in a phase change nothing', () => {
  expect(through('exact', 'fetched', 'fetch')).toEqual(['closed', 'closed', 'closed']);
  expect(through('texels', 'exact', 'fetch', 'document', 'texels')).toEqual(['filling', 'live', 'live', 'live', 'live']);
});

test('without texels only cached tiles are shown; while tiles are fetched none are rendered for nothing', () => {
  const phases = Object.keys(SOURCES) as Phase[];
  for (const phase of phases) {
    if (lacksTexels(phase)) expect(SOURCES[phase]).toEqual(['cached']);
    if (isWaiting(phase))
      for (const source of ['here', 'coarse', 'helpers'] as const) expect(SOURCES[phase]).not.toContain(source);
    else if (phase !== 'closed') expect(SOURCES[phase].at(-1)).toBe('here');
    if (SOURCES[phase].length > 1) expect(SOURCES[phase][0]).toBe('strokes');
  }
});
