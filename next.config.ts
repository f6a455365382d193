import type { NextConfig } from 'next';

// Headers of every answer are set at the door (src/server/door.ts).
const config: NextConfig = {
  serverExternalPackages: ['pg', 'sharp', 'graphile-worker'],
  // `./brindle test` checks the types of everything, once; building twice as long would gain nothing.
  typescript: { ignoreBuildErrors: true },
  // What was drawn by one build is not taken for another's (src/engine/cache/browserShelf.ts). Empty under development.
  env: { BRINDLE_BUILD: process.env.BRINDLE_BUILD ?? '' },
  poweredByHeader: false,
  devIndicators: false,
};

export default config;
