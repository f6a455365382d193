import type { NextConfig } from 'next';

const isolation = [
  // Shared memory between the page and its workers needs an isolated page.
  { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
  { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
  { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
  { key: 'X-Content-Type-Options', value: 'nosniff' },
];

const config: NextConfig = {
  headers: async () => [{ source: '/:path*', headers: isolation }],
  serverExternalPackages: ['pg', 'sharp'],
  // `./brindle test` checks the types of everything, once; building twice as long would gain nothing.
  typescript: { ignoreBuildErrors: true },
  poweredByHeader: false,
  devIndicators: false,
};

export default config;
