'use client';
/** What is in hand: the brush, what it writes, the colours. */
import { Brush } from './Brush';
import { Wells } from './Wells';
import { WritesPanel } from './Writes';

export function Hand() {
  return (
    <section aria-label="Hand" className="relative flex h-[148px] shrink-0 divide-x divide-line border-t border-line">
      <Brush />
      <WritesPanel />
      <Wells />
    </section>
  );
}
