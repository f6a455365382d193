import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import { Shell } from '@/ui/Shell';
import './globals.css';

/** Each page is made anew for each visit: its scripts carry a nonce of their own (server/door.ts). */
export const dynamic = 'force-dynamic';

export const metadata: Metadata = {
  title: 'Brindle',
  description: 'Paint base colour, detail and mask maps on models and tileable canvases.',
};

export default function RootLayout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Shell>{children}</Shell>
      </body>
    </html>
  );
}
