/**
 * How far an open piece is, as far as showing it goes: which sources of rendered tiles can serve, and what leads from one phase to the
 * next. These two tables are the only place that says so.
 */
export type Phase =
  /** Nothing is open. */
  | 'closed'
  /** The texels of the piece are not here yet: only rendered tiles that this browser has cached are shown. */
  | 'cached'
  /** The same, while rendered tiles are being fetched from the server. */
  | 'cached-fetching'
  /** Texels are here, rendered tiles are still being fetched: only what nobody else can have rendered is rendered here. */
  | 'fetching'
  /** Everything is rendered, for the first time. */
  | 'filling'
  /** Everything has been shown exactly at least once; what changes is rendered. */
  | 'live';

export type PhaseEvent =
  /** The document is here, its texels are not. */
  | 'document'
  /** Document and texels are here. */
  | 'texels'
  /** Rendered tiles are being fetched from the server. */
  | 'fetch'
  /** All of them have arrived, no more will, or the document is no longer the one they belong to. */
  | 'fetched'
  /** Nothing is left to render. */
  | 'exact';

/** An event that is not listed for a phase leaves it as it is. */
const NEXT: Record<Phase, Partial<Record<PhaseEvent, Phase>>> = {
  closed: { document: 'cached', texels: 'filling' },
  cached: { fetch: 'cached-fetching', texels: 'filling' },
  'cached-fetching': { fetched: 'cached', texels: 'fetching' },
  fetching: { fetched: 'filling' },
  filling: { exact: 'live' },
  live: {},
};

export const after = (phase: Phase, event: PhaseEvent): Phase => NEXT[phase][event] ?? phase;

export type SourceId = 'strokes' | 'helpers' | 'cached' | 'coarse' | 'looked' | 'here';

/** Asked in this order; a slice of work ends with the first source that takes any jobs, or has something to show. */
export const SOURCES: Record<Phase, readonly SourceId[]> = {
  closed: [],
  cached: ['cached'],
  'cached-fetching': ['cached'],
  fetching: ['strokes', 'cached', 'looked'],
  filling: ['strokes', 'cached', 'helpers', 'coarse', 'here'],
  live: ['strokes', 'cached', 'helpers', 'coarse', 'here'],
};

/** Texels or rendered tiles are being fetched: what no source has yet is waited for, not rendered. */
export const isWaiting = (phase: Phase): boolean => phase === 'cached' || phase === 'cached-fetching' || phase === 'fetching';

/** Texels are not here yet. */
export const lacksTexels = (phase: Phase): boolean => phase === 'cached' || phase === 'cached-fetching';
