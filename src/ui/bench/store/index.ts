/** The bench in the page: its state, what is at work, and what can be done to it. */
export * from './state';
export * from './current';
export * from './selection';
export * from './link';
export * from './viewing';
export * from './hand';
export * from './rack';
export * from './open';
