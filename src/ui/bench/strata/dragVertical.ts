import type { Modifier } from '@dnd-kit/core';

/** Rows move up and down only. */
export const restrictToVertical: Modifier = ({ transform }) => ({ ...transform, x: 0 });
