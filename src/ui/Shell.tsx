'use client';
/** What every page stands in: tooltips, notices, and the scheme (plaster or slate). */
import { Tooltip } from 'radix-ui';
import { useEffect, type ReactNode } from 'react';
import { Toaster } from 'sonner';
import { applyScheme, storedScheme } from './common/scheme';

export function Shell({ children }: { children: ReactNode }) {
  useEffect(() => applyScheme(storedScheme()), []);
  return (
    <Tooltip.Provider delayDuration={450} skipDelayDuration={200}>
      {children}
      <Toaster
        position="bottom-left"
        // On the bench over some rows of the strata: neither over the work, nor over the hand, nor over the buttons below the rows.
        offset={{ bottom: 44, left: 10 }}
        toastOptions={{
          style: {
            width: 322,
            background: 'var(--raised)',
            color: 'var(--ink)',
            border: '1px solid var(--line)',
            fontFamily: 'var(--font-sans)',
            fontSize: 13,
          },
        }}
      />
    </Tooltip.Provider>
  );
}
