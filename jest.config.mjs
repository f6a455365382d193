const transform = {
  '^.+\\.m?[jt]sx?$': [
    '@swc/jest',
    {
      jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: true }, transform: { react: { runtime: 'automatic' } } },
      module: { type: 'commonjs' },
    },
  ],
};
const shared = {
  transform,
  // Packages that ship ES modules only.
  transformIgnorePatterns: [
    '/node_modules/(?!(three|three-mesh-bvh|fast-png|iobuffer|@gltf-transform|property-graph|ktx-parse|meshoptimizer|idb|culori)/)',
  ],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
};

export default {
  projects: [
    {
      ...shared,
      displayName: 'core',
      testEnvironment: 'node',
      testMatch: ['<rootDir>/{src,cli,demo}/**/*.test.ts'],
      globalSetup: '<rootDir>/cli/testing/postgresForTests.ts',
      globalTeardown: '<rootDir>/cli/testing/stopPostgres.ts',
    },
    { ...shared, displayName: 'ui', testEnvironment: 'jsdom', testMatch: ['<rootDir>/src/ui/**/*.test.tsx'] },
  ],
};
