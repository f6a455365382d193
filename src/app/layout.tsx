import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import { Shell } from '@/ui/Shell';
import './globals.css';

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
